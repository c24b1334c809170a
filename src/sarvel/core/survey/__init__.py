"""Surveys: uses of images on a site, groups of them, and their bytes if they fitted."""
