"""Images grouped into slots by how a browser shows them over all viewports, whatever their classes say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.html.document import value_of
from sarvel.core.html.selector import parse_selector
from sarvel.core.layout.alike import Measured, sorted_apart, united
from sarvel.core.layout.fitted import fit_shown
from sarvel.core.survey.groups import Group, LocalImage, Seen, by_src, layout_of

_PLAIN = re.compile(r"[A-Za-z][\w-]*")
_QUOTED = re.compile(r'["\\\n]')
_SAME_RATIO = 0.02  # share by which a box's ratio may differ from its file's, or from another's, and be the same
_MOST_UNCROPPED = 3  # viewports on which a box that is cropped may have its file's ratio by chance
_FIRST = 0.05  # share of the first screen from which on an image is a part of what people see first


@dataclass(frozen=True)
class Behaviour:
    """How one image is shown.

    Attributes:
        box: its width on each viewport.
        ratios: width by height of its box, by viewport width, if the stylesheet crops it to its middle there; else empty.
        first: the share that it fills of the first screen of a phone and of a desktop, 0 to 1.
    """

    box: Measured
    ratios: Mapping[int, float]
    first: tuple[float, float]


def ratios_of(boxes: Iterable[tuple[int, float, float, str, str, tuple[int, int]]]) -> dict[int, float]:
    """The ratios of a box that crops what stands in it around its middle on every viewport; empty if it does not.

    Args:
        boxes: viewport width, width and height, fit, position, and natural size of what stands in it.
    """
    found: dict[int, float] = {}
    uncropped = 0
    for viewport, width, height, fit, position, (natural_width, natural_height) in boxes:
        if fit != "cover" or position != "50% 50%" or not (width and height and natural_width and natural_height):
            return {}
        found[viewport] = width / height
        uncropped += abs(width / height * natural_height / natural_width - 1) <= _SAME_RATIO
    return found if uncropped <= _MOST_UNCROPPED else {}


def behaving(images: Sequence[tuple[LocalImage, Behaviour]], height: float) -> list[Group]:
    """All images in groups that are shown alike, each with selectors that mean its images and no others.

    Args:
        images: the images.
        height: of the viewports that they were measured on, CSS px.
    """
    kinds: dict[tuple[object, ...], list[tuple[LocalImage, Behaviour]]] = {}
    for one in images:
        kinds.setdefault(_kind(*one), []).append(one)
    parts = [
        [some[number] for number in numbers]
        for some in kinds.values()
        for numbers in sorted_apart([behaviour.box for _, behaviour in some])
    ]
    used = Counter({_named(image): 1 for image, _ in images if _named(image)})
    groups = []
    for part, takes in _in_order(parts):
        own = [image for image, _ in part]
        name = _named(own[0]) or _free(_called(own), used)
        groups.append(Group(name, takes, layout_of(own), own, _seen([one for _, one in part], height)))
    return groups


_Part: TypeAlias = Sequence[tuple[LocalImage, Behaviour]]


def _in_order(parts: Iterable[_Part]) -> Iterator[tuple[_Part, list[str]]]:
    """Groups with their selectors, in such an order that each takes its images from all that come behind it."""
    left = sorted(parts, key=lambda part: (not _named(part[0][0]), -len(part)))
    while left:
        for part in left:
            own = [image for image, _ in part]
            others = [image for other in left if other is not part for image, _ in other if not _named(image)]
            takes = [] if _named(own[0]) else list(_takes(own, others))
            if _named(own[0]) or all(any(parse_selector(css).matches(one.image.tag) for css in takes) for one in own):
                break
        else:  # nothing tells the images of any group apart from others
            part = left[0]
            takes = list(_takes([image for image, _ in part], []))
        left = [one for one in left if one is not part]
        yield part, takes


def _named(image: LocalImage) -> str:
    return value_of(image.image.tag, "data-sarvel") or ""


def _kind(image: LocalImage, behaviour: Behaviour) -> tuple[object, ...]:
    """What images must have in common beside their widths."""
    traits = image.traits
    ratios = tuple(round(ratio / _SAME_RATIO) for _, ratio in sorted(behaviour.ratios.items()))
    return _named(image), traits.natural, traits.by_place, ratios[:: max(1, len(ratios) // 12)]


def _seen(behaviours: Sequence[Behaviour], height: float) -> Seen | None:
    """What was seen of a group; None if nothing shows any of it."""
    shown = [one for one in behaviours if one.box.shown]
    if not shown:
        return None
    box = united([one.box for one in shown])
    first = [max(one.first[i] for one in shown) for i in range(2)]
    many = any(2 * sum(one.first[i] >= _FIRST for one in shown) >= len(shown) for i in range(2))
    ratios = {at: min(one.ratios[at] for one in shown if at in one.ratios) for at in shown[0].ratios}
    return Seen(fit_shown(box.widths, box.pulls, height), ratios, (first[0], first[1]), opens=many)


def _called(images: Sequence[LocalImage]) -> str:
    """A name for a group: the class that most of its images have, or else what they are."""
    names = Counter(name for one in images for name in _classes(one) if _PLAIN.fullmatch(name))
    best = names.most_common(1)
    return best[0][0] if best and 2 * best[0][1] > len(images) else "picture"


def _classes(image: LocalImage) -> list[str]:
    return list(dict.fromkeys((value_of(image.image.tag, "class") or "").split()))


def _takes(own: Sequence[LocalImage], others: Sequence[LocalImage]) -> Iterator[str]:
    """Selectors that mean a group's images and no others: one for all, else the shortest for each."""
    if css := next((css for css in _shared(own) if not _meets(css, others)), ""):
        yield css
        return
    found: dict[str, None] = {}
    for image in own:
        if any(parse_selector(css).matches(image.image.tag) for css in found):
            continue
        wanted = next((css for css in _alone(image) if not _meets(css, others)), "")
        if wanted:
            found[wanted] = None
    yield from found


def _meets(css: str, images: Iterable[LocalImage]) -> bool:
    selector = parse_selector(css)
    return any(selector.matches(one.image.tag) for one in images)


def _shared(images: Sequence[LocalImage]) -> Iterator[str]:
    """Selectors that mean all of some images."""
    common = [name for name in _classes(images[0]) if _PLAIN.fullmatch(name)]
    yield from (f".{name}" for name in common if all(name in _classes(one) for one in images))
    for attribute in ("sizes", "width", "height"):
        values = {value_of(one.image.tag, attribute) for one in images}
        value = values.pop() if len(values) == 1 else None
        if value and not _QUOTED.search(value):
            yield f'[{attribute}="{value.strip()}"]'
    yield "img"


def _alone(image: LocalImage) -> Iterator[str]:
    """Selectors of one image, the plainest first."""
    src, tag = by_src(image.src), image.image.tag
    yield src
    yield from (f".{name}{src}" for name in _classes(image) if _PLAIN.fullmatch(name))
    for attribute in ("id", "width", "height", "alt", "title"):
        value = (value_of(tag, attribute) or "").strip()
        if value and not _QUOTED.search(value):
            yield f'[{attribute}="{value}"]{src}'


def _free(name: str, used: Counter[str]) -> str:
    used[name] += 1
    return name if used[name] == 1 else _free(f"{name}-{used[name]}", used)
