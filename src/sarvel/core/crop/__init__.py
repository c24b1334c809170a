"""Where a cut lies in its master."""
