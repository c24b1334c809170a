"""The search for encoder numbers."""

from collections.abc import Callable

import numpy as np
import pytest

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Pixels, pixels_from_light, reduce_pixels
from sarvel.demo import SITE
from sarvel.encode.codecs import CODECS, Codec, EncoderSettings
from sarvel.encode.codecs.typical import USUAL
from sarvel.encode.decode import read_pixels
from sarvel.encode.quality_search import CLOSE, NEXT_CLOSE, Attempt, find_quality, quality_within


@pytest.fixture(scope="module")
def rung() -> Pixels:
    pixels = read_pixels(SITE / "masters" / "keeper-at-the-rail.jpg", "keeper-at-the-rail.jpg")
    height, width = pixels.shape[:2]
    return pixels_from_light(reduce_pixels(pixels, Box(0, 0, width, height), 360, 480))


@pytest.mark.parametrize("name", ["avif", "webp", "jpeg"])
@pytest.mark.parametrize("target", [91.0, 93.0, 95.0])
def test_the_target_is_met_and_not_by_much(rung: Pixels, name: str, target: float) -> None:
    found = find_quality(rung, Reference(rung), CODECS[name], target, drawn=False)
    assert found.likeness == pytest.approx(target, abs=CLOSE)
    assert found.content == CODECS[name].encode(rung, EncoderSettings(found.quality))


@pytest.mark.parametrize("start", [5, 40, 98])
def test_where_it_begins_does_not_matter_much(rung: Pixels, start: int) -> None:
    narrower = Attempt(start, 94.0, b"", usual=CODECS["jpeg"].expected(94.0, Reference(rung).texture()))
    found = find_quality(rung, Reference(rung), CODECS["jpeg"], 94.0, drawn=False, narrower=narrower)
    assert found.likeness == pytest.approx(94, abs=NEXT_CLOSE)


def test_a_target_out_of_reach_gives_the_nearest() -> None:
    noise = np.random.default_rng(1).integers(0, 256, (60, 60, 3), dtype=np.uint8)
    best = find_quality(noise, Reference(noise), CODECS["webp"], 99.9, drawn=False)
    assert best.quality >= 90
    flat = np.full((60, 60, 3), 200, np.uint8)
    least = find_quality(flat, Reference(flat), CODECS["jpeg"], 91.0, drawn=False)
    assert least.quality == 5 and least.likeness > 95


def test_rungs_wider_than_the_middle_one_take_its_number() -> None:
    numbers = EncoderNumbers(((300, 60, 92.8), (600, 54, 93.1), (1000, 50, 93.0)))
    assert [numbers.at(width) for width in (300, 600, 1000, 2000)] == [60, 54, 50, 50]


@pytest.mark.parametrize(("most", "quality"), [(799, 79), (800, 80), (50, 5), (51, 5), (10, 5), (10_000, 89)])
def test_the_highest_quality_within_some_bytes_is_taken(most: int, quality: int) -> None:
    found = quality_within(most, EncoderSettings(90), lambda settings: bytes(10 * (settings.quality or 0)))
    assert len(found) == 10 * quality


def test_a_wider_rung_begins_as_far_from_what_is_usual_as_the_narrower_one_came(rung: Pixels) -> None:
    reference, codec = Reference(rung), CODECS["avif"]
    exact = find_quality(rung, reference, codec, 93.0, drawn=False).quality
    usual = codec.expected(93.0, reference.texture())
    tried: list[int] = []

    def encode(pixels: Pixels, settings: EncoderSettings) -> bytes:
        tried.append(settings.quality or 0)
        return codec.encode(pixels, settings)

    narrower = Attempt(30 + exact - usual, 93.0, b"", usual=30)
    find_quality(rung, reference, _Told(codec, encode), 93.0, drawn=False, narrower=narrower)  # type: ignore[arg-type] # does as one
    assert tried == [exact]


class _Told:
    """A codec whose files are counted."""

    def __init__(self, codec: Codec, encode: Callable[[Pixels, EncoderSettings], bytes]) -> None:
        self.encode, self.typical, self.expected = encode, codec.typical, codec.expected


@pytest.mark.parametrize("name", ["avif", "webp", "jpeg", "jxl"])
def test_what_is_usual_rises_with_the_likeness_and_with_fine_texture(name: str) -> None:
    typical = CODECS[name].typical
    assert typical.at(93.0, USUAL) == pytest.approx(typical.number)
    assert np.all(np.diff([typical.at(likeness) for likeness in (80, 85, 90, 93, 95, 97, 99)]) > 0)
    assert typical.at(93.0, (USUAL[0] + 1, *USUAL[1:])) > typical.number > typical.at(93.0, (0.0, *USUAL[1:]))
