"""Masters: what their headers say, and their pixels. Opened read-only, always."""

from __future__ import annotations

import contextlib
import hashlib
import io
import struct
import warnings
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from sarvel.core.edition import MasterFacts
from sarvel.core.pixels.resample import Pixels
from sarvel.errors import MasterError

# Three bytes a pixel make 600 MB of this; a header that promises more is taken for a lie.
MOST_PIXELS = 200_000_000

_ORIENTATION = 0x0112  # Exif 2.32, table 4: tag "Orientation"; 5 to 8 lie on their side
_ON_ITS_SIDE = (5, 6, 7, 8)


def read_facts(file: Path, key: str) -> MasterFacts:
    """What compose needs to know of a master, from its header and a digest of its bytes.

    Args:
        file: the master.
        key: its path below the masters folder, which messages call it by.

    Raises:
        MasterError: it is missing, unreadable, no image, or larger than MOST_PIXELS.
    """
    with _opened(file, key) as image:
        width, height = image.size
        if image.getexif().get(_ORIENTATION) in _ON_ITS_SIDE:
            width, height = height, width
        alpha = image.has_transparency_data
    with _told(key), file.open("rb") as stream:
        digest = hashlib.file_digest(stream, "blake2b").hexdigest()
        size = stream.tell()
    return MasterFacts(key, width, height, alpha, digest, size)


def read_pixels(file: Path, key: str) -> Pixels:
    """A master's pixels, upright, in sRGB: (height, width, 3), or 4 with straight alpha if it can be transparent.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    with _opened(file, key) as image:
        alpha = image.has_transparency_data
        profile = image.info.get("icc_profile")
        upright = ImageOps.exif_transpose(_eight_bits(image))
        mode = "RGBA" if alpha else "RGB"
        color = _to_srgb(upright, profile, mode)
        return np.asarray(color if color.mode == mode else color.convert(mode))


@contextlib.contextmanager
def _opened(file: Path, key: str) -> Iterator[Image.Image]:
    with _told(key), warnings.catch_warnings():
        warnings.simplefilter("ignore")  # Pillow's own remarks on odd metadata and size; ours are below
        with file.open("rb") as stream, Image.open(stream) as image:
            width, height = image.size
            if width * height > MOST_PIXELS:
                raise MasterError(
                    f"{key}: its header promises {width}×{height} px, over the limit of {MOST_PIXELS // 10**6} megapixels; "
                    "save it smaller"
                )
            yield image


@contextlib.contextmanager
def _told(key: str) -> Iterator[None]:
    """What Pillow and the system raise for bad files, as one kind of error with a clear line."""
    try:
        yield
    except FileNotFoundError as error:
        raise MasterError(
            f"{key}: there is no such file in the masters folder; put it there or mend its name"
        ) from error
    except UnidentifiedImageError as error:
        raise MasterError(
            f"{key}: is not an image that can be read; save it as JPEG, PNG, TIFF, WebP or AVIF"
        ) from error
    except (
        Image.DecompressionBombError,
        SyntaxError,
        ValueError,
        EOFError,
        struct.error,
        IndexError,
        OverflowError,
    ) as error:
        raise MasterError(f"{key}: is damaged ({error}); save or copy it anew") from error
    except OSError as error:
        if error.errno is not None:
            raise MasterError(f"{key}: cannot be read ({error.strerror}); check its permissions") from error
        raise MasterError(f"{key}: is damaged ({error}); save or copy it anew") from error


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
