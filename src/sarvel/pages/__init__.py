"""Pages: which there are, what they ask for, and putting the markup into them."""
