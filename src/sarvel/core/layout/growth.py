"""Growth of files with their width, by format and kind of picture: b(w) = w^g at one likeness.

Measured by bench/bytes_by_width.py on photographs of nature, things, places and people and on drawings, none of them the
project's own: medians; docs/press.md has the table. Never taken from a site's own files, or a second build would choose
other widths than the first.
"""

from __future__ import annotations

GROWTH = 1.7
"""The exponent where the format is not known."""

# By format: g, and the bits a pixel at 800 px across. JPEG XL was not measured, and counts as AVIF where it is lossy and as WebP
# where it is lossless; PNG of photographs is of one picture, JPEG of drawings as for photographs.
_PHOTOGRAPHS = {
    "avif": (1.79, 0.67),
    "webp": (1.8, 0.94),
    "jpeg": (1.72, 0.94),
    "jxl": (1.79, 0.67),
    "png": (1.75, 8.9),
}
_DRAWN = {"avif": (0.73, 0.06), "webp": (1.16, 0.43), "png": (1.25, 0.58), "jxl": (1.16, 0.43), "jpeg": (1.72, 0.94)}
_UNKNOWN = (GROWTH, 0.5)


def growth_of(format_: str, *, drawn: bool) -> float:
    """The exponent g of b(w) = w^g.

    Args:
        drawn: whether the picture is flat graphics.
    """
    return _measured(format_, drawn=drawn)[0]


def bits_of(format_: str, *, drawn: bool) -> float:
    """The bits that a pixel takes of a file 800 px across, as growth_of."""
    return _measured(format_, drawn=drawn)[1]


def _measured(format_: str, *, drawn: bool) -> tuple[float, float]:
    return (_DRAWN if drawn else _PHOTOGRAPHS).get(format_, _UNKNOWN)
