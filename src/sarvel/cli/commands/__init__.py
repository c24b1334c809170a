"""One module for each command: its call, its work, its output."""
