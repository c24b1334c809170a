"""A plan applied to a folder: what is there, what is to do, and doing it. Called by commands; prints nothing."""
