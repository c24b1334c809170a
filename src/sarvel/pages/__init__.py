"""Pages: finding them, the images that they ask for, and writing the markup into them."""
