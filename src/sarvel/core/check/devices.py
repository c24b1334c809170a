"""Rules that ask what each device of the audience fetches: too little, too much, twice, more than the page may weigh."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass

from sarvel.core.amounts import weight
from sarvel.core.check.context import Context
from sarvel.core.check.rule import Finding
from sarvel.core.css.device import Device
from sarvel.core.css.media import parse_media
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.images import ImageElement
from sarvel.core.html.sizes import parse_sizes
from sarvel.core.html.source_selection import Pick, pick, supports
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.fit import Fit, fit
from sarvel.core.layout.ladder import DENSEST

_SOFT = 2 / 3  # of the pixels across that a device needs; with fewer, an image looks soft to everyone
_MANY = 0.2  # of all visits; what fewer meet may be the price of a short list
_SIZES_DIFFER = 0.02  # of the shown width, next to a CSS px of rounding
_KNOWN = ("src", "srcset", "sizes", "media", "type")


@dataclass(frozen=True)
class _Outcome:
    """The file that a device fetches for an image.

    Attributes:
        served: how that fits what the image means to serve.
        asked: how that fits what the device asks for.
        tag: the tag that it comes from.
    """

    visits: Visits
    pick: Pick
    served: Fit
    asked: Fit
    tag: Tag


def check_devices(page: Document, context: Context) -> Iterator[Finding]:
    """Findings that depend on devices; images whose markup a template engine writes are not judged."""
    known = [
        image
        for image in page.images
        if not any(holds_code(value_of(tag, name) or "") for tag in image.tags for name in _KNOWN)
    ]
    slots = {image.slot: context.slots[image.slot] for image in known if image.slot in context.slots}
    wanted = {name: [slot.shown.on(one.device) for one in context.audience] for name, slot in slots.items()}
    for image in known:
        if (shape := _shape(image, context)) not in context.fitting:
            found = _of_image(image, context, wanted.get(image.slot))
            yield from found
            if not found:
                context.fitting.add(shape)
    if len(known) == len(page.images):
        yield from _preloads(page, context)
    yield from _budgets(known, context)


def _shape(image: Image, context: Context) -> Hashable:
    """All that decides how well an image fits every device, but for names."""
    files = (context.lookup(one.url) for some in image.element.candidates for one in some)
    widths = tuple(value_of(tag, "width") for tag in image.tags)
    return image.element.offers, tuple(file.width if file else 0 for file in files), widths, image.slot


def _of_image(image: Image, context: Context, wanted: Sequence[float] | None) -> list[Finding]:
    outcomes = _outcomes(image, context, wanted)
    return [*_fits(outcomes, context), *(_against_slot(image.slot, outcomes, wanted) if wanted else ())]


def _outcomes(image: Image, context: Context, wanted: Sequence[float] | None) -> list[_Outcome]:
    """The outcomes of all visits; `wanted` is how wide the plan's slot shows the image on each, CSS px."""
    element, slot = image.element, context.slots.get(image.slot)
    outcomes = []
    for i, visits in enumerate(context.audience):
        found = pick(element, visits.device)
        lookup = context.lookup(found.url) if found.url else None
        px = lookup.width if lookup and lookup.width else None
        tag = image.tag if found.source is None else image.sources[found.source]
        densest = min(max(slot.densities), slot.widest / max(1.0, wanted[i])) if slot and wanted else _densest(found)
        shown = _shown(tag, visits.device)
        served = fit(found, visits.device, shown=shown, width=px, densest=densest)
        asked = (
            served if densest >= visits.device.dpr else fit(found, visits.device, shown=shown, width=px, densest=None)
        )
        outcomes.append(_Outcome(visits, found, served, asked, tag))
    return outcomes


def _shown(tag: Tag, device: Device) -> float | None:
    """The shown width that the width attribute of its source tells: hardly wider than the viewport."""
    width = (value_of(tag, "width") or "").strip()
    return min(float(width), device.width) if width.isdecimal() and int(width) else None


def _densest(found: Pick) -> float:
    """The density up to which an image is meant to be sharp; one file for all is not meant for dense screens."""
    return DENSEST if found.shown is not None else max(1.0, *(one.density for one in found.choices), 1.0)


def _fits(outcomes: Sequence[_Outcome], context: Context) -> Iterator[Finding]:
    """Findings about images that are soft or far too wide for many visits."""
    total = sum(one.visits.share for one in outcomes)
    soft = [one for one in outcomes if (one.served.share or 1) < _SOFT and _sound(one)]
    if _share(soft, total) >= _MANY:
        worst = min(soft, key=lambda one: one.served.share or 1)
        words = f"too few pixels for {_share(soft, total):.0%} of visits: {_told(worst, worst.served)}"
        yield Finding("image-soft", *_where(worst.tag), words)
    wide = [one for one in outcomes if one.pick.shown is not None and (one.asked.share or 1) > context.too_wide]
    wasted = [one for one in wide if _sound(one)]
    if _share(wasted, total) >= _MANY:
        worst = max(wasted, key=lambda one: one.asked.share or 1)
        words = f"far too many pixels for {_share(wasted, total):.0%} of visits: {_told(worst, worst.asked)}"
        yield Finding("image-wasteful", *_where(worst.tag), words)


