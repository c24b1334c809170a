"""The resampler against exact mathematics, and against the same sums done slowly."""

import math

import numpy as np
import pytest
from numpy.typing import NDArray

from sarvel.core.crop.place import Box
from sarvel.core.pixels.light import LIGHT_OF_BYTE, bytes_from_light, linear_from_srgb, srgb_from_linear
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light, reduce_light, reduce_pixels


def grey(levels: NDArray[np.generic]) -> Pixels:
    return np.repeat(levels.astype(np.uint8)[..., None], 3, axis=2)


def whole(pixels: Pixels) -> Box:
    return Box(0, 0, pixels.shape[1], pixels.shape[0])


def reduced(pixels: Pixels, width: int, height: int, box: Box | None = None) -> Pixels:
    return pixels_from_light(reduce_pixels(pixels, box or whole(pixels), width, height))


def test_every_stored_value_comes_back() -> None:
    assert np.array_equal(bytes_from_light(LIGHT_OF_BYTE), np.arange(256))


def test_transfer_function_and_its_inverse() -> None:
    values = np.linspace(0, 1, 10001)
    assert (
        np.abs(srgb_from_linear(linear_from_srgb(values)) - values).max() < 1e-4
    )  # the standard's own rounding at the knee
    assert linear_from_srgb(np.array([0.0, 1.0])).tolist() == [0.0, 1.0]


def test_storing_rounds_to_the_nearest() -> None:
    light = np.linspace(0, 1, 100_001)
    error = bytes_from_light(light.astype(np.float32)) - srgb_from_linear(light) * 255
    assert np.abs(error).max() < 0.53  # half a step, and the width of the table's own steps near black


@pytest.mark.parametrize("size", [(1, 1), (7, 5), (33, 21), (99, 66)])
def test_a_flat_field_of_any_value_stays_flat(size: tuple[int, int]) -> None:
    for value in range(256):
        field = np.full((67, 101, 3), value, np.uint8)
        assert (reduced(field, *size, box=Box(0.3, 0.7, 100.2, 66.9)) == value).all()


def test_a_checkerboard_halves_to_188() -> None:
    board = grey((np.indices((128, 128)).sum(axis=0) % 2) * 255)
    inner = reduced(board, 64, 64)[4:-4, 4:-4].astype(int)
    # Half the light of white is 0.5, and sRGB stores 0.5 as 187.5.
    assert np.abs(inner - 188).max() <= 1


@pytest.mark.parametrize("count", [333, 200, 137, 61])
def test_a_ramp_of_light_stays_a_ramp(count: int) -> None:
    samples = 400
    ramp: Light = np.broadcast_to(((np.arange(samples) + 0.5) / samples).astype(np.float32), (3, 40, samples)).copy()
    across = reduce_light(ramp, count, 20)[0, 10]
    wanted = (np.arange(count) + 0.5) / count
    inside = slice(4, -4)  # beyond, the weights are cut off by the edge and made to add up again
    assert np.abs(across - wanted)[inside].max() < 1 / 255 / 4
    down = reduce_light(np.ascontiguousarray(ramp.transpose(0, 2, 1)), 20, count)[0, :, 10]
    assert np.abs(down - wanted)[inside].max() < 1 / 255 / 4


@pytest.mark.parametrize("count", [100, 67, 51, 50, 34, 12, 3])
def test_an_impulse_stays_in_its_place(count: int) -> None:
    """In the very middle its picture is symmetric; elsewhere its light's centre of gravity is where it was."""
    field: Light = np.zeros((3, 101, 101), np.float32)
    field[:, 50, 50] = 1
    spread = reduce_light(field, count, count)[0]
    assert np.allclose(spread, spread[::-1], atol=1e-7) and np.allclose(spread, spread[:, ::-1], atol=1e-7)
    places = np.arange(25, 76)
    middles = []
    for at in places:
        field[:] = 0
        field[:, :, at] = 1
        line = reduce_light(field, count, 1)[0, 0]
        middles.append((line * (np.arange(count) + 0.5)).sum() / line.sum() * 101 / count)
    assert np.mean(middles - (places + 0.5)) == pytest.approx(0, abs=0.02)


def test_transparent_pixels_bleed_no_color() -> None:
    picture = np.zeros((60, 60, 4), np.uint8)
    picture[:, :30] = (255, 0, 0, 0)  # red that nobody sees
    picture[:, 30:] = (0, 0, 255, 255)
    result = reduced(picture, 17, 17)
    assert (result[..., 0] == 0).all()
    shown = result[result[..., 3] > 0]
    assert (shown[:, 2] >= 254).all()


def slow_lanczos(line: NDArray[np.float64], start: float, end: float, count: int) -> list[float]:
    """The textbook sum, one result at a time."""
    step = (end - start) / count
    spread = max(1.0, step)
    results = []
    for j in range(count):
        centre = start + (j + 0.5) * step
        total = weight = 0.0
        for i in range(math.floor(start), math.ceil(end)):
            x = (i + 0.5 - centre) / spread
            if abs(x) < 3:
                w = 1.0 if x == 0 else 3 * math.sin(math.pi * x) * math.sin(math.pi * x / 3) / (math.pi * x) ** 2
                total, weight = total + w * line[i], weight + w
        results.append(total / weight)
    return results


@pytest.mark.parametrize(
    ("start", "end", "count"), [(0, 97, 41), (3.4, 80.9, 13), (10.5, 40.25, 29), (0, 97, 97), (5, 9.5, 1)]
)
def test_same_as_the_sum_done_slowly(start: float, end: float, count: int) -> None:
    levels = np.random.default_rng(4).integers(0, 256, 97)
    line = linear_from_srgb(levels / 255)
    pixels = grey(np.broadcast_to(levels, (5, 97)))
    wanted = slow_lanczos(line, start, end, count)
    assert reduce_pixels(pixels, Box(start, 0, end, 5), count, 5)[0, 2] == pytest.approx(wanted, abs=2e-6)
    upright = np.ascontiguousarray(pixels.transpose(1, 0, 2))
    assert reduce_pixels(upright, Box(0, start, 5, end), 5, count)[0, :, 2] == pytest.approx(wanted, abs=2e-6)


def test_pixels_outside_the_crop_have_no_influence() -> None:
    picture = np.random.default_rng(5).integers(0, 256, (90, 90, 3), np.uint8)
    other = picture.copy()
    other[:20], other[71:], other[:, :10], other[:, 81:] = 0, 255, 77, 3
    box = Box(10.0, 20.0, 80.5, 70.25)
    assert np.array_equal(reduced(picture, 30, 21, box), reduced(other, 30, 21, box))


def test_a_chain_of_reductions_stays_within_50_db_of_the_direct_way() -> None:
    random = np.random.default_rng(6)
    rough = random.integers(0, 256, (30, 45, 3)).repeat(16, axis=0).repeat(16, axis=1)
    picture = np.clip(rough + random.normal(0, 12, rough.shape), 0, 255).astype(np.uint8)
    first = reduce_pixels(picture, whole(picture), 360, 240)
    chained = pixels_from_light(reduce_light(first, 180, 120)).astype(float)
    direct = reduced(picture, 180, 120).astype(float)
    assert 10 * math.log10(255**2 / np.mean((chained - direct) ** 2)) > 50
