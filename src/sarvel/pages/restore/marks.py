"""Marks: by which a woven block shows whether anyone has changed in it what Sarvel wrote.

The mark of a woven img (see `core.html.master_attribute`) holds digests of four things: of the markup that hangs together (the
elements, their attributes, and that nothing stands between them), of the alt that came from the plan, of the style of a
placeholder, and of how the image is loaded. What an author writes on the img itself is in none of them, and neither are line
breaks and quotes, which formatters change.

An alt, a new style or a way of loading that was changed is the author's from then on. Other changes cannot be
kept when the block is woven again; such a block is not changed, and is reported.
"""

from __future__ import annotations

import functools
import hashlib
import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.master_attribute import MARK, author_value, mark_in
from sarvel.core.html.tags import Attribute, Tag, Wanted

WAS_MARKDOWN, WAS_PICTURE = "data-was-markdown", "data-was-picture"
"""Attributes that keep the whole of the author's words: an image in Markdown, a picture by hand."""


_CONNECTED = ("srcset", "sizes", "width", "height")
_LOADING = ("loading", "decoding", "fetchpriority")
OURS = frozenset({"src", "alt", "style", *_CONNECTED, *_LOADING})
"""Names of attributes of an img that are Sarvel's from its `src` on."""

_WRITTEN = Wanted(frozenset({"picture", "source", "img"}))
# The ways of loading that are ever written; names that the author's tag says itself are left out of them.
_WAYS = (
    {"loading": "lazy", "decoding": "async"},
    {"loading": "eager", "decoding": "async", "fetchpriority": "high"},
    {"loading": "eager", "decoding": "async"},
)
_AROUND_MARKS = re.compile(r"\s*([:;,{}()])\s*")
_LAST_COMMA = re.compile(r",(?=[}\])])")
_DIGITS = (8, 5, 5, 5)  # hexadecimal, of each digest: a change goes unseen once in a million or more
DIGITS = sum(_DIGITS)
"""Hexadecimal digits of a mark."""


@dataclass(frozen=True)
class Changes:
    """The changes of a block.

    Attributes:
        kept: attributes that are the author's now, as they stand.
        lost: the change that cannot be kept, in words; or "".
    """

    kept: tuple[str, ...] = ()
    lost: str = ""


def mark_of(text: str, dialect: Dialect) -> str:
    """The mark of a block as it was just written: the value of its attribute."""
    return _mark(_parts(text, dialect))


def changes(text: str, dialect: Dialect) -> Changes:
    """Works out the changes of a woven block since it was written."""
    parts = _parts(text, dialect)
    if parts.mark is None or len(parts.mark) != DIGITS or set(parts.mark) - set("0123456789abcdef"):
        return Changes(lost=f"its mark, {MARK}, was taken away or written to")
    if parts.mark == _mark(parts):
        return Changes()
    connected, alt, style, loading = _split(parts.mark)
    if connected != digest_of(parts.connected, _DIGITS[0]):
        return Changes(lost=parts.strange or "what Sarvel wrote was changed by hand")
    kept, lost = _soft_changes(parts, alt, style, loading)
    gone = next((f"its {name} was taken away" for name in kept if name not in parts.written), "")
    if lost or gone:
        return Changes(lost=lost or gone)
    return Changes(tuple(parts.written[name] for name in kept))


def _soft_changes(parts: _Parts, alt: str, style: str, loading: str) -> tuple[list[str], str]:
    """Names of changed attributes that become the author's; and the change that cannot be kept, in words.

    Args:
        alt: digest of the alt that was written.
        style: digest of the style that was written.
        loading: digest of the way of loading that was written.
    """
    kept: list[str] = []
    if alt != digest_of([str(parts.alt)], _DIGITS[1]):
        kept.append("alt")
    if style != digest_of([str(parts.style)], _DIGITS[2]):
        if style != digest_of([str(None)], _DIGITS[2]):
            return [], "the style of its placeholder was changed by hand"
        kept.append("style")
    if loading != _loading_digest(parts.loading):
        before = next((way for way in _ways() if _loading_digest(way) == loading), None)
        if before is None or set(before) - set(parts.loading):
            return [], "how it is loaded was changed by hand"
        kept += [name for name, value in parts.loading.items() if before.get(name) != value]
    return kept, ""


@dataclass(frozen=True)
class _Parts:
    """A block as it stands.

    Attributes:
        mark: its mark; None if it has none.
        strange: content that is never written, in words; or "".
        alt: ours; None where the author's counts.
        style: ours; or None.
        loading: ours, by name.
        written: attributes of the img that are ours, as they stand.
    """

    mark: str | None
    connected: Sequence[str]
    strange: str
    alt: str | None
    style: str | None
    loading: Mapping[str, str]
    written: Mapping[str, str]


