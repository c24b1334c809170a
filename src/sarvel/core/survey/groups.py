"""Images of a site's pages grouped into slots: by the `sizes` that they have, their class, or how wide they are stated to be."""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from sarvel.core.html.document import Image, value_of
from sarvel.core.html.master_attribute import MASTERS
from sarvel.core.html.selector import parse_selector
from sarvel.core.html.sizes import parse_sizes
from sarvel.core.html.tags import Tag, classes_of
from sarvel.core.layout.fitted import Fitted
from sarvel.core.survey.traits import Traits

_PLAIN = re.compile(r"[A-Za-z][\w-]*")
_UNTOLD = "unknown, at most the width of their files; set it"


@dataclass(frozen=True)
class LocalImage:
    """An image of a page whose file is at hand.

    Attributes:
        src: its address, as the page writes it.
        place: where that is, for people.
        width: px across of its file.
        ancestors: the start tags that it is in, from the outside inwards.
    """

    image: Image
    src: str
    page: str
    place: str
    width: int
    traits: Traits = field(default_factory=Traits)
    ancestors: tuple[Tag, ...] = ()

    def is_meant(self, css: str) -> bool:
        """Tells whether a selector of `selectors` means it."""
        return parse_selector(css).matches(self.image.tag, self.ancestors)


@dataclass(frozen=True)
class Layout:
    """The things that images of one slot have in common.

    Attributes:
        natural: whether nothing limits their width.
        shaped: whether a rule gives them a ratio of its own.
        by_place: the selector of a rule that would miss them in a picture; "" for none.
        urgent: whether their author fetches them with high priority.
        px: a width that rules give them on every viewport, CSS px; 0 if they do not.
    """

    natural: bool = False
    shaped: bool = False
    by_place: str = ""
    urgent: bool = False
    px: float = 0.0

    def with_more(self, other: Layout) -> Layout:
        """The layout of images of both kinds: what holds for one of them."""
        return Layout(
            self.natural or other.natural,
            self.shaped or other.shaped,
            self.by_place or other.by_place,
            self.urgent or other.urgent,
            self.px if self.px == other.px else 0.0,
        )


@dataclass(frozen=True)
class Seen:
    """What a browser showed of the images of a slot.

    Attributes:
        ratios: width by height of their boxes, by viewport width, where the stylesheet crops them; else empty.
        first: the share that one fills of the first screen of a phone and of a desktop, 0 to 1, at most.
        opens: whether most of them are a part of a first screen.
        alike: whether all are shown at one width; if not, the widest counts.
    """

    fitted: Fitted
    ratios: Mapping[int, float]
    first: tuple[float, float]
    opens: bool
    alike: bool = True


@dataclass
class Group:
    """Images that will share a slot.

    Attributes:
        selectors: selectors of its images; none if they name the slot themselves.
        seen: what a browser showed of them; None if no one looked.
    """

    name: str
    selectors: list[str]
    layout: Layout = field(default_factory=Layout)
    images: list[LocalImage] = field(default_factory=list)
    seen: Seen | None = None

    @property
    def shown(self) -> str:
        """Their `sizes`: at most as wide as their files."""
        return _shown(self.images, natural=self.layout.natural)[0]

    @property
    def why(self) -> str:
        """The reason for that."""
        return _shown(self.images, natural=self.layout.natural)[1]

    @property
    def guessed(self) -> bool:
        """Tells whether their width is known only from their files."""
        return self.why == _UNTOLD and not self.seen

    @property
    def opens(self) -> bool:
        """Tells whether a page begins with one of them: it may be seen at once."""
        return any(one.image.number == 1 for one in self.images)


def grouped(images: Sequence[LocalImage]) -> list[Group]:
    """All images in groups, such that the first whose selectors match an image is its own.

    Images that name a slot come first, then images that only their address identifies, then by decreasing certainty.
    """
    apart: set[str] = set()
    while True:
        groups = _grouped(images, apart)
        strayed = {
            one.src for group in groups if group.selectors for one in group.images if _taker(groups, one) is not group
        }
        if strayed <= apart:
            return groups
        apart |= strayed


def _taker(groups: Iterable[Group], one: LocalImage) -> Group | None:
    """The first group that takes an image that names none."""
    return next((group for group in groups if any(one.is_meant(css) for css in group.selectors)), None)


