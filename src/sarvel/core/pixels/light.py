"""Between stored sRGB values and linear light.

Formula: IEC 61966-2-1:1999, sections 5.2 and 5.3 (the sRGB transfer function); the constants are the standard's.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_CODES = 65535  # linear light is looked up in this many steps: 1/20 of an 8-bit step at its steepest, near black


def linear_from_srgb(encoded: NDArray[np.float64]) -> NDArray[np.float64]:
    """SRGB values, any shape, 0 to 1, as linear light, 0 to 1."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def srgb_from_linear(light: NDArray[np.float64]) -> NDArray[np.float64]:
    """Linear light, any shape, 0 to 1, as sRGB values, 0 to 1."""
    return np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)


LIGHT_OF_BYTE: NDArray[np.float32] = linear_from_srgb(np.arange(256) / 255).astype(np.float32)
"""Linear light, 0 to 1, of each stored byte: shape (256,)."""

SHARE_OF_BYTE: NDArray[np.float32] = (np.arange(256) / 255).astype(np.float32)
"""Opacity, 0 to 1, of each stored alpha byte: shape (256,). Alpha is not light and is stored in equal steps."""

_BYTE_OF_LIGHT: NDArray[np.uint8] = np.rint(srgb_from_linear(np.arange(_CODES + 1) / _CODES) * 255).astype(np.uint8)


def bytes_from_light(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear light, any shape, as sRGB bytes 0 to 255, rounded to the nearest; values outside 0 to 1 are clipped."""
    codes = np.clip(light, 0.0, 1.0)
    codes *= _CODES
    codes += 0.5
    return np.take(_BYTE_OF_LIGHT, codes.astype(np.uint16), mode="clip")


def bytes_from_share(share: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Opacity, any shape, as bytes 0 to 255, rounded to the nearest; values outside 0 to 1 are clipped."""
    return np.rint(np.clip(share, 0.0, 1.0) * 255).astype(np.uint8)
