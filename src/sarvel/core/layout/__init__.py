"""How wide a slot shows its image, on which devices, and the pixel widths that follow."""
