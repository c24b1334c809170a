"""Likeness, held against a textbook implementation and against what must be true of it."""

import io

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage
from skimage.metrics import structural_similarity

from sarvel.core.pixels.likeness import Reference, _Scales, _windows, likeness, similarity
from sarvel.core.pixels.resample import Pixels


def scene(height: int, width: int, channels: int = 3) -> Pixels:
    """Soft hills with some grain, as photographs have."""
    random = np.random.default_rng(5)
    hills = ndimage.gaussian_filter(random.normal(size=(height, width, channels)), (7, 7, 0))
    hills = hills / hills.std() * 45 + 120 + random.normal(size=(height, width, channels)) * 4
    pixels: Pixels = np.clip(hills, 0, 255).astype(np.uint8)
    return pixels


def saved(pixels: Pixels, quality: int) -> Pixels:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "jpeg", quality=quality)
    decoded: Pixels = np.asarray(Image.open(file))
    return decoded


@pytest.mark.parametrize("size", [(64, 96), (240, 320), (11, 11), (301, 199)])
@pytest.mark.parametrize("quality", [20, 60, 90])
def test_one_scale_agrees_with_the_textbook(size: tuple[int, int], quality: int) -> None:
    one = scene(*size)
    for channel in range(3):
        a, b = (pixels[..., channel].astype(np.float32) for pixels in (one, saved(one, quality)))
        theirs = structural_similarity(  # type: ignore[no-untyped-call]
            a, b, data_range=255, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
        )
        assert similarity(a, b) == pytest.approx(theirs, abs=0.002)


def test_every_second_window_of_large_planes_tells_the_same() -> None:
    one = scene(400, 600)
    a, b = (pixels[..., 1].astype(np.float32) for pixels in (one, saved(one, 50)))
    scales = _Scales(a)
    thorough = _Scales(a)
    assert any(step == 2 for _, step, _ in scales._steps)
    thorough._steps = [(plane, 1, _windows(plane, 1)) for plane, _, _ in scales._steps]
    assert scales.similarity(b) == pytest.approx(thorough.similarity(b), abs=0.0005)


@pytest.mark.parametrize("size", [(1, 1), (5, 40), (90, 120), (180, 260)])
@pytest.mark.parametrize("channels", [3, 4])
def test_only_the_same_is_wholly_alike(size: tuple[int, int], channels: int) -> None:
    one = scene(*size, channels)
    assert likeness(one, one.copy()) == pytest.approx(100, abs=0.05)
    if channels == 3 and size > (1, 1):  # one pixel of middling grey is much like its negative
        assert likeness(one, 255 - one) < 60


def test_the_better_saved_the_more_alike() -> None:
    one = scene(180, 260)
    reference = Reference(one)
    found = [reference.likeness(saved(one, quality)) for quality in range(10, 100, 10)]
    assert found == sorted(found) and found[0] < 85 and found[-1] > 95


def test_color_counts_though_less_than_light() -> None:
    one = scene(180, 260)
    shift = np.zeros(one.shape, np.int64)
    shift[::16] = (60, -31, 0)  # of about the same luma: 0.299 · 60 − 0.587 · 31 = −0.3
    tinted = np.clip(one + shift, 0, 255).astype(np.uint8)
    greyed = np.clip(one + np.where(shift.any(axis=2, keepdims=True), 45, 0), 0, 255).astype(np.uint8)
    assert likeness(one, greyed) < likeness(one, tinted) < 99


def test_transparent_pictures_are_compared_where_they_are_less_alike() -> None:
    white = np.full((60, 60, 4), 255, np.uint8)
    clear = white.copy()
    clear[20:40, 20:40, 3] = 0  # on white nothing changes, on black a hole appears
    assert likeness(white, clear) < 90
    hidden = clear.copy()
    hidden[20:40, 20:40, :3] = 7  # nobody sees the color of what is wholly transparent
    assert likeness(clear, hidden) == pytest.approx(100, abs=0.01)


def test_texture_is_the_logarithm_of_variance_at_three_scales() -> None:
    assert Reference(np.full((90, 120, 3), 130, np.uint8)).texture() == pytest.approx((0, 0, 0), abs=0.02)
    noise = np.random.default_rng(2).normal(0, 40, (240, 240))
    soft, strong = (np.clip(np.repeat(128 + by * noise[..., None], 3, 2), 0, 255).astype(np.uint8) for by in (0.5, 1))
    rise = np.subtract(Reference(strong).texture(), Reference(soft).texture())
    assert rise == pytest.approx([np.log(4)] * 3, abs=0.1)  # twice the contrast is four times the variance
    means = Reference(strong).texture()
    assert -np.diff(means) == pytest.approx([np.log(4)] * 2, abs=0.15)  # the mean of four has a quarter of it
    assert (
        Reference(strong[:12, :12]).texture()[0] == Reference(strong[:12, :12]).texture()[2]
    )  # too small to be halved
