"""Addresses of files of pictures: in a folder, sealed for a server that makes them when asked, or of a service elsewhere."""
