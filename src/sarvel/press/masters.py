"""Masters: opened read-only, always; what their headers say; and what is wrong with bad ones, in one clear line."""

from __future__ import annotations

import contextlib
import hashlib
import io
import warnings
from collections.abc import Iterator
from pathlib import Path

from PIL import Image, ImageFile, UnidentifiedImageError

from sarvel.core.facts import MasterFacts
from sarvel.errors import MasterError
from sarvel.press.upright import moved_size, upright_moves

# A worker is to do with 700 MB, of which about 300 MB are needed for the program, a rung and its encoder (bench/memory.py).
# Pillow holds four bytes a pixel; its decoders of WebP and AVIF hold the picture several times over on the way. A header
# that promises more is declined before anything is decoded. Pillow's own limit speaks to programmers.
_MOST_PIXELS = {"WEBP": 36_000_000, "AVIF": 60_000_000, "TIFF": 80_000_000}
_MOST_PIXELS_OF_OTHERS = 100_000_000

# A JPEG decoder can give each block of eight by eight pixels as four by four (ITU-T T.81 leaves the size of the inverse
# transform to the decoder). Larger masters are taken for half as wide and high, which is more than any screen shows.
_HALVED = ("JPEG", "MPO")
_MOST_PIXELS_HALVED = 200_000_000

Image.MAX_IMAGE_PIXELS = None

# Formats whose files commonly keep every pixel. What was saved in a lossy one is no longer flat, or only seems to be.
_EXACT = ("PNG", "TIFF", "GIF", "BMP", "TGA", "PPM", "PCX")


def read_facts(file: Path, key: str) -> MasterFacts:
    """What compose needs to know of a master.

    Its header tells most; its bytes are read for their digest, and decoded only where they may be flat graphics.

    Args:
        file: the master.
        key: its path below the masters folder, which messages call it by.

    Raises:
        MasterError: it is missing, unreadable, no image, or larger than MOST_PIXELS.
    """
    with opened(file, key) as image:
        width, height = moved_size(image.size, upright_moves(image))
        alpha = image.has_transparency_data
        remarks = tuple(_remarks(image))
        drawn = image.format in _EXACT and _is_drawn(image)
    with _told(key), file.open("rb") as stream:
        content = hashlib.file_digest(stream, "blake2b").hexdigest()
        size = stream.seek(0, io.SEEK_END)
    return MasterFacts(key, width, height, alpha, content, size, drawn, remarks)


def _remarks(image: Image.Image) -> Iterator[str]:
    if not image.info.get("icc_profile"):
        return
    from PIL import ImageCms  # noqa: PLC0415 - most masters have no profile

    from sarvel.press.profiles import profile_of  # noqa: PLC0415 - as above

    try:
        profile_of(image)
    except ImageCms.PyCMSError as error:
        yield f"its color profile cannot be used ({error}), its colors are taken for sRGB; save it with a sound one"


def _is_drawn(image: Image.Image) -> bool:
    import numpy as np  # noqa: PLC0415 - slow to load, and photographs need none

    from sarvel.core.pixels.drawn import looks_drawn, rows_to_look_at  # noqa: PLC0415 - as above

    width, height = image.size
    mode = "RGBA" if image.has_transparency_data else "RGB"
    bands = [image.crop((0, first, width, last)).convert(mode) for first, last in rows_to_look_at(width, height)]
    return looks_drawn(np.concatenate([np.asarray(band) for band in bands]))


@contextlib.contextmanager
def opened(file: Path, key: str) -> Iterator[ImageFile.ImageFile]:
    """A master as an image whose pixels are not decoded yet; faults within the block are told as the master's.

    Raises:
        MasterError: as read_facts; also what decoding in the block finds wrong.
    """
    with _told(key), warnings.catch_warnings():
        warnings.simplefilter("ignore")  # Pillow's own remarks on odd metadata and size; ours are below
        with file.open("rb") as stream, Image.open(stream) as image:
            _bounded(image, key)
            yield image


def _bounded(image: ImageFile.ImageFile, key: str) -> None:
    """Declines a master that would take more memory than a worker has, or halves it where its format can."""
    (width, height), name = image.size, image.format or ""
    most = _MOST_PIXELS_HALVED if name in _HALVED else _MOST_PIXELS.get(name, _MOST_PIXELS_OF_OTHERS)
    if width * height > most:
        other = "" if name in _HALVED else ", or as a JPEG of up to 200 megapixels"
        raise MasterError(
            f"{key}: its header promises {width}×{height} px, over the limit of {most // 10**6} megapixels for {name}; "
            f"save it smaller{other}"
        )
    if width * height > _MOST_PIXELS_OF_OTHERS:
        image.draft(None, (width // 2, height // 2))


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
    except OSError as error:
        if error.errno is not None:
            raise MasterError(f"{key}: cannot be read ({error.strerror}); check its permissions") from error
        raise MasterError(f"{key}: is damaged ({error}); save or copy it anew") from error
    except MasterError:
        raise
    except Exception as error:  # decoders raise whatever they like about damaged files; no list of it was ever whole
        raise MasterError(f"{key}: is damaged ({error}); save or copy it anew") from error
