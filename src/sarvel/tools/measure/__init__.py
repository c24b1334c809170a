"""How wide a real browser shows the images of each slot."""
