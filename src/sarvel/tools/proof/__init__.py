"""Sheets of every master with its crops, to be looked at."""
