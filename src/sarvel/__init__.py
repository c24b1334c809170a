"""Sarvel: from a site's master images to the right file on every device.

Importing this package loads nothing heavy; the commands load what they use.
"""

__version__ = "0.1.0"
