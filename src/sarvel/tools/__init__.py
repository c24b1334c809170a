"""What looks at a site around a build: a folder or a file for each command."""
