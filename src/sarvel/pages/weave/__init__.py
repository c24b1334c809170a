"""Markup written into pages, and side files."""
