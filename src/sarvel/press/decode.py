"""A master's pixels: decoded, turned upright, in sRGB and 8 bits."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms, ImageOps

from sarvel.core.pixels.resample import Pixels
from sarvel.press.masters import opened


def read_pixels(file: Path, key: str) -> Pixels:
    """A master's pixels, upright, in sRGB: (height, width, 3), or 4 with straight alpha if it can be transparent.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    with opened(file, key) as image:
        alpha = image.has_transparency_data
        profile = image.info.get("icc_profile")
        upright = ImageOps.exif_transpose(_eight_bits(image))
        mode = "RGBA" if alpha else "RGB"
        color = _to_srgb(upright, profile, mode)
        return np.asarray(color if color.mode == mode else color.convert(mode))


def _eight_bits(image: Image.Image) -> Image.Image:
    """Grey of 16 bits or of floats as 8 bits; Pillow's own conversion would cut all above 255 to white."""
    if not image.mode.startswith(("I", "F")):
        return image
    levels = np.asarray(image).astype(np.float64)
    most = 65535.0 if levels.max(initial=0.0) > 1.0 else 1.0
    eight = Image.fromarray(np.rint(np.clip(levels / most, 0.0, 1.0) * 255).astype(np.uint8))
    eight.info["exif"] = image.info.get("exif", b"")
    return eight


def _to_srgb(image: Image.Image, profile: bytes | None, mode: str) -> Image.Image:
    """Colors of an embedded profile as sRGB, relative colorimetric with black point; without a profile as they are.

    A profile that cannot be used is passed over: the picture as it would look without is better than none.
    """
    if not profile or image.mode not in ("RGB", "RGBA", "CMYK", "L"):
        return image
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if "sRGB" in ImageCms.getProfileDescription(source):
            return image
        converted = ImageCms.profileToProfile(
            image,
            source,
            ImageCms.createProfile("sRGB"),
            renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
            outputMode=mode if image.mode == "RGBA" else "RGB",
            flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
        )
    except (ImageCms.PyCMSError, OSError):
        return image
    return converted or image
