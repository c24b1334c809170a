"""Image markup for pictures of the Edition: picture and img elements, preload links, background rules."""
