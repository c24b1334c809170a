"""Rules for the box that stylesheets give an image: squeezed, stretched, or laid out as no one meant.

Reported only if certain: all stylesheets are at hand, and the ancestors of the image do not matter.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import TypeAlias

from sarvel.core.check.context import Context, FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.check.values import begins_with_auto, css_px, dimension
from sarvel.core.css.device import Device
from sarvel.core.html.document import Document, Image, has_more, span_of, value_of
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.html.source_selection import pick
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.template_code import holds_code

_DIFFER = 0.02  # of a width, next to a CSS px of rounding
_FAR = 1.5  # times as wide: by so much another file is taken
_SHAPING = ("height", "aspect-ratio", "object-fit")  # properties that give an image a shape no matter what its file has
_NOTHING = frozenset({"auto", "none", "initial", "unset", "revert", "revert-layer", "inherit"})
_READ = ("width", "height", "srcset", "sizes", "style", "class")

Values: TypeAlias = Mapping[str, str]
_Judge: TypeAlias = Callable[[Image, Device, Values], Finding | None]


def check_boxes(page: Document, styles: PageStyles, context: Context) -> Iterator[Finding]:
    """All findings about the boxes of a page's images, each told for the narrowest device that meets it.

    Args:
        styles: what stylesheets say of its images.
        context: files, stylesheets, audience and settings to judge it by.
    """
    if not page.whole:
        return
    devices = sorted({visits.device for visits in context.audience}, key=lambda one: (one.width, one.dpr))
    for image in page.images:
        judges = list(_judges(image)) if not has_more(page.text, image.tag) and not _is_code(image) else []
        if not judges or not styles.complete:
            continue
        said = [(device, styles.values(image.tag, device)) for device in devices]
        yield from _unsaid_shapes(image, {id(values): values for _, values in said}.values(), context.lookup)
        for judge in judges:
            found = (judge(image, device, values) for device, values in said)
            yield from [one for one in found if one][:1]


def _unsaid_shapes(image: Image, said: Iterable[Values], lookup: FileLookup) -> Iterator[Finding]:
    """Findings about sources of another shape than the attributes of their img reserve space for."""
    width, height = dimension(image.tag, "width"), dimension(image.tag, "height")
    if not width or not height or any(_sets(values, name) for values in said for name in _SHAPING):
        return
    for source in image.sources:
        first = next((one.url for one in parse_srcset(value_of(source, "srcset") or "") if not one.fault), "")
        file = lookup(first) if first and source.get("media") and not source.get("width") else None
        if file and file.width and abs(file.width / file.height / (width / height) - 1) > _DIFFER:
            words = f"{first} is {file.width}×{file.height}, and space is reserved for {width}×{height}"
            yield Finding("shape-not-said", source.start, source.end, words)


def _judges(image: Image) -> Iterator[_Judge]:
    """The rules that may be broken, going by the attributes alone."""
    if dimension(image.tag, "width") and dimension(image.tag, "height"):
        yield _squeezed
    sized = [tag for tag in image.tags if tag.get("sizes")]
    if sized and not dimension(image.tag, "width"):
        yield _stretched
    if sized:
        yield _contradicted
    if value_of(image.tag, "loading") == "lazy" and any(map(begins_with_auto, sized)):
        yield _auto


def _is_code(image: Image) -> bool:
    return any(holds_code(value_of(tag, name) or "") for tag in image.tags for name in _READ)


def _squeezed(image: Image, device: Device, values: Values) -> Finding | None:
    """A finding if a rule changes the width of an image, and the height of its attribute stays."""
    if "height" in values or any(_sets(values, name) for name in ("min-height", "max-height", "object-fit")):
        return None
    width, height = dimension(image.tag, "width"), dimension(image.tag, "height")
    ways = ((name, css_px(values.get(name, ""), device)) for name in ("width", "max-width") if _sets(values, name))
    for name, px in ways:
        fluid = px is None and "%" in values[name] and width > device.width
        changed = px is not None and (px < width or name == "width") and abs(px - width) > max(1.0, _DIFFER * width)
        if fluid or changed:
            words = (
                f"on {device} {name}: {values[name]} changes the width of this img, and its height stays {height} px"
            )
            return Finding("height-stays", *span_of(image.tag, "height"), words)
    return None


def _stretched(image: Image, device: Device, values: Values) -> Finding | None:
    """A finding if sizes makes an image wider than the widest file that it lists."""
    found = pick(image.element, device)
    if found.shown is None or not found.choices or any(_sets(values, name) for name in ("width", "height")):
        return None
    widest = max(one.density for one in found.choices) * found.shown
    most = css_px(values.get("max-width", ""), device)
    shown = min(found.shown, most) if most is not None else found.shown
    if shown <= max(widest + 1, widest * (1 + _DIFFER)):
        return None
    tag = image.tag if found.source is None else image.sources[found.source]
    words = f"on {device} sizes makes this img {shown:.0f} px wide by nature, its widest file has {widest:.0f}"
    return Finding("sizes-beyond-the-files", *span_of(tag, "sizes"), words)


def _contradicted(image: Image, device: Device, values: Values) -> Finding | None:
    """A finding if sizes says far more than a rule lets an image be, or far less than it makes it."""
    if "width" not in values and "max-width" not in values:
        return None
    limits = [px for name in ("width", "max-width") if (px := css_px(values.get(name, ""), device))]
    exact = css_px(values.get("width", ""), device) if not _sets(values, "max-width") else None
    if not limits and not exact:
        return None
    found = pick(image.element, device)
    if found.shown is None or not any(one.width is not None for one in found.choices):
        return None
    much = limits and found.shown > _FAR * min(limits)
    if not much and not (exact and exact > _FAR * found.shown):
        return None
    tag = image.tag if found.source is None else image.sources[found.source]
    width = min(limits) if much else exact
    words = f"on {device} sizes says {found.shown:.0f} px, and a rule makes this img {width:.0f} px wide"
    return Finding("sizes-contradict-the-style", *span_of(tag, "sizes"), words)


def _auto(image: Image, device: Device, values: Values) -> Finding | None:
    """A finding if `auto` in sizes leaves an image without a width or a height of its own."""
    width, height = (dimension(image.tag, name) or _sets(values, name) for name in ("width", "height"))
    ratio = _sets(values, "aspect-ratio") or (dimension(image.tag, "width") and dimension(image.tag, "height"))
    if (width and (height or ratio)) or (height and ratio):
        return None
    words = f"on {device} nothing sets the {'height' if width else 'width'} of this lazy img, and its sizes begins with auto"
    return Finding("auto-without-width", *span_of(image.tag, "sizes"), words)


def _sets(values: Values, name: str) -> bool:
    """Tells whether a property has a value that says something."""
    return values.get(name, "none").strip().lower() not in _NOTHING
