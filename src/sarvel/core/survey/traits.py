"""Traits of an image that stylesheets give it, as far as they count for how it is woven."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import LengthError, parse_length
from sarvel.core.html.page_styles import DeclaredBox, PageStyles
from sarvel.core.html.tags import Tag

# Viewports on which styles are tried, CSS px: the ones that layouts are commonly made for, and one beyond.
_TRIED = tuple(Device(width, 900) for width in (320, 360, 480, 600, 768, 900, 1024, 1200, 1440, 1920, 2560))
_UNSET = frozenset({"", "auto", "none", "initial", "unset", "revert", "revert-layer"})
_NATURAL = frozenset({"none", "scale-down"})  # values of object-fit that show an image at its own size


@dataclass(frozen=True)
class Traits:
    """The traits of an image.

    Attributes:
        shown: a length that rules give it on every viewport, as CSS px; 0 if they do not.
        most: the greatest width that they allow it, CSS px; 0 if that depends on its ancestors.
        natural: whether the width of its file counts on every viewport: nothing limits it, or its neighbours' space depends
            by it.
        shaped: whether a rule gives it a ratio of its own.
        by_place: the selector of a rule that would miss it, or match something else, inside a picture; "" for none.
    """

    shown: float = 0.0
    most: float = 0.0
    natural: bool = False
    shaped: bool = False
    by_place: str = ""


def traits_of(tag: Tag, styles: PageStyles) -> Traits:
    """The traits of an image."""
    said = [styles.values(tag, device) for device in _TRIED]
    bounds = [_bound(values, device) for values, device in zip(said, _TRIED, strict=True)]
    widths = [_px(values.get("width", ""), device) for values, device in zip(said, _TRIED, strict=True)]
    is_one = len(set(widths)) == 1 and widths[0]
    return Traits(
        shown=widths[0] if is_one else 0.0,
        most=max(bounds) if all(bounds) else 0.0,
        natural=styles.complete and (_is_natural(tag, said) or any(map(_counts, _ways_around(tag, styles)))),
        shaped=styles.may_set(tag, "aspect-ratio"),
        by_place=styles.changed_by_picture(tag),
    )


def _bound(values: Mapping[str, str], device: Device) -> float:
    """The least of a width and a greatest width, CSS px; 0 if neither is known."""
    known = [px for name in ("width", "max-width") if (px := _px(values.get(name, ""), device))]
    return min(known, default=0.0)


def _is_natural(tag: Tag, said: Sequence[Mapping[str, str]]) -> bool:
    """Tells whether on some viewport an image is as wide as its file: no rule sets or limits its width or its height."""
    if tag.get("width") or tag.get("height"):
        return False
    if any(values.get("object-fit", "").lower() in _NATURAL for values in said):
        return True
    return any(
        not any(_is_set(values, name) for name in ("width", "max-width", "height", "max-height")) for values in said
    )


def _ways_around(tag: Tag, styles: PageStyles) -> Iterable[Sequence[DeclaredBox]]:
    """An image that says no width, and its ancestors, as devices show them: once for devices on which the same rules hold."""
    seen: set[tuple[int, ...]] = set()
    for device in () if tag.get("width") else _TRIED:
        boxes = list(styles.outwards(tag, device))
        key = tuple(id(box.values) for box in boxes)
        if key not in seen:
            seen.add(key)
            yield boxes


def _counts(boxes: Sequence[DeclaredBox]) -> bool:
    """Tells whether the width that an image has by nature may decide how wide something next to it is.

    Cells of a table, items of a flex container and tracks of a grid share the space by their content (CSS Tables 3,
    section 3.8.2; CSS Flexbox 1, section 9.7; CSS Grid 2, section 12.5), unless they are given a width.
    """
    for box, around in itertools.pairwise(boxes):
        values, display = box.values, around.values.get("display", "").lower()
        if _is_set(values, "width") or (box is boxes[0] and _is_set(values, "height")):
            return False
        if box.name in ("td", "th") and values.get("display", "table-cell").lower() == "table-cell":
            return True
        direction = f"{around.values.get('flex-direction', '')} {around.values.get('flex-flow', '')}".lower()
        if "flex" in display and "column" not in direction and not box.alone and not _has_basis(values):
            return True
        tracks = f"{around.values.get('grid-template-columns', '')} {around.values.get('grid-template', '')}".lower()
        if "grid" in display and re.search(r"\bauto\b(?!-fi)|content", tracks):
            return True
    return False


def _has_basis(values: Mapping[str, str]) -> bool:
    """Tells whether a flex item begins from a width that does not depend on its content."""
    basis = values.get("flex-basis", "").lower()
    flex = values.get("flex", "").lower().split()
    if basis and basis not in ("auto", "content", "max-content", "min-content", "fit-content"):
        return True
    return bool(flex) and (len(flex) == 1 or not flex[-1].isalpha()) and flex[-1] not in ("auto", "none", "initial")


def _is_set(values: Mapping[str, str], name: str) -> bool:
    return values.get(name, "").strip().lower() not in _UNSET


def _px(css: str, device: Device) -> float:
    """A length in CSS px; 0 if it depends on more than the viewport, or on the size of a font nearby."""
    try:
        length = parse_length(css)
    except LengthError:
        return 0.0
    is_relative = css.rstrip().lower().endswith("em") and not css.rstrip().lower().endswith("rem")
    return 0.0 if is_relative else length.on(device)
