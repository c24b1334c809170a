"""Answers by RFC 9110: conditions, ranges, formats by Accept. A table for each, and ranges against slices."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.server.answers import FOR_EVER, Answer, accepted, answer, entry_of, refusal

BODY = bytes(range(100))
ENTRY = entry_of(BODY, "image/avif", is_final=True)


def got(**fields: str) -> Answer:
    asked = {name.replace("_", "-").encode(): value.encode() for name, value in fields.items()}
    return answer(ENTRY, asked, varies=False)


def field(told: Answer, name: str) -> str | None:
    return next((value.decode() for key, value in told.headers if key == name.encode()), None)


def test_a_whole_file() -> None:
    told = got()
    assert (told.status, told.body, field(told, "content-length")) == (200, BODY, "100")
    assert field(told, "cache-control") == FOR_EVER.decode() == "public, max-age=31536000, immutable"
    assert field(told, "content-type") == "image/avif" and field(told, "accept-ranges") == "bytes"
    assert re.fullmatch(r'"[0-9a-f]{24}"', field(told, "etag") or "") and field(told, "vary") is None
    assert field(answer(ENTRY, {}, varies=True), "vary") == "Accept"
    first = answer(entry_of(BODY, "image/avif", is_final=False), {}, varies=False)
    assert field(first, "cache-control") == "public, max-age=60" and field(first, "etag") == field(told, "etag")
    assert entry_of(BODY + b"x", "image/avif", is_final=True).tag != ENTRY.tag


TAG = ENTRY.tag.decode()


@pytest.mark.parametrize(
    ("said", "status"),
    [
        (TAG, 304),
        (f"W/{TAG}", 304),
        (f'"other", {TAG}', 304),
        ("*", 304),
        ('"other"', 200),
        (TAG.strip('"'), 200),
    ],
)
def test_what_the_browser_has(said: str, status: int) -> None:
    told = got(if_none_match=said, range="bytes=0-1")  # the condition comes first: RFC 9110, section 13.2.2
    assert told.status == (206 if status == 200 else status)
    if status == 304:
        assert not told.body and field(told, "content-length") is None and field(told, "etag") == TAG
        assert field(told, "cache-control") == FOR_EVER.decode()


@pytest.mark.parametrize(
    ("said", "status", "span"),
    [  # RFC 9110, section 14.1.2, of a file of 100 bytes
        ("bytes=0-49", 206, (0, 50)),
        ("bytes=50-", 206, (50, 100)),
        ("bytes=-10", 206, (90, 100)),
        ("bytes=-1000", 206, (0, 100)),
        ("bytes=99-200", 206, (99, 100)),
        ("Bytes = 5 - 5", 206, (5, 6)),
        ("bytes=100-", 416, None),
        ("bytes=-0", 416, None),
        ("bytes=9-5", 200, None),
        ("bytes=-", 200, None),
        ("bytes=0-1,3-4", 200, None),
        ("pages=0-1", 200, None),
        ("bytes=99999999999999999999-", 200, None),
        ("bytes=٣-٤", 200, None),
    ],
)
def test_ranges(said: str, status: int, span: tuple[int, int] | None) -> None:
    told = got(range=said)
    assert told.status == status
    if status == 416:
        assert field(told, "content-range") == "bytes */100" and not told.body
    elif span:
        assert told.body == BODY[slice(*span)] and field(told, "content-length") == str(span[1] - span[0])
        assert field(told, "content-range") == f"bytes {span[0]}-{span[1] - 1}/100"
    else:
        assert told.body == BODY


@given(st.integers(0, 120), st.integers(0, 120))
def test_ranges_are_slices(first: int, last: int) -> None:
    told = got(range=f"bytes={first}-{last}")
    assert told.body == (BODY[first : last + 1] if first <= last else BODY)


def test_a_part_of_what_is_still_the_same() -> None:
    assert got(range="bytes=0-1", if_range=TAG).status == 206
    assert {got(range="bytes=0-1", if_range=one).status for one in ('"other"', "Wed, 25 Nov 2026 10:00:00 GMT")} == {
        200
    }


TYPES = ["image/jxl", "image/avif", "image/webp", "image/jpeg"]


@pytest.mark.parametrize(
    ("accept", "wanted"),
    [
        ("image/avif,image/webp,image/apng,image/svg+xml,image/*,*/*;q=0.8", "image/avif"),  # Chromium
        ("image/webp,image/avif,image/jxl,video/*;q=0.8,*/*;q=0.5", "image/jxl"),
        ("image/webp,*/*", "image/webp"),
        ("image/png,image/*;q=0.8,*/*;q=0.5", "image/jpeg"),
        ("*/*", "image/jpeg"),
        ("", "image/jpeg"),
        ("text/html", "image/jpeg"),
        ("image/avif;q=0, image/webp", "image/webp"),
        ("image/avif;q=0.000,image/webp;q=0.001", "image/webp"),
        ("IMAGE/AVIF", "image/avif"),
    ],
)
def test_the_format_that_a_browser_accepts(accept: str, wanted: str) -> None:
    assert TYPES[accepted(accept, TYPES)] == wanted


def test_refusals_are_kept_by_no_cache() -> None:
    told = refusal(503, "later", (b"retry-after", b"7"))
    assert (told.status, told.body) == (503, b"later\n") and field(told, "retry-after") == "7"
    assert field(told, "cache-control") == "no-store"
