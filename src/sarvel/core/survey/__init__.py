"""Surveys: uses of images on a site, groups of them, and what they would weigh if they fitted."""
