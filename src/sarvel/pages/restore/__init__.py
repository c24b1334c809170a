"""Woven markup: found in a page, checked by its marks, and taken back."""
