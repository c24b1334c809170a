"""Rules for attributes: misspelt, twice, with values that no browser knows, or at odds with each other."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from sarvel.core.check.order import order_edits
from sarvel.core.check.rule import Finding
from sarvel.core.check.slips import did_you_mean, nearest
from sarvel.core.check.values import begins_with_auto, type_of
from sarvel.core.css.device import COMMON_FORMATS
from sarvel.core.html.document import Document, Image, PictureElement, has_more, is_bound, span_of, value_of
from sarvel.core.html.pieces import Edit, added, taken_away, written
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code

# HTML, section 4.8.3 "The img element", and 4.8.2 for source: their common attributes, which are commonly misspelt.
_NAMES = ("srcset", "sizes", "loading", "decoding", "fetchpriority", "height", "width", "crossorigin", "referrerpolicy")
_VALUES = {
    "loading": ("lazy", "eager"),
    "decoding": ("async", "sync", "auto"),
    "fetchpriority": ("high", "low", "auto"),
    "crossorigin": ("", "anonymous", "use-credentials"),
}
_TYPES = tuple(sorted(COMMON_FORMATS))
_NO_TYPES = {"image/jpg": "image/jpeg", "image/pjpeg": "image/jpeg", "jpg": "image/jpeg", "image/svg": "image/svg+xml"}
_OF_PICTURE = ("src", "srcset", "sizes", "media", "type")
_LATER = re.compile(r"data-|v-|ng-|x-")  # attributes by which scripts bring the file, or write another attribute
_NEW = re.compile(r"\.(avif|jxl)(?:[?#].*)?$", re.IGNORECASE)
_PX = re.compile(r"\s*(\d+)(?:\.0+)?\s*px\s*", re.IGNORECASE)
_NUMBER = re.compile(r"\s*\d+(?:\.\d+)?%?\s*")
_ELEMENT = re.compile(r"<(?!(?:source|img|script|template)\b)([a-z][\w-]*)", re.IGNORECASE)
_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)


def check_attributes(page: Document) -> Iterator[Finding]:
    """Findings about the attributes of pictures, sources and images that need no other information."""
    for picture in page.pictures:
        yield from _picture(picture, page.text)
    for image in page.images:
        for tag in image.tags:
            if not has_more(page.text, tag) and not tag.short:
                yield from _spelling(tag, page.text)
                yield from _type(tag)
        if not has_more(page.text, image.tag) and not image.tag.short:
            yield from _address(image)
            yield from _dimensions(image.tag)
            yield from _at_odds(image)
        yield from _formats(image, page.text)


def _picture(picture: PictureElement, text: str) -> Iterator[Finding]:
    for name in _OF_PICTURE:
        if value_of(picture.tag, name) is not None:
            words = f"this picture has a {name}, which browsers ignore"
            yield Finding("attribute-on-picture", *span_of(picture.tag, name), words)
    tags = [image.tag for image in picture.images]
    for tag in tags[1:]:
        yield Finding("several-images", tag.start, tag.end, "this picture holds another img already")
    if tags and picture.sources:
        inner = _COMMENT.sub("", text[picture.tag.end : tags[0].start])
        if (found := _ELEMENT.search(inner)) and not holds_code(inner):
            words = f"this img is inside a {found.group(1).lower()}, not directly in its picture"
            yield Finding("img-not-a-child", tags[0].start, tags[0].end, words)


def _spelling(tag: Tag, text: str) -> Iterator[Finding]:
    counts = Counter(one.name.lower() for one in tag.attributes)
    for name, count in counts.items():
        if count > 1:
            first, *others = [one for one in tag.attributes if one.name.lower() == name]
            words = f"this {tag.name} has {name} {_times(count)}"
            alike = all(one.value == first.value for one in others)
            edits = tuple(taken_away(text, one) for one in others) if alike else ()
            yield Finding("attribute-twice", others[0].start, others[0].end, words, "", edits)
    for one in tag.attributes:
        name, value = one.name.lower(), one.value.strip().lower()
        if name in _VALUES:
            if value not in _VALUES[name] and not holds_code(one.raw or "") and one.name == name:
                words = f"{name} knows no {value or 'empty value'}{did_you_mean(value, _VALUES[name])}"
                meant = nearest(value, _VALUES[name])
                edits = (Edit(one.start, one.end, written(one.name, meant)),) if meant else ()
                yield Finding(
                    "value-unknown", one.start, one.end, words, _write(written(name, meant) if meant else ""), edits
                )
        elif meant := _misspelt(name):
            edits = (Edit(one.start, one.start + len(one.name), meant),) if meant not in counts else ()
            words = f"no browser knows {one.name}: did you mean {meant}?"
            yield Finding("attribute-misspelt", one.start, one.end, words, _write(meant), edits)


def _misspelt(name: str) -> str:
    """The attribute that is meant by a name which no browser knows; "" if none is near enough."""
    joined = name.replace("-", "").replace("_", "")
    if name in _NAMES or not joined.isalpha():
        return ""
    return joined if joined in _NAMES else nearest(name, _NAMES) if name.isalpha() else ""


def _write(text: str) -> str:
    return f"Write {text}" if text else ""


def _times(count: int) -> str:
    return "twice" if count == 2 else f"{count} times"


def _type(tag: Tag) -> Iterator[Finding]:
    value = value_of(tag, "type") or ""
    type_ = type_of(tag)
    if tag.name == "source" and type_ and type_ not in COMMON_FORMATS and not holds_code(value):
        meant = _NO_TYPES.get(type_) or nearest(type_, _TYPES) or nearest(f"image/{type_}", _TYPES)
        if meant:
            place = span_of(tag, "type")
            words = f"no browser knows the type {type_}: did you mean {meant}?"
            edits = (Edit(*place, written("type", meant)),)
            yield Finding("type-unknown", *place, words, _write(written("type", meant)), edits)


def _address(image: Image) -> Iterator[Finding]:
    tag = image.tag
    later = any(_LATER.match(one.name.lower()) for one in tag.attributes)
    src = value_of(tag, "src")
    if later or (is_bound(tag, "src") and src is None) or is_bound(tag, "srcset"):
        return
    if src is None:
        yield Finding("address-missing", tag.start, tag.end, "this img has no src")
    elif not src.strip():
        yield Finding("address-missing", *span_of(tag, "src"), "the src of this img is empty")


def _dimensions(tag: Tag) -> Iterator[Finding]:
    faulty = [one for name in ("width", "height") if (one := tag.get(name)) and not _is_number(one.value)]
    if not faulty:
        return
    edits = [
        Edit(one.start, one.end, written(one.name, px.group(1))) for one in faulty if (px := _PX.fullmatch(one.value))
    ]
    words = f"the {faulty[0].name} of this img, '{faulty[0].value}', is no number"
    sure = len(edits) == len(faulty)
    cure = _write(" ".join(edit.text for edit in edits)) if sure else ""
    yield Finding("dimension-no-number", faulty[0].start, faulty[0].end, words, cure, tuple(edits) if sure else ())


def _is_number(value: str) -> bool:
    return bool(_NUMBER.fullmatch(value)) or holds_code(value)


def _at_odds(image: Image) -> Iterator[Finding]:
    tag = image.tag
    loading = (value_of(tag, "loading") or "").strip().lower()
    if loading == "lazy" and (value_of(tag, "fetchpriority") or "").strip().lower() == "high":
        words = "this img is urgent, and waits until it is scrolled to"
        yield Finding("lazy-and-urgent", *span_of(tag, "fetchpriority"), words)
    if (loading != "lazy" and not is_bound(tag, "loading")) or holds_code(value_of(tag, "loading") or ""):
        for one in image.tags:
            if not tag.get("loading") and begins_with_auto(one):
                words = "sizes is auto, and this img is not lazy"
                yield Finding("auto-not-lazy", *span_of(one, "sizes"), words)


def _formats(image: Image, text: str) -> Iterator[Finding]:
    src = value_of(image.tag, "src") or ""
    if (found := _NEW.search(src)) and not holds_code(src):
        words = f"browsers that do not know {_name(found.group(1))} have nothing to show"
        yield Finding("fallback-few-know", *span_of(image.tag, "src"), words)
    for i, tag in enumerate(image.sources):
        srcset = value_of(tag, "srcset") or ""
        endings = {found.group(1).lower() if (found := _NEW.search(one.url)) else "" for one in parse_srcset(srcset)}
        if value_of(tag, "type") is None and not is_bound(tag, "type") and len(endings) == 1 and "" not in endings:
            words = f"this source is {_name(*endings)} without stating it"
            type_ = written("type", f"image/{next(iter(endings))}")
            yield Finding("type-not-said", *span_of(tag, "srcset"), words, _write(type_), (added(tag, type_),))
        before = [one for one in image.sources[:i] if value_of(one, "media") == value_of(tag, "media")]
        if type_of(tag) == "image/avif" and any(type_of(one) == "image/webp" for one in before):
            words = "an earlier source of WebP matches whenever this one does, and nearly every browser takes it"
            at = min(image.sources.index(one) for one in before if type_of(one) == "image/webp")
            order = [*range(at), i, *range(at, i), *range(i + 1, len(image.sources))]
            edits = order_edits(text, image.sources, order)
            yield Finding("lighter-format-behind", tag.start, tag.end, words, "", edits)


def _name(ending: str) -> str:
    return {"avif": "AVIF", "jxl": "JPEG XL"}[ending.lower()]
