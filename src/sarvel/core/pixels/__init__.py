"""Pixels: light, and resampling in it. Arrays of NumPy in and out."""
