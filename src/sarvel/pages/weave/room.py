"""Room for an image on its page until it has loaded, in the way that moves nothing once it has.

`width` and `height` are a size and also a ratio: where a stylesheet sets a width and no height, the height of the attribute
stays, and the image is squeezed. The author's own are part of the layout already, and stay; ours are written where
the plan asks for them, or where the crops of a picture differ in shape.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from sarvel.core.html.dialect import Dialect, Style
from sarvel.core.html.tags import Tag
from sarvel.core.markup.picture import Markup
from sarvel.core.quoted import escaped
from sarvel.pages.restore.blocks import BOUND

_SAME_SHAPE = 1.02  # ratios of width and height in whole px differ by less

CONTENTS: Mapping[Style, str] = MappingProxyType(
    {
        "text": 'style="display:contents"',
        "text or object": 'style="display:contents"',
        "object": 'style={{ display: "contents" }}',
    }
)
"""The style of a picture: its img is laid out as if the picture were not there, as a child of a flex container perhaps."""

_SPREADS = re.compile(r"\{[^{}]*\}|[\w$.]+")  # words of a script that need no parentheses behind three dots


@dataclass(frozen=True)
class RoomHere:
    """The way in which room is kept for one img.

    Attributes:
        size: our width and height of the img, if written.
        on_sources: whether sources have their own width and height.
        aside: attributes of the author that ours contradict.
    """

    size: Mapping[str, str] = field(default_factory=dict)
    on_sources: bool = False
    aside: tuple[str, ...] = ()
    style: Mapping[str, str] = field(default_factory=dict)


def room_in(author: Tag, markup: Markup, *, bare: bool = False) -> RoomHere:
    """Works out how room is kept for an img.

    Args:
        author: the img as its author wrote it.
        bare: whether it surely has no padding, border or ratio of a stylesheet's.
    """
    room = markup.room
    if bare and room.exact and room.kind == "ratio":
        return RoomHere(style={"aspect-ratio": f"{room.exact[0]}/{room.exact[1]}"})
    said = [name for name in ("width", "height") if any(author.get(form + name) for form in ("", *BOUND))]
    ratio = {"aspect-ratio": f"auto {room.ratio[0]}/{room.ratio[1]}"}
    if room.kind == "none":
        return RoomHere()
    width, height = _px(author, "width"), _px(author, "height")
    is_other_shape = bool(room.cropped and width and height) and not _alike(width, height, room.ratio)
    if room.kind == "size" and (not said or is_other_shape or room.height):
        size = {"width": str(markup.image.width), "height": str(markup.image.height)}
        return RoomHere(size, on_sources=True, aside=tuple(said), style={"height": "auto"} if room.height else {})
    if is_other_shape:
        size = {"width": str(width), "height": str(max(1, round(width * room.ratio[1] / room.ratio[0])))}
        return RoomHere(size, aside=tuple(said))
    if room.kind == "size":
        needs_height = said == ["width"] and width
        return RoomHere({"height": str(max(1, round(width * room.ratio[1] / room.ratio[0])))} if needs_height else {})
    return RoomHere(style=ratio if len(said) < 2 else {})


def _px(tag: Tag, name: str) -> int:
    """A dimension attribute in CSS px; 0 where it says nothing of the kind."""
    found = tag.get(name)
    text = re.fullmatch(r"\s*(\d+)(?:\.\d+)?(?:px)?\s*", found.value) if found else None
    return int(text.group(1)) if text else 0


def _alike(width: int, height: int, ratio: tuple[int, int]) -> bool:
    one, other = width * ratio[1], height * ratio[0]
    return max(one, other) <= min(one, other) * _SAME_SHAPE


def styled(author: Tag, properties: Mapping[str, str], dialect: Dialect) -> str:
    """A style attribute with our properties before the author's, which win; "" if there are none, or if it is impossible.

    Args:
        author: the tag as its author wrote it.
        properties: values by name; empty ones are left out.
    """
    said = {name: value for name, value in properties.items() if value}
    theirs = author.get("style")
    raw = (theirs.raw or "").strip() if theirs else ""
    is_code = raw.startswith("{")
    if not said or (raw and is_code != (dialect.style == "object") and dialect.style != "text"):
        return ""
    if dialect.style == "object":
        own = ", ".join(f"{_camel(name)}: {json.dumps(value)}" for name, value in said.items())
        words = raw[1:-1].strip()
        spread = words if _SPREADS.fullmatch(words) else f"({words})"  # as formatters of scripts leave it
        return f"style={{{{ {own}{f', ...{spread}' if raw else ''} }}}}"
    own = ";".join(f"{name}:{value}" for name, value in said.items())
    quote = "'" if '"' in raw else '"'
    return f"style={quote}{escaped(own).replace(quote, '&#39;')}{';' if raw else ''}{raw}{quote}"


def _camel(name: str) -> str:
    first, *others = name.split("-")
    return first + "".join(map(str.capitalize, others))
