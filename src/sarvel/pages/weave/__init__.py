"""Markup written into pages, and what is written next to them."""
