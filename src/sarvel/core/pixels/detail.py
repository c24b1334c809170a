"""Where detail is: its amount, its size, and whether it is in focus."""

from __future__ import annotations

import itertools

import numpy as np
from scipy import ndimage

from sarvel.core.pixels.small import Field, averaged, scaled

_SIZES = (1.0, 2.0, 4.0)  # px of standard deviation: finest, fine and middle detail lie below each

_NEAR = 2.0  # px of standard deviation of the coarser grid
_FAINT = 0.05  # a change of L* that no one sees


class Detail:
    """The detail of a picture, on a coarser grid.

    Attributes:
        sharpness: the logarithm of the finest detail as a share of the next: a blurred place has only the coarser one.
        focus: the finest detail as a share of that four times as large: 0 to 1.
        texture: how much detail of that size there is: 0 to 1.
    """

    def __init__(self, light: Field, size: tuple[int, int]) -> None:
        """Measures.

        Args:
            light: L* of a copy whose longer side is 400 px.
            size: rows and columns of the coarser grid.
        """
        smooth = [light, *(ndimage.gaussian_filter(light, sigma) for sigma in _SIZES)]
        energies = [averaged(np.abs(a - b), size) for a, b in itertools.pairwise(smooth)]
        finest, fine, middle = (ndimage.gaussian_filter(energy, _NEAR) for energy in energies)
        self.sharpness = np.log((finest + _FAINT) / (fine + 6 * _FAINT))
        self.focus = scaled((finest + _FAINT) / (middle + 10 * _FAINT))
        self.texture = scaled(np.sqrt(ndimage.gaussian_filter(energies[2], _NEAR / 2)))
