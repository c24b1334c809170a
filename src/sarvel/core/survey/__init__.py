"""What the images of a site are used for, what they weigh, and what they would weigh if they fitted."""
