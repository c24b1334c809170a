"""Between sRGB and Display P3, in linear light.

Both have the white point D65 and the transfer function of sRGB; only their primaries differ. Matrices are derived from the
chromaticities: IEC 61966-2-1 (sRGB) and SMPTE EG 432-1 (P3) with D65, by the method of SMPTE RP 177.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sarvel.core.pixels.resample import Light

D65 = (0.3127, 0.3290)  # CIE 15, table T.3, in the four figures that both standards give
SRGB = ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06))
DISPLAY_P3 = ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060))


def xyz_of_primaries(
    primaries: tuple[tuple[float, float], ...], white: tuple[float, float] = D65
) -> NDArray[np.float64]:
    """The matrix from linear RGB of these chromaticities to XYZ, shape (3, 3): SMPTE RP 177, section 3."""
    columns = np.array([[x / y, 1.0, (1 - x - y) / y] for x, y in primaries]).T
    x, y = white
    return columns * np.linalg.solve(columns, np.array([x / y, 1.0, (1 - x - y) / y]))


WIDE_FROM_SRGB: NDArray[np.float64] = np.asarray(
    np.linalg.solve(xyz_of_primaries(DISPLAY_P3), xyz_of_primaries(SRGB)), np.float64
)
SRGB_FROM_WIDE: NDArray[np.float64] = np.asarray(np.linalg.inv(WIDE_FROM_SRGB), np.float64)


def srgb_of_wide(light: Light) -> Light:
    """Light in Display P3 as light in sRGB; colors that sRGB has not are clipped when it is stored."""
    color = np.tensordot(SRGB_FROM_WIDE.astype(np.float32), light[:3], axes=1)
    return np.concatenate([color, light[3:]])
