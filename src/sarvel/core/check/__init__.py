"""Checks: rules for the image markup of any page, and where they are broken."""
