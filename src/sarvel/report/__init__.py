"""What Sarvel draws for people to look at."""
