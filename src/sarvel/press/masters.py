"""Masters: opened read-only, always; what their headers say; and what is wrong with bad ones, in one clear line."""

from __future__ import annotations

import contextlib
import hashlib
import io
import struct
import warnings
from collections.abc import Iterator
from pathlib import Path

from PIL import Image, UnidentifiedImageError

from sarvel.core.edition import MasterFacts
from sarvel.errors import MasterError

# Three bytes a pixel make 600 MB of this; a header that promises more is taken for a lie. Pillow's own limit is lower, and
# its message speaks to programmers.
MOST_PIXELS = 200_000_000

Image.MAX_IMAGE_PIXELS = None

_ORIENTATION = 0x0112  # Exif 2.32, table 4: tag "Orientation"; 5 to 8 lie on their side
_ON_ITS_SIDE = (5, 6, 7, 8)


def read_facts(file: Path, key: str, *, digest: bool = True) -> MasterFacts:
    """What compose needs to know of a master, from its header and a digest of its bytes.

    Args:
        file: the master.
        key: its path below the masters folder, which messages call it by.
        digest: whether to read all of it for its digest; without, file names of renditions mean nothing.

    Raises:
        MasterError: it is missing, unreadable, no image, or larger than MOST_PIXELS.
    """
    with opened(file, key) as image:
        width, height = image.size
        if image.getexif().get(_ORIENTATION) in _ON_ITS_SIDE:
            width, height = height, width
        alpha = image.has_transparency_data
    with _told(key), file.open("rb") as stream:
        content = hashlib.file_digest(stream, "blake2b").hexdigest() if digest else ""
        size = stream.seek(0, io.SEEK_END)
    return MasterFacts(key, width, height, alpha, content, size)


@contextlib.contextmanager
def opened(file: Path, key: str) -> Iterator[Image.Image]:
    """A master as an image whose pixels are not decoded yet; faults within the block are told as the master's.

    Raises:
        MasterError: as read_facts; also what decoding in the block finds wrong.
    """
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
