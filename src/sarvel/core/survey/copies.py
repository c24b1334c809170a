"""Names by which files of one photograph in several sizes are called: `boat-300.jpg`, `boat@2x.jpg`, `boat-small.jpg`."""

from __future__ import annotations

import re

_SIZE = re.compile(
    r"(?P<base>.*?)[-_. ]?(?:(?P<width>\d{2,5})(?:x(?P<height>\d{2,5}))?(?:w|px)?|@?[1-4](?:\.5)?x"
    r"|(?:x?small|medium|large|thumb|thumbnail|full|original|mobile|tablet|desktop|xs|sm|md|lg|xl))",
    re.IGNORECASE,
)


def photo_name(stem: str, width: int, height: int) -> str:
    """The name of the photograph that a file may be a size of: without a size, if the file has that.

    Args:
        stem: the file's name without its ending.
        width: px.
        height: px.
    """
    found = _SIZE.fullmatch(stem)
    if found is None or not found["base"]:
        return stem.lower()
    said = found["width"]
    if said and int(said) not in (width, height) and found["height"] is None:
        return stem.lower()  # a number of another kind: a year, a serial number
    return found["base"].rstrip("-_. ").lower() or stem.lower()
