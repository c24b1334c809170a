"""Markup written into pages, and what is written beside them."""
