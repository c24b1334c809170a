"""Images grouped into slots by how a browser shows them over all viewports, regardless of their classes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.html.document import value_of
from sarvel.core.html.tags import Tag, classes_of
from sarvel.core.layout.alike import Measured, are_alike, sorted_apart, united
from sarvel.core.layout.bends import COMMON
from sarvel.core.layout.fitted import fit_shown
from sarvel.core.survey.groups import Group, LocalImage, Seen, by_src, layout_of

_PLAIN = re.compile(r"[A-Za-z][\w-]*")
_QUOTED = re.compile(r'["\\\n]')
_SAME_RATIO = 0.02  # share by which a box's ratio may differ from its file's, or from another's, and be the same
_MOST_UNCROPPED = 3  # viewports on which a box that is cropped may have its file's ratio by chance
_NEAR = 24  # selectors of outer elements that are tried with each of an inner one
_FIRST = 0.05  # share of the first screen from which on an image is a part of what people see first


@dataclass(frozen=True)
class Behaviour:
    """How one image is shown.

    Attributes:
        ratios: width by height of its box, by viewport width, if the stylesheet crops it to its middle there; else empty.
        first: the share that it fills of the first screen of a phone and of a desktop, 0 to 1.
    """

    box: Measured
    ratios: Mapping[int, float]
    first: tuple[float, float]


def ratios_of(boxes: Iterable[tuple[int, float, float, str, str, tuple[int, int]]]) -> dict[int, float]:
    """The ratios of a box that crops its content around its middle on every viewport; empty if it does not.

    Args:
        boxes: viewport width, width and height, fit, position, and natural size of its content.
    """
    found: dict[int, float] = {}
    uncropped = 0
    for viewport, width, height, fit, position, (natural_width, natural_height) in boxes:
        if fit != "cover" or position != "50% 50%" or not (width and height and natural_width and natural_height):
            return {}
        found[viewport] = width / height
        uncropped += abs(width / height * natural_height / natural_width - 1) <= _SAME_RATIO
    return found if uncropped <= _MOST_UNCROPPED else {}


def behaving(
    images: Sequence[tuple[LocalImage, Behaviour]], height: float, rest: Sequence[LocalImage] = ()
) -> list[Group]:
    """Images in groups that are shown at the same widths, each with selectors that mean its images and no others.

    Args:
        height: of the viewports that they were measured on, CSS px.
        rest: other images, of unknown behaviour; images that no selector tells from these are left out.
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
    for part, selectors in _in_order(parts, rest):
        own = [image for image, _ in part]
        name = _named(own[0]) or _free(_called(own), used)
        groups.append(Group(name, selectors, layout_of(own), own, _seen([one for _, one in part], height)))
    return groups


_Part: TypeAlias = Sequence[tuple[LocalImage, Behaviour]]


def _in_order(parts: Iterable[_Part], rest: Sequence[LocalImage]) -> Iterator[tuple[_Part, list[str]]]:
    """Groups with their selectors, in such an order that each takes its images from all behind it, and from the rest."""
    left: list[_Part] = sorted(parts, key=lambda part: (not _named(part[0][0]), -len(part)))
    while left:
        part, selectors, strays = _told_best(left, rest)
        left = [one for one in left if one is not part]
        joined = [other for other in left if any(image is stray for image, _ in other for stray in strays)]
        if joined:  # nothing tells these apart: they share a slot, which must be wide enough for all
            left = [[*part, *(one for other in joined for one in other)], *(one for one in left if one not in joined)]
        elif not strays:
            yield part, selectors


def _told_best(left: Sequence[_Part], rest: Sequence[LocalImage]) -> tuple[_Part, list[str], list[LocalImage]]:
    """The group whose selectors mean the fewest images of others; the first of equal ones."""
    found = []
    for part in left:
        selectors, strays = _told(part, left, rest)
        if not strays:
            return part, selectors, strays
        found.append((part, selectors, strays))
    return min(found, key=lambda one: len(one[2]))


def _told(part: _Part, left: Sequence[_Part], rest: Sequence[LocalImage]) -> tuple[list[str], list[LocalImage]]:
    """Selectors of a group's images, and the images of other groups that they mean too."""
    own = [image for image, _ in part]
    behind = [*(image for other in left if other is not part for image, _ in other), *rest]
    others = [image for image in behind if not _named(image)]
    selectors = [] if _named(own[0]) else list(_selectors(own, others))
    return selectors, [one for one in others if any(map(one.is_meant, selectors))]


