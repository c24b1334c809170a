"""Widths of images as stylesheets lay them out, without a browser: only where that is certain.

Followed are blocks in normal flow, with margins, paddings, borders and widths in lengths or percentages (CSS 2, sections 10.3
and 10.4), and grids of equal columns. Anything else, such as a flex row or a float, gives no answer.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import LengthError, parse_length
from sarvel.core.html.page_styles import DeclaredBox, PageStyles
from sarvel.core.html.tags import Tag
from sarvel.core.layout.alike import Measured
from sarvel.core.layout.bends import closer_looks, first_looks
from sarvel.core.layout.fitted import Pull, middles

_FONT = 20.0  # px, tried after the usual 16: how a width depends on the font
_ROUNDS = 12  # of closer looks; a layout that bends more often is left to a browser

# HTML, section 15.3 "Flow content": margins and paddings that browsers give to elements, CSS px: left, right.
_USUAL: Mapping[tuple[str, str], tuple[float, float]] = {
    ("body", "margin"): (8, 8), ("figure", "margin"): (40, 40), ("blockquote", "margin"): (40, 40), ("dd", "margin"): (40, 0),
    ("ul", "padding"): (40, 0), ("ol", "padding"): (40, 0), ("menu", "padding"): (40, 0),
}  # fmt: skip
_BLOCKS = frozenset(
    ["html", "body", "main", "section", "article", "header", "footer", "nav", "aside", "div", "p", "figure", "figcaption",
     "blockquote", "ul", "ol", "menu", "li", "dl", "dt", "dd", "h1", "h2", "h3", "h4", "h5", "h6", "address", "form", "center"]
)  # fmt: skip
_INLINE = frozenset(
    ["a", "span", "picture", "em", "strong", "b", "i", "small", "abbr", "cite", "mark", "ins", "del", "q", "u"]
)
_COLUMNS = re.compile(r"repeat\(\s*(\d+)\s*,\s*(?:1fr|minmax\(\s*0(?:px)?\s*,\s*1fr\s*\))\s*\)")
_FRACTION = re.compile(r"(?:1fr|minmax\(\s*0(?:px)?\s*,\s*1fr\s*\))")
_UNCERTAIN = (
    "float", "columns", "column-count", "column-width", "zoom", "writing-mode", "grid-column", "grid-area", "container",
    "container-type",
)  # fmt: skip


class _UncertainError(Exception):
    """The layout depends on more than is followed here."""


def laid_out(tag: Tag, natural: int, styles: PageStyles, breakpoints: Iterable[float]) -> Measured | None:
    """The width of an image by viewport width; None if the stylesheets leave it open.

    Args:
        natural: width of its file, CSS px; 0 if that limits nothing.
        breakpoints: viewport widths where some rule begins, CSS px.
    """
    if not styles.complete:
        return None
    try:
        seen: dict[int, float | None] = {at: _width(tag, natural, styles, _on(at)) for at in first_looks(breakpoints)}
        for _ in range(_ROUNDS):
            if not (more := closer_looks(seen)):
                break
            seen |= {at: _width(tag, natural, styles, _on(at)) for at in more}
        else:
            return None
        pulls = {}
        for at in middles(seen):
            larger = _width(tag, natural, styles, Device(at, 900, font=_FONT))
            pulls[at] = Pull((larger - (seen[at] or 0.0)) / (_FONT - 16), 0.0)
    except _UncertainError:
        return None
    return Measured.of(seen, pulls, natural)


def _on(width: int) -> Device:
    return Device(width, 900)


def _width(tag: Tag, natural: int, styles: PageStyles, device: Device) -> float:
    """The width of an image's content, CSS px.

    Raises:
        _UncertainError: the stylesheets leave it open.
    """
    image, *around = styles.outwards(tag, device)
    room = float(device.width)
    for i, box in reversed(list(enumerate(around))):
        room = _inside(box, room, device, holds_image=i == 0)
    values = image.values
    _check_flow(values)
    width = _length(values.get("width", _hint(tag)), room, device)
    if width is None:
        if values.get("height", "auto") != "auto" or tag.get("height") or not natural:
            raise _UncertainError
        width = float(natural)
    width = _limited(width, values, room, device)
    return max(width - _frame(image, room, device), 0.0) if _is_border_box(values) else width


def _hint(tag: Tag) -> str:
    """The width attribute as CSS (HTML, section 15.4.4 "Attributes for embedded content and images")."""
    said = tag.values().get("width") or ""
    return f"{said}px" if said.isdecimal() else "auto"


def _check_flow(values: Mapping[str, str]) -> None:
    """Raises an _UncertainError for an element that is not in normal flow, or has more than one column."""
    if values.get("position", "static") not in ("static", "relative"):
        raise _UncertainError
    if any(values.get(name, "none") not in ("none", "auto", "normal") for name in _UNCERTAIN):
        raise _UncertainError


def _inside(box: DeclaredBox, room: float, device: Device, *, holds_image: bool) -> float:
    """The width that an element leaves to a child, CSS px."""
    values = box.values
    usual = "block" if box.name in _BLOCKS else "inline" if box.name in _INLINE or "-" in box.name else ""
    display = values.get("display", usual).lower()
    if display in ("inline", "contents"):
        return room
    if box.name == "html" and (values.get("font-size", "16px") not in ("16px", "100%", "1rem") or "font" in values):
        raise _UncertainError  # rem means another length
    _check_flow(values)
    if display not in ("block", "flow-root", "list-item", "grid", "flex"):
        raise _UncertainError
    width, frame = _length(values.get("width", "auto"), room, device), _frame(box, room, device)
    if width is None:
        width = room - _sides(box, "margin", room, device) - (0.0 if _is_border_box(values) else frame)
    width = _limited(width, values, room, device) - (frame if _is_border_box(values) else 0.0)
    if display == "grid":
        return _column(values, max(width, 0.0), device)
    if display == "flex":
        is_column = "column" in values.get("flex-direction", values.get("flex-flow", ""))
        if not is_column or holds_image or values.get("align-items", "stretch") not in ("stretch", "normal"):
            raise _UncertainError
    return max(width, 0.0)


def _limited(width: float, values: Mapping[str, str], room: float, device: Device) -> float:
    most = _length(values.get("max-width", "none"), room, device)
    least = _length(values.get("min-width", "auto"), room, device)
    return max(width if most is None else min(width, most), least or 0.0)


def _is_border_box(values: Mapping[str, str]) -> bool:
    return values.get("box-sizing", "content-box").lower() == "border-box"


def _frame(box: DeclaredBox, room: float, device: Device) -> float:
    """Padding and border at both sides, CSS px."""
    border = 0.0
    for side in ("left", "right"):
        said = box.values.get(f"border-{side}", box.values.get("border", box.values.get("border-width", "0"))).split()
        first = next((word for word in said if word[0].isdigit() or word[0] == "."), "0")
        border += 0.0 if "none" in said else _length(first, room, device) or 0.0
    return border + _sides(box, "padding", room, device)


def _sides(box: DeclaredBox, name: str, room: float, device: Device) -> float:
    """Left and right margin or padding together, CSS px; `auto` margins count as 0."""
    values, usual = box.values, _USUAL.get((box.name, name), (0.0, 0.0))
    sides = ["", ""]
    for key, order in ((name, (3, 1)), (f"{name}-inline", (0, 1))):
        said = values.get(key, "")
        parts = [said] if "(" in said else said.split()
        if parts:  # top, right, bottom and left; or start and end: a missing one is as its opposite
            whole = [*parts, *([parts[0]] * 3)] if len(parts) == 1 else [*parts, *parts][: 2 if key != name else 4]
            whole = [parts[0], parts[1], parts[0], parts[1]] if len(parts) in (2, 3) and key == name else whole
            sides = [whole[order[0]], whole[order[1]]]
    sides = [values.get(f"{name}-left", sides[0]), values.get(f"{name}-right", sides[1])]
    sides = [values.get(f"{name}-inline-start", sides[0]), values.get(f"{name}-inline-end", sides[1])]
    return sum(own if not said else _length(said, room, device) or 0.0 for said, own in zip(sides, usual, strict=True))


def _column(values: Mapping[str, str], room: float, device: Device) -> float:
    """The width of one of a grid's equal columns."""
    said = values.get("grid-template-columns", "none").strip().lower()
    found = _COLUMNS.fullmatch(said)
    if found:
        count = int(found[1])
    elif said in ("none", "100%", "auto"):
        count = 1
    elif _FRACTION.sub("", said).strip() == "":
        count = len(_FRACTION.findall(said))
    else:
        raise _UncertainError
    if (
        values.get("justify-items", "stretch") not in ("stretch", "normal")
        or "grid" in values
        or "grid-template" in values
    ):
        raise _UncertainError
    gap = values.get("column-gap", values.get("gap", "0").split()[-1])
    return (room - (count - 1) * (_length(gap, room, device) or 0.0)) / count


def _length(css: str, room: float, device: Device) -> float | None:
    """A length, a percentage of the room, or None for `auto` and `none`.

    Raises:
        _UncertainError: it is anything else.
    """
    css = css.strip().lower()
    if css in ("auto", "none", ""):
        return None
    if css in ("0", "+0", "-0"):
        return 0.0
    if re.fullmatch(r"[+-]?(?:\d+\.?\d*|\.\d+)%", css):
        return room * float(css[:-1]) / 100
    if css.endswith("em") and not css.endswith("rem"):
        raise _UncertainError
    try:
        return parse_length(css).on(device)
    except LengthError:
        raise _UncertainError from None
