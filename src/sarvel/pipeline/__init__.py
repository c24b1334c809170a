"""The pipeline of a plan: read, compose, find missing files, make, settle, weave, check."""
