"""Growth of files with their width, by format and kind of picture: b(w) = w^g at one likeness.

Measured by bench/bytes_by_width.py on photographs of nature, things, places and people and on drawings, none of them the
project's own: medians; docs/press.md has the table. Never taken from a site's own files, or a second build would choose
other widths than the first.
"""

from __future__ import annotations

GROWTH = 1.7
"""The exponent where the format is not known."""

# By format: g, and the bits a pixel at 800 px across. JPEG XL was not measured, and counts as AVIF.
_PHOTOGRAPHS = {
    "avif": (1.48, 0.22),
    "webp": (1.66, 0.36),
    "jpeg": (1.53, 0.48),
    "jxl": (1.48, 0.22),
    "png": (1.85, 12.0),
}
_DRAWN = {"avif": (1.0, 0.3), "webp": (1.3, 0.6), "png": (1.35, 0.8), "jpeg": (1.3, 1.0), "jxl": (1.3, 0.6)}
_UNKNOWN = (GROWTH, 0.5)


def growth_of(format_: str, *, drawn: bool) -> float:
    """The exponent g of b(w) = w^g.

    Args:
        format_: the format's name.
        drawn: whether the picture is flat graphics.
    """
    return _measured(format_, drawn=drawn)[0]


def bits_of(format_: str, *, drawn: bool) -> float:
    """The bits that a pixel takes of a file 800 px across, as growth_of."""
    return _measured(format_, drawn=drawn)[1]


def _measured(format_: str, *, drawn: bool) -> tuple[float, float]:
    return (_DRAWN if drawn else _PHOTOGRAPHS).get(format_, _UNKNOWN)
