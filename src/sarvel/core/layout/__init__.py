"""Layout: shown widths, audiences, bands and ladders."""
