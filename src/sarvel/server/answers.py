"""Answers to requests for a file: what to send of it, by what the browser has and asks for. Pure: bytes in, bytes out.

RFC 9110 (HTTP Semantics): section 13 for conditions, section 14 for ranges, section 12.5.1 for Accept; RFC 8246 for
`immutable`.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.address.on_request import FOR_NOW

Headers = list[tuple[bytes, bytes]]

FOR_EVER = b"public, max-age=31536000, immutable"
"""Of a file that its address tells everything of."""

_NOT_KEPT = b"no-store"
_RANGE = re.compile(r"\s*bytes\s*=\s*(\d{0,18})\s*-\s*(\d{0,18})\s*", re.IGNORECASE | re.ASCII)


@dataclass(frozen=True)
class CachedFile:
    """A file to send.

    Attributes:
        content: its bytes.
        tag: its ETag, which tells its bytes.
        is_final: whether its content is final.
    """

    content: bytes
    tag: bytes
    media_type: str
    is_final: bool


def entry_of(content: bytes, media_type: str, *, is_final: bool) -> CachedFile:
    """A file with the tag that tells its bytes."""
    digest = hashlib.blake2b(content, digest_size=12).hexdigest()
    return CachedFile(content, f'"{digest}"'.encode(), media_type, is_final)


@dataclass(frozen=True)
class Answer:
    """An answer.

    Attributes:
        body: its bytes; of an answer to HEAD those of the answer to GET.
    """

    status: int
    headers: Headers
    body: bytes = b""


def answer(entry: CachedFile, asked: Mapping[bytes, bytes], *, varies: bool) -> Answer:
    """The answer with a file, or a part of it, or that the browser has it.

    Args:
        asked: header fields of the request, names in lower case.
        varies: whether other browsers get it in another format at the same address.
    """
    headers: Headers = [
        (b"etag", entry.tag),
        (b"cache-control", FOR_EVER if entry.is_final else FOR_NOW.encode()),
        (b"accept-ranges", b"bytes"),
        (b"x-content-type-options", b"nosniff"),
    ]
    if varies:
        headers.append((b"vary", b"Accept"))
    if _has(asked.get(b"if-none-match"), entry.tag):
        return Answer(304, headers)
    headers.append((b"content-type", entry.media_type.encode()))
    size = len(entry.content)
    span = None if not _is_still(asked.get(b"if-range"), entry.tag) else _span(asked.get(b"range"), size)
    if span is None:
        return Answer(200, [*headers, (b"content-length", b"%d" % size)], entry.content)
    first, behind = span
    if first >= behind:
        unmet = (b"content-range", b"bytes */%d" % size)
        return Answer(416, [unmet, (b"cache-control", _NOT_KEPT), (b"content-length", b"0")])
    part = (b"content-range", b"bytes %d-%d/%d" % (first, behind - 1, size))
    return Answer(206, [*headers, part, (b"content-length", b"%d" % (behind - first))], entry.content[first:behind])


def refusal(status: int, why: str, *others: tuple[bytes, bytes]) -> Answer:
    """An answer without a file, which no cache keeps."""
    body = f"{why}\n".encode()
    headers: Headers = [
        (b"content-type", b"text/plain; charset=utf-8"),
        (b"cache-control", _NOT_KEPT),
        (b"content-length", b"%d" % len(body)),
    ]
    return Answer(status, [*headers, *others], body)


def accepted(accept: str, media_types: Sequence[str]) -> int:
    """The number of the first of some media types that a browser names as acceptable; the last one for all others.

    Browsers that know a format name it; `image/*` is in the requests of old ones, too, and says nothing of new formats.

    Args:
        media_types: best first, at least one; the last is what every browser shows.
    """
    named = {kind for part in accept.lower().split(",") for kind in [_kind(part)] if kind}
    return next((number for number, one in enumerate(media_types) if one in named), len(media_types) - 1)


def _kind(part: str) -> str:
    """The media type of a part of Accept; "" for one with a weight of 0, which refuses it."""
    kind, *parameters = (piece.strip() for piece in part.split(";"))
    weights: Iterable[str] = (one[2:] for one in parameters if one.startswith("q="))
    return "" if any(re.fullmatch(r"0(\.0{0,3})?", weight.strip()) for weight in weights) else kind


def _has(said: bytes | None, tag: bytes) -> bool:
    """Whether If-None-Match names a tag; weak ones count (RFC 9110, section 13.1.2)."""
    if said is None:
        return False
    return said.strip() == b"*" or tag in {one.strip().removeprefix(b"W/") for one in said.split(b",")}


def _is_still(said: bytes | None, tag: bytes) -> bool:
    """Whether a part may be sent: If-Range names this tag, or is absent. A date never matches, because none is sent."""
    return said is None or said.strip() == tag


def _span(said: bytes | None, size: int) -> tuple[int, int] | None:
    """The part of a file that Range asks for, from and behind; an empty one if it is missing; None for all of it.

    Several parts at once are not sent, as RFC 9110, section 14.2, allows.
    """
    found = _RANGE.fullmatch(said.decode("latin-1")) if said else None
    if found is None or not (found[1] or found[2]):
        return None
    if not found[1]:
        return max(0, size - int(found[2])) if int(found[2]) else size, size
    first, last = int(found[1]), int(found[2]) if found[2] else size - 1
    if found[2] and last < first:
        return None
    return min(first, size), min(last + 1, size)
