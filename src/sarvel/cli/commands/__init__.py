"""One module for each command: what it is called with, which work it calls, and what it prints."""