def _named(image: LocalImage) -> str:
    return image.image.slot


def _kind(image: LocalImage, behaviour: Behaviour) -> tuple[object, ...]:
    """What images must have in common besides their widths."""
    traits = image.traits
    ratios = tuple(round(behaviour.ratios[at] / _SAME_RATIO) for at in COMMON if at in behaviour.ratios)
    return _named(image), traits.natural, traits.by_place, ratios


def _seen(behaviours: Sequence[Behaviour], height: float) -> Seen | None:
    """The measured behaviour of a group; None if nothing shows any of it."""
    shown = [one for one in behaviours if one.box.shown]
    if not shown:
        return None
    box = united([one.box for one in shown])
    first = [max(one.first[i] for one in shown) for i in range(2)]
    many = any(2 * sum(one.first[i] >= _FIRST for one in shown) >= len(shown) for i in range(2))
    at_all = set.intersection(*(set(one.ratios) for one in shown))
    ratios = {at: min(one.ratios[at] for one in shown) for at in sorted(at_all)}
    alike = are_alike([one.box for one in shown])
    return Seen(fit_shown(box.widths, box.pulls, height), ratios, (first[0], first[1]), opens=many, alike=alike)


def _called(images: Sequence[LocalImage]) -> str:
    """A name for a group: the class that most of its images have, or else their kind."""
    names = Counter(name for one in images for name in _classes(one) if _PLAIN.fullmatch(name))
    best = names.most_common(1)
    return best[0][0] if best and 2 * best[0][1] > len(images) else "picture"


def _classes(image: LocalImage) -> list[str]:
    return list(dict.fromkeys(classes_of(image.image.tag)))


def _selectors(own: Sequence[LocalImage], others: Sequence[LocalImage]) -> Iterator[str]:
    """Selectors that mean a group's images and no others, or few: one for all, else the plainest for each."""
    if css := next((css for css in _shared(own) if not _meets(css, others)), ""):
        yield css
        return
    found: dict[str, None] = {}
    for image in own:
        if any(map(image.is_meant, found)):
            continue
        alike = [one for one in others if one.is_meant(by_src(image.image.tag, image.src))]
        found[_fewest(filter(image.is_meant, _alone(image)), alike)] = None
    yield from found


def _fewest(selectors: Iterable[str], others: Sequence[LocalImage]) -> str:
    """The selector that means the fewest of some images; of equal ones the first."""
    best, least = "", len(others) + 1
    for css in selectors:
        count = 0
        for one in others:
            count += one.is_meant(css)
            if count >= least:
                break
        else:
            best, least = css, count
        if not least:
            break
    return best


def _meets(css: str, images: Iterable[LocalImage]) -> bool:
    return any(one.is_meant(css) for one in images)


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
    around = [css for tag in reversed(images[0].ancestors) for css in _of_tag(tag)]
    yield from (f"{css} img" for css in around if all(one.is_meant(f"{css} img") for one in images))


def _of_tag(tag: Tag) -> Iterator[str]:
    """Selectors of an element that an image is in, the plainest first."""
    yield from (f".{name}" for name in classes_of(tag) if _PLAIN.fullmatch(name))
    if (id_ := value_of(tag, "id") or "") and _PLAIN.fullmatch(id_):
        yield f"#{id_}"
    yield tag.name


def _alone(image: LocalImage) -> Iterator[str]:
    """Selectors of one image, the plainest first."""
    tag = image.image.tag
    src = by_src(tag, image.src)
    yield src
    yield from (f".{name}{src}" for name in _classes(image) if _PLAIN.fullmatch(name))
    for attribute in ("id", "width", "height", "alt", "title"):
        value = (value_of(tag, attribute) or "").strip()
        if value and not _QUOTED.search(value):
            yield f'[{attribute}="{value}"]{src}'
    around = [css for tag in reversed(image.ancestors) for css in _of_tag(tag) if css not in ("html", "body")]
    yield from (f"{css} {src}" for css in around)
    yield from (f"{outer} {inner} {src}" for i, inner in enumerate(around) for outer in around[i + 1 : i + _NEAR])


def _free(name: str, used: Counter[str]) -> str:
    used[name] += 1
    return name if used[name] == 1 else _free(f"{name}-{used[name]}", used)