def _sound(one: _Outcome) -> bool:
    """Tells whether sizes is as its author meant it; faults in it are findings of their own."""
    if one.pick.shown is None:
        return True
    entries = parse_sizes(value_of(one.tag, "sizes") or "")
    return any(entry.length for entry in entries) and not any(entry.fault for entry in entries)


def _share(some: Sequence[_Outcome], total: float) -> float:
    return sum(one.visits.share for one in some) / total


def _told(one: _Outcome, how: Fit) -> str:
    name = one.pick.url.rsplit("/", 1)[-1]
    return f"{one.visits.device} needs {how.needed} px across and gets {how.width:.0f} ({name})"


def _where(tag: Tag) -> tuple[int, int]:
    return span_of(tag, "srcset" if tag.get("srcset") else "src")


def _against_slot(slot: str, outcomes: Sequence[_Outcome], wanted: Sequence[float]) -> Iterator[Finding]:
    """A finding about a sizes that contradicts the plan's slot, which shows the image so wide on each visit, CSS px."""
    for one, px in zip(outcomes, wanted, strict=True):
        shown = one.pick.shown
        if shown is None or _is_natural(one.pick, px):
            continue
        if abs(shown - px) > max(1.0, _SIZES_DIFFER * px):
            words = f"sizes says {shown:g} px on {one.visits.device}, the slot {slot} shows {px:g}"
            yield Finding("sizes-contradict-the-slot", *span_of(one.tag, "sizes"), words)
            return


def _is_natural(found: Pick, wanted: float) -> bool:
    """Tells whether sizes says less than is wanted because no file is as wide: an image is by nature as wide as sizes says."""
    return found.shown is not None and found.shown < wanted and max(one.density for one in found.choices) <= 1


def _preloads(page: Document, context: Context) -> Iterator[Finding]:
    """Preload links that fetch what no image of the page does."""
    for link in page.links:
        if (
            "preload" not in (value_of(link, "rel") or "").lower().split()
            or (value_of(link, "as") or "").lower() != "image"
        ):
            continue
        values = link.values()
        if any(map(holds_code, values.values())):
            continue
        element = ImageElement(
            {
                "src": values.get("href", ""),
                "srcset": values.get("imagesrcset", ""),
                "sizes": values.get("imagesizes", ""),
            },
            (),
            link.start,
        )
        for device in (visits.device for visits in context.audience):
            if not parse_media(values.get("media", "")).matches(device) or not supports(values.get("type", ""), device):
                continue
            url = pick(element, device).url
            used = (pick(image.element, device).url for image in page.images)
            if url and not any(_same(url, other) for other in used) and not _named_elsewhere(url, page, context):
                words = f"on {device} it fetches {url.rsplit('/', 1)[-1]}, which no image of the page does"
                yield Finding(
                    "preload-not-used", *span_of(link, "imagesrcset" if "imagesrcset" in values else "href"), words
                )
                break


def _same(url: str, other: str) -> bool:
    one, two = url.removeprefix("./"), other.removeprefix("./")
    return one == two or one.endswith(f"/{two.lstrip('/')}") or (bool(one) and two.endswith(f"/{one.lstrip('/')}"))


def _named_elsewhere(url: str, page: Document, context: Context) -> bool:
    """Tells whether a poster, a drawing, a script or a stylesheet names it; of sheets that are not at hand, one may."""
    name = url.rsplit("/", 1)[-1]
    if name in _without([*page.links, *(tag for image in page.images for tag in image.tags)], page.text):
        return True
    if any(name in text for _, text in page.styles) or any(
        name in (value_of(tag, "style") or "") for tag in page.styled
    ):
        return True
    sheets = map(context.sheets, page.sheets)
    return any(
        sheet is None or any(one.url.endswith(name) for rule in sheet.declarations for one in rule.urls)
        for sheet in sheets
    )


def _without(tags: Iterable[Tag], text: str) -> str:
    """The text of a page without some of its tags."""
    parts, at = [], 0
    for tag in sorted(tags, key=lambda one: one.start):
        parts.append(text[at : tag.start])
        at = tag.end
    return "\n".join([*parts, text[at:]])


def _budgets(images: Sequence[Image], context: Context) -> Iterator[Finding]:
    """Findings about the weight of all images of a page on a device; a file that several show counts once."""
    for device, budget in context.budgets.items():
        weights: dict[str, tuple[int, Tag]] = {}
        for image in images:
            url = pick(image.element, device).url
            lookup = context.lookup(url) if url else None
            if lookup and lookup.weight:
                weights.setdefault(url, (lookup.weight, image.tag))
        total = sum(count for count, _ in weights.values())
        if total > budget:
            listed = sorted(weights.items(), key=lambda one: -one[1][0])
            told = ", ".join(f"{url.rsplit('/', 1)[-1]} {weight(count)}" for url, (count, _) in listed)
            words = f"on {device} the images of this page weigh {weight(total)}, its budget is {weight(budget)}: {told}"
            tag = listed[0][1][1]
            yield Finding("over-budget", tag.start, tag.end, words)
