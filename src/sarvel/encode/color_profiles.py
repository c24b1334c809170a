"""Color profiles: which one a master has, and the one that wide renditions are given."""

from __future__ import annotations

import functools
import io
import struct

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from sarvel.core.pixels.gamut import DISPLAY_P3, xyz_of_primaries

# The color spaces of ICC.1:2022, table 19, that pictures of each of Pillow's modes can be in.
_SPACES = {"RGB": "RGB ", "RGBA": "RGB ", "CMYK": "CMYK", "L": "GRAY", "LA": "GRAY", "P": "RGB ", "PA": "RGB "}

# From D65 to the D50 of the profile connection space: ICC.1:2022, annex E.3 (linear Bradford).
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
_D50 = np.array([0.9642, 1.0, 0.8249])  # ICC.1:2022, section 7.2.16


def profile_of(image: Image.Image) -> ImageCms.ImageCmsProfile | None:
    """The profile of the colors of an image; None if they are sRGB.

    Raises:
        ImageCms.PyCMSError: there is one, and it is damaged or for another kind of color.
    """
    content = image.info.get("icc_profile")
    if not content or image.mode not in _SPACES:
        return None
    try:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(content))
        space, name = profile.profile.xcolor_space, ImageCms.getProfileDescription(profile)
    except (OSError, TypeError, ValueError) as error:
        raise ImageCms.PyCMSError(error) from error
    if space != _SPACES[image.mode]:
        raise ImageCms.PyCMSError(f"made for {space.strip()}")
    return None if "sRGB" in name else profile


@functools.cache
def srgb() -> ImageCms.ImageCmsProfile:
    """The sRGB profile."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB"))


@functools.cache
def display_p3() -> bytes:
    """A profile of Display P3, with the transfer function of sRGB as ICC.1:2022, section 10.18, writes it."""
    constants = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
    return matrix_profile("Display P3", DISPLAY_P3, _numbers(b"para", *constants, head=struct.pack(">HH", 3, 0)))


def matrix_profile(name: str, primaries: tuple[tuple[float, float], ...], curve: bytes) -> bytes:
    """A profile of RGB with these primaries, white D65, and one curve for all three: ICC.1:2022, section 8.4.3.

    Args:
        primaries: chromaticities x, y of red, green and blue.
        curve: the tag of the transfer function, "para" or "curv".
    """
    adapt = _adapted(np.asarray(xyz_of_primaries(primaries)) @ np.ones(3))
    columns = (adapt @ xyz_of_primaries(primaries)).T
    tags = {
        b"desc": _text(name),
        b"cprt": _text("CC0"),
        b"wtpt": _numbers(b"XYZ ", *_D50),
        b"chad": _numbers(b"sf32", *adapt.ravel()),
        **{
            letter + b"XYZ": _numbers(b"XYZ ", *column)
            for letter, column in zip((b"r", b"g", b"b"), columns, strict=True)
        },
        b"rTRC": curve,
        b"gTRC": curve,
        b"bTRC": curve,
    }
    places: dict[bytes, int] = {}
    table, body = struct.pack(">I", len(tags)), b""
    start = 128 + 4 + 12 * len(tags)
    for tag, data in tags.items():
        if data not in places:
            places[data] = start + len(body)
            body += data + b"\0" * (-len(data) % 4)
        table += struct.pack(">4sII", tag, places[data], len(data))
    header = struct.pack(
        ">I4sI4s4s4s12s4s4sIIIIII3I4s44x",
        *(start + len(body), b"", 0x04400000, b"mntr", b"RGB ", b"XYZ "),
        *(struct.pack(">6H", 2026, 1, 1, 0, 0, 0), b"acsp", b"", 0, 0, 0, 0, 0, 1),
        *(round(value * 65536) for value in _D50),
        b"",
    )
    return header + table + body


def _adapted(white: NDArray[np.float64]) -> NDArray[np.float64]:
    cones = np.diag((_BRADFORD @ _D50) / (_BRADFORD @ white))
    return np.asarray(np.linalg.inv(_BRADFORD) @ cones @ _BRADFORD)


def _numbers(kind: bytes, *values: float, head: bytes = b"") -> bytes:
    return (
        struct.pack(">4sI", kind, 0) + head + struct.pack(f">{len(values)}i", *(round(one * 65536) for one in values))
    )


def _text(text: str) -> bytes:
    encoded = text.encode("utf-16-be")
    return struct.pack(">4sIII2s2sII", b"mluc", 0, 1, 12, b"en", b"US", len(encoded), 28) + encoded
