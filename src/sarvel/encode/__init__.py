"""A master's pixels: read, resized, encoded, compared. One file each for what is done to them."""
