"""Crops: boxes, and their place in a master."""
