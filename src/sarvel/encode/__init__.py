"""A master's pixels: read, resized, encoded, compared. One file for each operation."""
