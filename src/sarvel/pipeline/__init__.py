"""The way of a plan: read, compose, see what is missing, make, settle, weave, check."""
