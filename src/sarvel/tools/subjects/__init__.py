"""Subjects of masters: their sources, and a page on which a person decides."""
