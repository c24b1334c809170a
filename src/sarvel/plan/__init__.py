"""The plan file: its shape, reading it, and saying what is wrong in it."""
