"""The first plan of a site."""