def _grouped(images: Sequence[LocalImage], apart: set[str]) -> list[Group]:
    """Groups in which images of some addresses are selected by address."""
    by_address: dict[str, _Kind] = {}
    kinds: dict[_Kind, list[LocalImage]] = {}
    for one in images:
        kind = _kind(one)
        if kind.rank and one.src in apart:
            known = by_address.get(one.src, kind)
            by_address[one.src] = replace(known, rank=1, selector="", layout=known.layout.with_more(kind.layout))
    for one in images:
        kind = _kind(one)
        kinds.setdefault(by_address.get(one.src, kind) if kind.rank else kind, []).append(one)
    used: Counter[str] = Counter(kind.name for kind in kinds if kind.rank == 0)
    groups = []
    for kind, seen in sorted(kinds.items(), key=lambda one: (one[0].rank, -len(one[1]), one[0].name, one[0].selector)):
        selectors = (
            sorted({by_src(one.image.tag, one.src) for one in seen})
            if kind.rank == 1
            else [kind.selector]
            if kind.rank
            else []
        )
        groups.append(Group(_free(kind.name, used) if kind.rank else kind.name, selectors, kind.layout, seen))
    return groups


def by_src(tag: Tag, src: str) -> str:
    """The selector of images by their address, or by the words that compute it, which may hold one kind of quote.

    Args:
        src: the address that it has, or means.
    """
    name = next((name for name in MASTERS.values() if tag.get(name)), "src")
    words = src if name == "src" else value_of(tag, name) or ""
    return f"[{name}='{words}']" if '"' in words else f'[{name}="{words}"]'


@dataclass(frozen=True)
class _Kind:
    """A kind of images.

    Attributes:
        rank: by the way to recognise them, 0 for the name of a slot, 1 for addresses, then less certain ones.
        selector: of its images; "" if they name the slot, or are recognised by address.
    """

    rank: int
    name: str
    selector: str
    layout: Layout


def _kind(one: LocalImage) -> _Kind:
    tag, layout = one.image.tag, _layout(one)
    named, sizes, width = (value_of(tag, name) or "" for name in ("data-sarvel", "sizes", "width"))
    if tag.get("data-sarvel") is not None:
        return _Kind(0, named, "", Layout())
    first = next((name for name in classes_of(tag) if _PLAIN.fullmatch(name)), "")
    if _sound(sizes) and '"' not in sizes:
        return _Kind(2, first or "listed", f'[sizes="{sizes.strip()}"]', layout)
    if first:
        return _Kind(3, first, f".{first}", layout)
    if _px(width):
        return _Kind(4, f"shown-{_px(width)}", f'[width="{width.strip()}"]', layout)
    return _Kind(5, f"shown-{layout.px:.0f}" if layout.px else "picture", "img", layout)


def layout_of(images: Sequence[LocalImage]) -> Layout:
    """What some images have in common; at least one."""
    return functools.reduce(Layout.with_more, map(_layout, images))


def _layout(one: LocalImage) -> Layout:
    traits = one.traits
    urgent = value_of(one.image.tag, "fetchpriority") == "high"
    return Layout(traits.natural, traits.shaped, traits.by_place, urgent, traits.shown)


def _shown(seen: Sequence[LocalImage], *, natural: bool) -> tuple[str, str]:
    """The shown width of images, at most that of their files, and what tells it."""
    widest = max(one.width for one in seen)
    sizes = Counter(filter(None, (_sound(value_of(one.image.tag, "sizes") or "") for one in seen)))
    if sizes:
        return sizes.most_common(1)[0][0], "from their sizes"
    widths = {_px(value_of(one.image.tag, "width") or "") for one in seen} - {None}
    by_rule = {one.traits.shown for one in seen}
    if len(by_rule) == 1 and max(by_rule):
        return f"{max(by_rule):g}px", "from their stylesheet"
    if natural:
        return f"{widest}px", "as wide as their files: no rule limits them"
    bounds = [_bound(one) for one in seen]
    if widths and all(_px(value_of(one.image.tag, "width") or "") for one in seen):
        told = "from their width attribute" if len(widths) == 1 else "from the widest of their width attributes"
        return f"min(100vw, {max(bounds):g}px)", told
    return f"min(100vw, {max(bounds):g}px)", _UNTOLD


def _bound(one: LocalImage) -> float:
    """The greatest width that an image can be shown at without being stretched, CSS px."""
    said = _px(value_of(one.image.tag, "width") or "")
    return float(min(filter(None, (said, one.traits.most, one.width)), default=one.width))


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
