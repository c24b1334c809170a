"""Where colors stand out: against their surroundings, against the picture's edges, and against expectation."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import Field, scaled

_NEAR, _SURROUNDINGS = 2.0, 12.0  # px of standard deviation: of a place, and of what lies around it
_SWEEPS = 3  # rounds of down, up, right, left; the paper finds that more change hardly anything

# ITU-R BT.601 color differences of skin of all shades: their middle and spread, by trying; brightness hardly counts.
_SKIN, _SKIN_SPREAD, _DARK = (152.0, 107.0), 13.0, 50
_SPOT = 2.5  # px of standard deviation: a spot
_HEREABOUTS = 6.0  # px of standard deviation: skin counts around it, too

_EDGE = 2  # px: how deep the picture's edges are
_FLAT_EDGE = 30.0  # variance of L*, a* and b* that even a flat edge is taken to have, so that noise does not count


def set_off(lab: Field) -> Field:
    """How far each place is set off from the picture's edges and from its surroundings, together: 0 to 1.

    Args:
        lab: L*, a* and b*: (3, rows, columns).
    """
    near = ndimage.gaussian_filter(lab, (0, _NEAR, _NEAR))
    wide = ndimage.gaussian_filter(lab, (0, _SURROUNDINGS, _SURROUNDINGS))
    contrast = np.sqrt(((near - wide) ** 2).sum(axis=0))
    barrier = sum((_barrier(channel) for channel in lab), np.zeros(lab.shape[1:]))
    return np.sqrt(scaled(barrier) * scaled(ndimage.gaussian_filter(contrast, _SURROUNDINGS / 4)))


def _barrier(channel: Field) -> Field:
    """How much the value varies on the best way to the picture's edge: the minimum barrier distance.

    Zhang et al., "Minimum Barrier Salient Object Detection at 80 FPS", ICCV 2015.
    """
    distance = np.full(channel.shape, np.inf)
    distance[0] = distance[-1] = distance[:, 0] = distance[:, -1] = 0
    state = np.stack([distance, channel, channel])  # and the highest and lowest value on the best way so far
    for _ in range(_SWEEPS):
        _sweep(state, channel)
        _sweep(state[:, ::-1], channel[::-1])
        _sweep(state.transpose(0, 2, 1), channel.T)
        _sweep(state.transpose(0, 2, 1)[:, ::-1], channel.T[::-1])
    return np.asarray(state[0])


def _sweep(state: Field, channel: Field) -> None:
    """Lets every row learn from the row before it, in place."""
    for row in range(1, len(channel)):
        high = np.maximum(state[1, row - 1], channel[row])
        low = np.minimum(state[2, row - 1], channel[row])
        better = high - low < state[0, row]
        for place, value in enumerate((high - low, high, low)):
            state[place, row][better] = value[better]


def unlike_edges(lab: Field) -> Field:
    """How far each color is from those along the edge that is most like it, by Mahalanobis distance: 0 to 1."""
    edges = (lab[:, :_EDGE], lab[:, -_EDGE:], lab[:, :, :_EDGE], lab[:, :, -_EDGE:])
    distances = []
    for edge in (part.reshape(3, -1) for part in edges):
        spread = np.linalg.inv(np.cov(edge) + _FLAT_EDGE * np.eye(3))
        away = lab.reshape(3, -1) - edge.mean(axis=1, keepdims=True)
        distances.append(np.sqrt((away * (spread @ away)).sum(axis=0)))
    return scaled(np.min(distances, axis=0).reshape(lab.shape[1:]))


def unforeseen(lab: Field) -> Field:
    """Where colors differ from what their neighbours in frequency let expect: 0 to 1.

    Hou and Zhang, "Saliency Detection: A Spectral Residual Approach", CVPR 2007; there for light alone.

    Args:
        lab: L*, a* and b*: (3, rows, columns).
    """
    spectrum = np.fft.fft2(lab)
    amplitude = np.abs(spectrum)
    logarithm = np.log(amplitude + 1e-3)
    residual = logarithm - ndimage.uniform_filter(logarithm, (0, 3, 3), mode="wrap")
    back = np.abs(np.fft.ifft2(np.exp(residual + 1j * np.angle(spectrum)))) ** 2
    weights = lab.var(axis=(1, 2))
    return scaled(ndimage.gaussian_filter(np.tensordot(weights, back, 1), _SPOT))


def skin_hereabouts(small: Pixels) -> NDArray[np.float64]:
    """The share of skin around each place: 0 to 1."""
    red, green, blue = (small[..., i].astype(float) for i in range(3))
    across = 128 + 0.5 * red - 0.418688 * green - 0.081312 * blue
    down = 128 - 0.168736 * red - 0.331264 * green + 0.5 * blue
    away = ((across - _SKIN[0]) ** 2 + (down - _SKIN[1]) ** 2) / (2 * _SKIN_SPREAD**2)
    return np.asarray(ndimage.gaussian_filter(np.exp(-away) * (red > _DARK), _HEREABOUTS))
