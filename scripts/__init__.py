"""What is run on the project itself: its documentation, its packages, its pictures."""
