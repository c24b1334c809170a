"""Values that several rules read: dimensions, lengths, types."""

from __future__ import annotations

import functools
import re

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length, LengthError, parse_length
from sarvel.core.html.document import value_of
from sarvel.core.html.tags import Tag

# HTML, section 2.3.4.4 "Dimension values": what follows the digits is passed over, but for a percent sign.
_DIMENSION = re.compile(r"\s*(\d{1,9})(?![\d.]*%)")
_AUTO = re.compile(r"\s*auto\s*(?:,|$)", re.IGNORECASE)


def dimension(tag: Tag, name: str) -> int:
    """A dimension attribute, CSS px; 0 where it says nothing of the kind."""
    found = _DIMENSION.match(value_of(tag, name) or "")
    return int(found.group(1)) if found else 0


def css_px(css: str, device: Device) -> float | None:
    """A length on a device, CSS px; None if it depends on more than the viewport, or is not one."""
    length = _length(css)
    return length.on(device) if length else None


@functools.lru_cache(maxsize=1024)
def _length(css: str) -> Length | None:
    try:
        return parse_length(css)
    except LengthError:
        return None


def type_of(source: Tag) -> str:
    """The media type that a source says, in lower case and without parameters; "" if it says none."""
    return (value_of(source, "type") or "").split(";")[0].strip().lower()


def begins_with_auto(tag: Tag) -> bool:
    """Tells whether the first entry of its sizes is auto."""
    return bool(_AUTO.match(value_of(tag, "sizes") or ""))
