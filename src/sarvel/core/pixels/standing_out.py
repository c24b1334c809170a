"""What stands out in a picture: for each place how likely it belongs to the subject.

Cues that people go by are measured on a small copy, and weighed by a logistic model whose weights were fitted once on labelled
photographs (bench/subjects.py): what is in focus, at three sizes of detail, against what is blurred; colors that are rare, that
differ from their wide surroundings or from what lies along the edges; skin; and a mild preference for the middle.
"""

from __future__ import annotations

import itertools
import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import lab_of, reduced

Field = NDArray[np.float64]  # (rows, columns)

_SHARP_SIDE = 400  # px of the longer side, where detail is measured: what is in focus there, is on a page
_SIDE = 96  # px of the longer side of the map: what stands out to a person does so on a thumbnail

# ITU-R BT.601 color differences of skin of all shades: their middle and spread, by trying; brightness hardly counts.
_SKIN, _SKIN_SPREAD = (152.0, 107.0), 13.0

_WIDE = 5.0  # px of the map: standard deviation of what counts as "hereabouts"
_SURROUNDINGS = 14.0  # px of the map: of the surroundings that a color is held against
_FLAT = 1.0  # the spread of L*, a* or b* in a picture in which nothing is seen
_MIDDLE = 6.0  # how fast the weight of the middle falls off: to a fifth at the edges

# The cues, each scaled to 0 to 1 within its picture, and their weights: fitted by logistic regression on 39 photographs of
# people, things, animals and places whose subject was labelled by eye. bench/subjects.py has them, and as many again by half
# that were kept aside.
_WEIGHTS = {
    "contrast": 1.2,
    "unlike edges": 0.95,
    "rare": -0.52,
    "skin": 1.32,
    "fine": -0.74,
    "detail": 0.88,
    "coarse": 1.58,
    "in focus": 2.12,
    "fine hereabouts": -0.83,
    "aside": -1.59,
    "above or below": -0.69,
    "down": -2.02,
    "off middle": -1.14,
    "contrast in the middle": -0.13,
    "fine in the middle": 3.22,
}
_BIAS = -1.99


def standing_out(pixels: Pixels) -> Field:
    """The likelihood, 0 to 1, that each place belongs to the subject: an array (rows, columns), the longer side _SIDE.

    Args:
        pixels: (height, width, 3), or 4 with straight alpha; where it is transparent, nothing stands out.
    """
    sharp = reduced(pixels, _SHARP_SIDE)
    small = reduced(sharp, _SIDE)
    visible = small[..., 3] / 255 if small.shape[2] == 4 else np.ones(small.shape[:2])
    sharp, small = _evened(sharp), _evened(small)
    if np.ptp(lab_of(small), axis=(1, 2)).max() < _FLAT:
        return np.zeros(small.shape[:2])
    cues = {**_color_cues(small), **_detail_cues(sharp, small.shape[:2]), **_place_cues(small.shape[:2])}
    middle = np.exp(-_MIDDLE * cues["off middle"] / 4)
    for name in ("contrast", "fine"):
        cues[f"{name} in the middle"] = _scaled(ndimage.gaussian_filter(cues[name], _WIDE)) * middle
    cues["contrast"], cues["unlike edges"] = (
        _scaled(ndimage.gaussian_filter(cues[name], _WIDE)) for name in ("contrast", "unlike edges")
    )
    sums = sum((weight * cues[name] for name, weight in _WEIGHTS.items()), np.full(small.shape[:2], _BIAS))
    return np.asarray(visible / (1 + np.exp(-sums)))


def _evened(pixels: Pixels) -> Pixels:
    """The picture with one color where it is transparent: the average of what is seen."""
    if pixels.shape[2] == 3:
        return pixels
    seen = pixels[..., 3] > 127
    color = pixels[seen][:, :3].mean(axis=0) if seen.any() else np.zeros(3)
    return np.where(seen[..., None], pixels[..., :3], color.astype(np.uint8))


def _color_cues(small: Pixels) -> dict[str, Field]:
    lab = lab_of(small)
    near, wide = (ndimage.gaussian_filter(lab, (0, sigma, sigma)) for sigma in (1.0, _SURROUNDINGS))
    return {
        "contrast": _scaled(np.sqrt(((near - wide) ** 2).sum(axis=0))),
        "unlike edges": _scaled(_unlike_edges(lab)),
        "rare": _scaled(ndimage.gaussian_filter(_rarity(lab), 1.5)),
        "skin": _skin(small),
    }


