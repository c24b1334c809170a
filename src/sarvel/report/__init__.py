"""Reports: pictures and documents for people and other programs."""
