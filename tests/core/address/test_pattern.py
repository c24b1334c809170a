"""Patterns of addresses of a service elsewhere: what fields say, how they are escaped, and what cannot be a pattern."""

from dataclasses import replace
from urllib.parse import parse_qs, urlsplit

import pytest

from sarvel.core.address.pattern import (
    FIELDS,
    OfService,
    PatternError,
    begin_of,
    check_pattern,
    is_pattern,
    origin_of,
    path_and_query,
)
from sarvel.core.address.seal import Keys
from sarvel.core.markup.picture import write_markup
from tests.core.edition.test_compose import BANNER, LAMP, only

KEYS = Keys((b"k" * 32,))
CROP = "{left}.{top}.{across}.{down}"


def way(pattern: str) -> OfService:
    return OfService(pattern, KEYS, lambda format_, likeness: 60 if format_ == "avif" else round(likeness))


@pytest.mark.parametrize(
    ("pattern", "url"),
    [
        ("/s/{master}/{width}", "/s/sea/K%C3%BCste%20am%20Abend.JPG/{w}"),
        ("/s?of={master}&w={width}", "/s?of=sea%2FK%C3%BCste%20am%20Abend.JPG&w={w}"),
        ("https://h/{slot}/{crop}/{width}x{height}.{ext}", "https://h/banner/desktop/{w}x{h}.avif"),
        ("/{left_share}/{across_share}/{format}/{quality}", "/0/1/avif/60"),
    ],
)
def test_fields(pattern: str, url: str) -> None:
    picture = only(BANNER)
    [*_, largest] = picture.crops[0].renditions["avif"]
    wanted = url.replace("{w}", str(largest.width)).replace("{h}", str(largest.height))
    assert way(pattern).of(picture, picture.crops[0], largest) == wanted


def test_crops_in_px_and_in_fractions_are_one_crop() -> None:
    picture = only(BANNER)  # 21:9 of 4800×3200 px
    crop = picture.crops[0]
    [*_, largest] = crop.renditions["avif"]
    px, shares = (
        [float(one) for one in way(pattern).of(picture, crop, largest).strip("/").split("/")]
        for pattern in ("/{left}/{top}/{across}/{down}", "/{left_share}/{top_share}/{across_share}/{down_share}")
    )
    assert px[0] == 0 and px[2] == 4800 and abs(px[3] - 4800 * 9 / 21) < 1
    assert [share * side for share, side in zip(shares, (4800, 3200) * 2, strict=True)] == pytest.approx(px, abs=1)


def test_every_field_says_something_that_a_query_holds() -> None:
    """A second way: the query is read as servers read it."""
    pattern = "https://h/x?" + "&".join(f"{name}={{{name}}}" for name in FIELDS)
    check_pattern(pattern)
    picture = only(BANNER)
    for crop in picture.crops:
        for ladder in crop.renditions.values():
            for one in ladder:
                url = way(pattern).of(picture, crop, one)
                told = {name: values[0] for name, values in parse_qs(urlsplit(url).query, strict_parsing=True).items()}
                assert told.keys() == set(FIELDS)
                assert told["master"] == LAMP.key and int(told["width"]) == one.width and told["digest"] == one.digest
                assert int(told["right"]) - int(told["left"]) == int(told["across"]) == round(crop.box.width)
                assert float(told["left_share"]) == pytest.approx(crop.box.left / LAMP.width, abs=1e-6)
                sealed = path_and_query(url).replace(told["seal"], "")
                assert KEYS.fits(sealed, told["seal"])
                assert int(told["quality"]) == (60 if one.format == "avif" else 93)


def test_numbers_by_hand_and_formats_by_accept() -> None:
    slot = replace(BANNER, finish=replace(BANNER.finish, quality={"avif": 41}))
    picture = only(slot)
    [first, *_] = picture.crops[0].renditions["avif"]
    assert way("/{master}/{width}/{quality}").of(picture, picture.crops[0], first).endswith("/41")
    without = way("/{digest}/{width}/{master}")
    assert without.by_accept and not way("/{master}.{ext}").by_accept
    assert len(write_markup(picture, without, None).sources) == 1
    other = picture.crops[0].renditions["jpeg"][0]
    assert without.of(picture, picture.crops[0], first) == without.of(picture, picture.crops[0], other)


@pytest.mark.parametrize(
    ("pattern", "words"),
    [
        ("/{master}/{size}", "no field {size}; fields are {master}, "),
        ("/{master}/{width", "a single brace"),
        ("/{}/{width}", "no field {}"),
        (f"/{CROP}/{{width}}", "lacks {master}"),
        (f"/{{master}}/{CROP}", "lacks {width}"),
        ("/{master}/{width}/{left}", "does not tell one crop"),
        ("/{master}/{width}/{slot}", "does not tell one crop"),
        ("/{master}/{width}/{digest}/{seal}/{seal}", "holds {seal} twice"),
        ("/{master}/{width}/{digest},", "it ends in a comma"),
    ],
)
def test_what_cannot_be_a_pattern(pattern: str, words: str) -> None:
    with pytest.raises(PatternError, match=words.replace("{", r"\{").replace("}", r"\}")):
        check_pattern(pattern)


@pytest.mark.parametrize(
    "crop", ["{slot}/{crop}", "{digest}", CROP, "{left_share}{top_share}{right_share}{bottom_share}"]
)
def test_what_tells_crops_apart(crop: str) -> None:
    check_pattern(f"/{{master}}/{{width}}/{crop}")


@pytest.mark.parametrize(
    ("url", "origin", "rest"),
    [
        ("https://h:8/a/b?c=//d", "https://h:8", "/a/b?c=//d"),
        ("//h/a", "//h", "/a"),
        ("/a?b", "", "/a?b"),
        ("a/b//c", "", "a/b//c"),
        ("https://h", "https://h", ""),
    ],
)
def test_origins(url: str, origin: str, rest: str) -> None:
    assert (origin_of(url), path_and_query(url)) == (origin, rest)


def test_what_a_pattern_is() -> None:
    assert is_pattern("/{a}") and is_pattern("/a}") and not is_pattern("/pictures")
    assert begin_of("https://h/x/{master}/{width}") == "https://h/x/"
