"""Styles of what terminals show: colors that are read on a light ground and on a dark one."""

from __future__ import annotations

# Each has a contrast of at least 4 to 1 to white and to black (WCAG 2.2). The sixteen colors of terminals have not:
# their yellow and green vanish on white. A terminal that knows no others gets the nearest of those.
GOOD = "#008700"
"""What is as it should be, and what is added."""

WARNING = "#af5f00"
"""What may be better."""

BAD = "bold #e60000"
"""What is wrong."""

TAKEN = "#e60000"
"""What is taken away."""

MARK = "#0082a8"
"""What is only marked: hints, places in a diff."""
