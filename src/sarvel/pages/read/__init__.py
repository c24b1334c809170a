"""Pages as they are: which there are, their bytes, and the images that they ask for."""
