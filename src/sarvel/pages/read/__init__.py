"""Pages in their present state: finding them, their bytes, and the images that they ask for."""
