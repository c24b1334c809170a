"""Sealed addresses: read back as they were written, and only then."""

from dataclasses import replace
from urllib.parse import unquote

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.address.on_request import Asked, OnRequest, asked_of, has_form, in_all_formats, unsealed
from sarvel.core.address.seal import Keys
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.markup.backgrounds import background_rules
from sarvel.core.markup.picture import write_markup
from sarvel.core.markup.preload import preloads
from tests.core.edition.test_compose import BANNER, LAMP, only

KEYS = Keys((b"k" * 32,))
FORM = Asked("card", "boats/boat.jpg", "desktop", 960, "3f9c2a1b7d", "avif")
NAMES = st.text(min_size=1).filter(lambda text: "/" not in text)


def sealed(asked: Asked) -> str:
    return f"{asked.path}~{KEYS.seal(asked.path)}"


def test_the_form() -> None:
    assert FORM.path == "card/boats/boat.jpg/desktop-960-3f9c2a1b7d.avif"
    assert replace(FORM, ending="").path == "card/boats/boat.jpg/desktop-960-3f9c2a1b7d"


@given(NAMES, st.text(min_size=1), st.text(min_size=1), st.integers(1, 16383), st.sampled_from(["", "jpg", "avif"]))
def test_read_back_as_written(slot: str, master: str, crop: str, width: int, ending: str) -> None:
    asked = Asked(slot, master, crop, width, "0123456789", ending)
    assert unsealed(sealed(asked), KEYS) == asked == has_form(sealed(asked))


@given(st.integers(0, 80), st.characters())
def test_one_other_letter_and_nothing_opens_it(place: int, letter: str) -> None:
    path = sealed(FORM)
    other = path[: place % len(path)] + letter + path[place % len(path) + 1 :]
    assert (unsealed(other, KEYS) is not None) == (other == path)


@pytest.mark.parametrize(
    "path",
    [
        "",
        "~",
        FORM.path,
        f"{FORM.path}~",
        f"{FORM.path}~{'A' * 22}",
        f"{sealed(FORM)}/",
        f"/{sealed(FORM)}",
        f"{sealed(FORM)}~{KEYS.seal(FORM.path)}",
        f"{FORM.path}~{Keys((b'o' * 32,)).seal(FORM.path)}",
        "card/" + "x" * 5000 + "~" + "A" * 22,
    ],
)
def test_what_is_not_sealed(path: str) -> None:
    assert unsealed(path, KEYS) is None


@pytest.mark.parametrize(
    "path", ["card/boat.jpg", "a/b/c-0-0123456789.avif", "a/b/c-9-012345678.avif", "c-9-0123456789.avif"]
)
def test_what_is_sealed_and_has_not_the_form(path: str) -> None:
    assert unsealed(f"{path}~{KEYS.seal(path)}", KEYS) is None


def test_markup_of_sealed_addresses() -> None:
    """Each address leads back to its crop, width and format; the master's name is escaped."""
    picture, way = only(BANNER), OnRequest("/p", KEYS)
    markup = write_markup(picture, way, None)
    listed = [(crop, ladder) for crop in picture.crops for ladder in crop.renditions.values()]
    for source, (crop, ladder) in zip((*markup.sources, markup.image), listed, strict=True):
        for candidate, rendition in zip(parse_srcset(source.srcset), ladder, strict=True):
            asked = unsealed(unquote(candidate.url).removeprefix("/p/"), KEYS)
            assert asked == asked_of(picture, crop, rendition, by_accept=False)
            assert asked and (asked.slot, asked.master, asked.crop) == ("banner", LAMP.key, crop.rule.name)
            assert (asked.width, asked.digest) == (rendition.width, rendition.digest) == (candidate.width, asked.digest)
    assert "K%C3%BCste%20am%20Abend.JPG" in markup.src


def test_one_address_for_all_formats() -> None:
    picture, way = only(replace(BANNER, use="background"), reads=None), OnRequest("", KEYS, by_accept=True)
    markup = write_markup(picture, way, None)
    assert [(one.media, one.type) for one in markup.sources] == [("(min-width: 1024px)", "")] and not markup.image.type
    [first, *_] = parse_srcset(markup.image.srcset)
    asked = unsealed(unquote(first.url), KEYS)
    crop = picture.crops[-1]
    files = in_all_formats(crop.renditions, first.width or 0)
    assert asked and asked.ending == "" and [one.format for one in files] == ["avif", "jpeg"]
    assert asked.digest not in {one.digest for one in files}  # of both: another encoder of either is another address
    assert [link.type for link in preloads(picture, way)] == ["", ""]
    assert "type(" not in background_rules([picture], [0, 1024], way)