def _unlike_edges(lab: Field) -> Field:
    """How far each color is from those along the edge that is most like it: Mahalanobis distance."""
    deep = max(2, _SIDE // 24)
    edges = (lab[:, :deep], lab[:, -deep:], lab[:, :, :deep], lab[:, :, -deep:])
    distances = []
    for edge in (part.reshape(3, -1) for part in edges):
        spread = np.linalg.inv(np.cov(edge) + 30 * np.eye(3))  # so much that noise of a flat edge does not count
        away = lab.reshape(3, -1) - edge.mean(axis=1, keepdims=True)
        distances.append(np.sqrt((away * (spread @ away)).sum(axis=0)))
    return np.asarray(np.min(distances, axis=0).reshape(lab.shape[1:]))


def _rarity(lab: Field) -> Field:
    """How rare each color is in the picture: minus the logarithm of its share."""
    bins = np.stack([lab[0] / 12.5, (lab[1] + 128) / 16, (lab[2] + 128) / 16]).astype(int)
    _, which, counts = np.unique(bins.reshape(3, -1), axis=1, return_inverse=True, return_counts=True)
    return np.asarray(-np.log(counts[which.reshape(-1)] / which.size).reshape(lab.shape[1:]))


def _skin(small: Pixels) -> Field:
    """How much skin is hereabouts; less if there is hardly any in the picture."""
    red, green, blue = (small[..., i].astype(float) for i in range(3))
    across = 128 + 0.5 * red - 0.418688 * green - 0.081312 * blue
    down = 128 - 0.168736 * red - 0.331264 * green + 0.5 * blue
    away = ((across - _SKIN[0]) ** 2 + (down - _SKIN[1]) ** 2) / (2 * _SKIN_SPREAD**2)
    skin = np.exp(-away) * (red > 50)
    return _scaled(ndimage.gaussian_filter(skin, _WIDE)) * min(1.0, 20 * float(skin.mean()))


def _detail_cues(sharp: Pixels, size: tuple[int, int]) -> dict[str, Field]:
    """Detail at three sizes, and how much of it is the finest: what is blurred has the coarser alone."""
    light = lab_of(sharp)[0]
    smooth = [light, *(ndimage.gaussian_filter(light, sigma) for sigma in (1.0, 4.0, 14.0))]
    fine, middle, coarse = (
        _shrunk(ndimage.gaussian_filter(np.abs(a - b), 3.0), size) for a, b in itertools.pairwise(smooth)
    )
    cues = {
        name: _scaled(np.sqrt(ndimage.gaussian_filter(energy, 1.5)))
        for name, energy in (("fine", fine), ("detail", middle), ("coarse", coarse))
    }
    blur = ndimage.gaussian_filter(middle, 2.0) + 0.6
    cues["in focus"] = _scaled(ndimage.gaussian_filter(fine, 2.0) / blur)
    cues["fine hereabouts"] = _scaled(ndimage.gaussian_filter(fine, _WIDE))
    return cues


def _shrunk(values: Field, size: tuple[int, int]) -> Field:
    """Averages of a field over a coarser grid."""
    rows, columns = (np.linspace(0, n, m + 1) for n, m in zip(values.shape, size, strict=True))
    sums = np.pad(values.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    at = ndimage.map_coordinates(sums, np.meshgrid(rows, columns, indexing="ij"), order=1)
    area = math.prod(values.shape) / math.prod(size)
    return np.maximum(np.diff(np.diff(at, axis=0), axis=1) / area, 0.0)


def _place_cues(size: tuple[int, int]) -> dict[str, Field]:
    rows, columns = size
    y, x = np.mgrid[0:rows, 0:columns]
    x, y = (x + 0.5) / columns - 0.5, (y + 0.5) / rows - 0.5
    return {"aside": 4 * x**2, "above or below": 4 * y**2, "down": y, "off middle": 4 * (x**2 + y**2)}


def _scaled(values: Field) -> Field:
    """Values scaled to 0 to 1 within the picture; a hundredth at either end does not count."""
    low, high = np.percentile(values, (1, 99))
    return np.asarray(np.clip((values - low) / (high - low + 1e-9), 0.0, 1.0))
