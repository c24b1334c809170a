"""The plan file: its shape, reading it, and reporting its faults."""