def _parts(text: str, dialect: Dialect) -> _Parts:
    connected: list[str] = []
    strange: list[str] = []
    image: Tag | None = None
    at = 0
    for tag in dialect.tags_of_fragment(text, _WRITTEN):
        if between := text[at : tag.start].strip():
            strange.append(f"'{_shortened(between)}' stands between its tags")
        connected += [between, f"{'/' * tag.closing}{tag.name}"]
        if tag.name == "img" and image is None:
            image = tag
            connected += _connected_of_image(text, tag)
        else:
            connected += [
                *(f"{one.name.lower()}={_normal(one.value)}" for one in tag.attributes),
                _code_within(text, tag),
            ]
        at = tag.end
    connected.append(text[at:].strip())
    ours = list(_ours(image)) if image else []
    values: dict[str, str] = {}
    for one in ours:
        values.setdefault(one.name.lower(), one.value if one.name.lower() == "alt" else _normal(one.value))
    return _Parts(
        mark_in(image) if image else None,
        connected,
        "; ".join(strange),
        values.get("alt"),
        values.get("style"),
        {name: value for name, value in values.items() if name in _LOADING},
        {one.name.lower(): text[one.start : one.end] for one in ours},
    )


@functools.lru_cache(maxsize=512)
def _normal(value: str) -> str:
    """A value without what formatters of pages and scripts change: line ends, spaces around marks, marks at ends."""
    tight = _AROUND_MARKS.sub(r"\1", " ".join(value.split()))
    return _LAST_COMMA.sub("", tight).removesuffix(";").replace("'", '"')


def _ours(image: Tag) -> Iterator[Attribute]:
    """The attributes of an img that are Sarvel's."""
    names = [one.name.lower() for one in image.attributes]
    start = names.index("src") if "src" in names else len(names)
    return (one for one, name in zip(image.attributes[start:], names[start:], strict=True) if name in OURS)


def _connected_of_image(text: str, image: Tag) -> Iterator[str]:
    """The attributes that a woven img must have, in order; of an image in Markdown, all."""
    whole = kept_whole(image) is not None
    ours = list(_ours(image))
    counted = image.attributes if whole else ours
    names = [one.name.lower() for one in counted]
    for one, name in zip(counted, names, strict=True):
        if whole or name in ("src", *_CONNECTED) or names.count(name) > 1:
            yield f"{name}={_normal(author_value(one))}"
    if whole and (
        code := _code_within(text, image)
    ):  # the author's own text is in an attribute, and has no room for it
        yield code
    starts = {one.start for one in ours}
    for one, following in itertools.pairwise(image.attributes):
        if starts.issuperset((one.start, following.start)) and (code := text[one.end : following.start].strip()):
            yield code


def kept_whole(tag: Tag) -> Attribute | None:
    """The attribute of a woven img that keeps the whole of the author's words; None if it has none."""
    return tag.get(WAS_MARKDOWN) or tag.get(WAS_PICTURE)


def _code_within(text: str, tag: Tag) -> str:
    """Template code in a tag: all next to its name and attributes."""
    ends = [tag.start + 1 + tag.closing + len(tag.name), *(one.end for one in tag.attributes)]
    starts = [*(one.start for one in tag.attributes), tag.end - 1]
    return "".join(text[end:start] for end, start in zip(ends, starts, strict=True)).replace("/", "").strip()


def _mark(parts: _Parts) -> str:
    told = ([str(parts.alt)], [str(parts.style)])
    first = digest_of(parts.connected, _DIGITS[0])
    return "".join([first, *map(digest_of, told, _DIGITS[1:3]), _loading_digest(parts.loading)])


def _split(mark: str) -> list[str]:
    """The digests of a mark."""
    ends = list(itertools.accumulate(_DIGITS))
    return [mark[end - count : end] for end, count in zip(ends, _DIGITS, strict=True)]


def _ways() -> Iterator[dict[str, str]]:
    """Every way of loading that can have been written."""
    for way in _WAYS:
        for count in range(len(way) + 1):
            for names in itertools.combinations(way, count):
                yield {name: way[name] for name in names}


def _loading_digest(loading: Mapping[str, str]) -> str:
    return digest_of([f"{name}={loading[name]}" for name in sorted(loading)], _DIGITS[3])


def digest_of(parts: Sequence[str], digits: int = _DIGITS[0]) -> str:
    """A digest of a list of texts, of so many hexadecimal digits."""
    told = "\0".join(parts).encode("utf-8", "surrogatepass")
    return hashlib.blake2b(told).hexdigest()[:digits]


def _shortened(text: str) -> str:
    line = " ".join(text.split())
    return line if len(line) <= 40 else f"{line[:39]}…"
