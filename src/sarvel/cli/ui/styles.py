"""Styles of what terminals show: colors that are read on a light ground and on a dark one."""

from __future__ import annotations

# Each has a contrast of at least 4 to 1 to white and to black (WCAG 2.2). The sixteen colors of terminals have not:
# their yellow and green vanish on white. A terminal that knows no others gets the nearest of those.
GOOD = "#009200"
"""Right, or added."""

WARNING = "#bd6600"
"""Could be better."""

BAD = "bold #f20000"
"""Wrong."""

TAKEN = "#f20000"
"""Removed."""

MARK = "#0088b0"
"""Highlighted only: hints, places in a diff."""
