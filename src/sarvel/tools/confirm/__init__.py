"""Pages in a real browser, before and after weaving."""
