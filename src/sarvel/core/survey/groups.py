"""Images of a site's pages grouped into slots: by the `sizes` that they have, their class, or how wide they are said to be."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from sarvel.core.html.document import Image, value_of
from sarvel.core.html.sizes import parse_sizes

_BADGE = 200  # CSS px; what is said to be narrower is no picture that a page opens with
_PLAIN = re.compile(r"[A-Za-z][\w-]*")


@dataclass(frozen=True)
class LocalImage:
    """An image of a page whose file is at hand.

    Attributes:
        image: the image.
        src: its address, as the page writes it.
        page: its page.
        place: where that is, for people.
    """

    image: Image
    src: str
    page: str
    place: str


@dataclass
class Group:
    """Images that will share a slot.

    Attributes:
        name: of the slot.
        takes: selectors of its images; none if they name the slot themselves.
        shown: how wide they are shown, as a plan says it.
        why: what tells that.
        first: whether its images are in view at once.
        guessed: whether nothing tells how wide they are shown.
        images: the images.
    """

    name: str
    takes: list[str]
    shown: str
    why: str
    first: bool
    guessed: bool
    images: list[LocalImage] = field(default_factory=list)


def grouped(images: Sequence[LocalImage]) -> list[Group]:
    """All images in groups: those that name a slot, those that pages open with, then by how much tells of each."""
    opening = {one.src for one in images if _opens(one)}
    kinds: dict[tuple[int, str, str], list[LocalImage]] = {}
    for one in images:
        kinds.setdefault(_kind(one, opening), []).append(one)
    used: Counter[str] = Counter(name for rank, name, _ in kinds if rank == 0)
    groups = []
    for (rank, name, selector), seen in sorted(kinds.items(), key=lambda kind: (kind[0][0], -len(kind[1]), kind[0])):
        shown, why = _shown(seen)
        takes = [] if rank == 0 else sorted({f'[src="{one.src}"]' for one in seen}) if rank == 1 else [selector]
        first = rank == 1 or (rank == 0 and _alone_and_first(seen))
        groups.append(
            Group(name if rank == 0 else _free(name, used), takes, shown or "100vw", why, first, not shown, seen)
        )
    return groups


def _kind(one: LocalImage, opening: set[str]) -> tuple[int, str, str]:
    """The kind of an image: rank by how it is grouped, name of the slot, and selector."""
    tag = one.image.tag
    named, sizes, classes, width = (value_of(tag, name) or "" for name in ("data-sarvel", "sizes", "class", "width"))
    if tag.get("data-sarvel") is not None:
        return 0, named, ""
    if one.src in opening and '"' not in one.src:
        return 1, "opening", _sound(sizes)
    first = next((name for name in classes.split() if _PLAIN.fullmatch(name)), "")
    if _sound(sizes) and '"' not in sizes:
        return 2, first or "listed", f'[sizes="{sizes.strip()}"]'
    if first:
        return 3, first, f".{first}"
    if _px(width):
        return 4, f"shown-{_px(width)}", f'[width="{width.strip()}"]'
    return 5, "picture", "img"


def _opens(one: LocalImage) -> bool:
    """Tells whether a page opens with it: its first image, unless it is a badge; or one that its author made urgent."""
    tag = one.image.tag
    width = _px(value_of(tag, "width") or "")
    small = width is not None and width <= _BADGE
    return value_of(tag, "fetchpriority") == "high" or (
        one.image.number == 1 and not small and not value_of(tag, "data-sarvel")
    )


def _alone_and_first(seen: Iterable[LocalImage]) -> bool:
    """Tells whether images that name a slot are each the first of their page, and the only ones there."""
    pages = Counter(one.page for one in seen)
    return all(count == 1 for count in pages.values()) and all(one.image.number == 1 for one in seen)


def _shown(seen: Sequence[LocalImage]) -> tuple[str, str]:
    """The shown width of images, and what tells it; "" if nothing does."""
    sizes = Counter(filter(None, (_sound(value_of(one.image.tag, "sizes") or "") for one in seen)))
    if sizes:
        return sizes.most_common(1)[0][0], "from their sizes"
    widths = [_px(value_of(one.image.tag, "width") or "") for one in seen]
    known = [width for width in widths if width]
    if known and len(known) == len(seen):
        same = "their width attribute" if len(set(known)) == 1 else "the widest of their width attributes"
        return f"min(100vw, {max(known)}px)", f"from {same}"
    return "", "nothing tells how wide; say it"


def _sound(sizes: str) -> str:
    """A sizes value, if browsers take all of it; else ""."""
    entries = parse_sizes(sizes) if sizes.strip() else []
    whole = entries and not any(entry.fault for entry in entries) and entries[-1].media.css == ""
    return " ".join(sizes.split()) if whole and any(entry.length for entry in entries) else ""


def _px(width: str) -> int | None:
    return int(width) if width.strip().isdecimal() and int(width) else None


def _free(name: str, used: Counter[str]) -> str:
    used[name] += 1
    return name if used[name] == 1 else f"{name}-{used[name]}"
