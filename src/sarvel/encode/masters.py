"""Masters: opened read-only, always; their headers; and one clear line about each bad one."""

from __future__ import annotations

import contextlib
import functools
import hashlib
import logging
import os
import stat
import tempfile
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import IO, TypeAlias

from PIL import Image, ImageFile, UnidentifiedImageError
from PIL.JpegImagePlugin import JpegImageFile

from sarvel.core.facts import READ_FORMATS, MasterFacts
from sarvel.encode.named_subject import named_in
from sarvel.encode.orientation import moved_size, upright_moves
from sarvel.errors import AnimatedError, MasterError, OutputError, cure_of
from sarvel.files.storage.stored_master import StoredMaster

# A worker has 700 MB, about 300 MB of it for the program, a rung and its encoder (bench/memory.py).
# Pillow holds four bytes a pixel; its decoders of WebP and AVIF hold the picture several times over on the way. A header
# that promises more is declined before anything is decoded. Pillow's own limit speaks to programmers.
_MOST_PIXELS = {"WEBP": 36_000_000, "AVIF": 60_000_000, "TIFF": 80_000_000}
_MOST_PIXELS_OF_OTHERS = 100_000_000

# A JPEG decoder can give each block of eight by eight pixels as four by four (ITU-T T.81 leaves the size of the inverse
# transform to the decoder). Larger masters are treated as half as wide and high, which is more than any screen shows.
_HALVED = ("JPEG", "MPO")
_MOST_PIXELS_HALVED = 200_000_000

_MOST_BYTES = 400_000_000  # that a decoder may hold at its peak: 100 megapixels of four bytes
_BYTES = {
    "1": 1,
    "L": 1,
    "P": 1,
    "I;16": 2,
    "I;16B": 2,
    "I;16L": 2,
}  # of a pixel as Pillow holds it; four in other modes

_MOST_PNG_TEXT = 16_000_000  # bytes of one text of a PNG: Pillow declines the whole picture for more than a million

_MOST_IN_MEMORY = 32_000_000  # bytes of a master's file that are held while it is decoded; larger ones go to a file
_PART = 1 << 20

Image.MAX_IMAGE_PIXELS = None

# Formats whose files commonly keep every pixel. Files saved in a lossy one are not flat any more, or only seem to be.
_EXACT = ("PNG", "TIFF", "GIF", "BMP", "PPM")


_MOVING = frozenset({"GIF", "PNG", "WEBP", "AVIF"})  # formats whose further frames are of a moving picture


MasterFile: TypeAlias = Path | StoredMaster
"""A master: its file, or its object in storage, which is downloaded when it is read."""


def size_of(file: MasterFile) -> int:
    """The bytes of a master; 0 if it is not there."""
    try:
        return file.size if isinstance(file, StoredMaster) else file.stat().st_size
    except OSError:
        return 0


def read_facts(file: MasterFile, key: str) -> MasterFacts:
    """Reads the facts about a master that compose needs.

    Its header tells most; its bytes are decoded only where they may be flat graphics.

    Args:
        key: its path below the masters folder, which messages call it by.

    Raises:
        MasterError: it is missing, unreadable, no image, or larger than MOST_PIXELS.
        AnimatedError: it is a moving picture.
    """
    with taken(file, key) as copy, _image_of(copy, key) as image:
        if image.format in _MOVING and getattr(image, "n_frames", 1) > 1:
            raise AnimatedError.at(
                key, "is animated and stays as it is", "a video is lighter, a still of it can be woven"
            )
        width, height = moved_size(image.size, upright_moves(image))
        alpha = image.has_transparency_data
        remarks = tuple(_remarks(image))
        named, note = named_in(image, (width, height))
        drawn = image.format in _EXACT and _is_drawn(image)
        return MasterFacts(key, width, height, alpha, copy.digest, copy.size, drawn, remarks, note, named)


def _remarks(image: Image.Image) -> Iterator[str]:
    if not image.info.get("icc_profile"):
        return
    from PIL import ImageCms

    from sarvel.encode.color_profiles import profile_of

    try:
        profile_of(image)
    except ImageCms.PyCMSError as error:
        yield f"its color profile cannot be used ({error}), its colors are treated as sRGB; save it with a valid one"


def _is_drawn(image: Image.Image) -> bool:
    import numpy as np

    from sarvel.core.pixels.drawn import looks_drawn, rows_to_look_at

    width, height = image.size
    mode = "RGBA" if image.has_transparency_data else "RGB"
    bands = [image.crop((0, first, width, last)).convert(mode) for first, last in rows_to_look_at(width, height)]
    return looks_drawn(np.concatenate([np.asarray(band) for band in bands]))


@dataclass(frozen=True)
class Copy:
    """The bytes of a master as they were at one time: others may write its file at any moment.

    Attributes:
        stream: the bytes.
        digest: of the bytes, in hexadecimal.
    """

    stream: IO[bytes]
    digest: str
    size: int


@contextlib.contextmanager
def taken(file: MasterFile, key: str) -> Iterator[Copy]:
    """A copy of a master's bytes, in memory while they are few, else in a file that has no name.

    Raises:
        MasterError: it is missing, unreadable, or no file with an end; also faults found in the block.
    """
    with _told(key), tempfile.SpooledTemporaryFile(_MOST_IN_MEMORY) as copy:
        digest = hashlib.blake2b()
        with _regular(_at_hand(file, key), key) as stream:
            while part := stream.read(_PART):
                digest.update(part)
                copy.write(part)
        size = copy.tell()
        copy.seek(0)
        yield Copy(copy, digest.hexdigest(), size)


@contextlib.contextmanager
def opened(file: MasterFile, key: str, digest: str = "") -> Iterator[ImageFile.ImageFile]:
    """A master as an image whose pixels are not decoded yet; faults within the block are raised as the master's.

    Args:
        digest: what its bytes must still be; "" takes any.

    Raises:
        MasterError: as read_facts; also what decoding in the block finds wrong.
    """
    with taken(file, key) as copy:
        if digest not in ("", copy.digest):
            raise MasterError.at(key, "was changed while this run was at work; nothing is made of it", "run again")
        with _image_of(copy, key) as image:
            yield image


@contextlib.contextmanager
def _image_of(copy: Copy, key: str) -> Iterator[ImageFile.ImageFile]:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # Pillow's own remarks on odd metadata and size; ours are below
        with Image.open(copy.stream, formats=formats_read()) as image:
            _bounded(image, key)
            yield image


@functools.cache
def formats_read() -> list[str]:
    """Pillow's names of the formats that are read; for some others it would start other programs."""
    from PIL import PngImagePlugin

    PngImagePlugin.MAX_TEXT_CHUNK = _MOST_PNG_TEXT
    logging.getLogger("PIL").setLevel(logging.CRITICAL)  # it would print lines of its own about damaged files
    Image.init()
    return [name for name in READ_FORMATS if name in Image.OPEN]


def _at_hand(file: MasterFile, key: str) -> Path:
    """A master's file on this machine.

    Raises:
        MasterError: it is not there, or cannot be fetched.
    """
    if not isinstance(file, StoredMaster):
        return file
    if not file.is_listed:
        raise MasterError.at(key, f"there is no such file in {file.url}", "put it there or mend its name")
    try:
        return file.fetched()
    except OutputError as error:
        raise MasterError.at(key, f"cannot be fetched: {error}") from error


@contextlib.contextmanager
def _regular(file: Path, key: str) -> Iterator[IO[bytes]]:
    """Opens a regular file for reading; pipes and devices, which have no end, are declined.

    Raises:
        MasterError: it is not one.
        OSError: it cannot be opened.
    """
    handle = os.open(file, os.O_RDONLY | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0))
    with os.fdopen(handle, "rb") as stream:
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            raise MasterError.at(key, "is no file but a folder, a pipe or a device", "put an image there")
        yield stream


def _bounded(image: ImageFile.ImageFile, key: str) -> None:
    """Declines a master that would take more memory than a worker has, or halves it where its format can."""
    (width, height), name = image.size, image.format or ""
    most = _MOST_PIXELS_HALVED if name in _HALVED else _MOST_PIXELS.get(name, _MOST_PIXELS_OF_OTHERS)
    if width * height > most:
        other = "" if name in _HALVED else ", or as a JPEG of up to 200 megapixels"
        raise MasterError.at(
            key,
            f"its header promises {width}×{height} px, over the limit of {most // 10**6} megapixels for {name}",
            f"save it smaller{other}",
        )
    if width * height > _MOST_PIXELS_OF_OTHERS or _bytes_to_decode(image) > _MOST_BYTES:
        if name in _HALVED:
            image.draft(None, (width // 2, height // 2))
        if (need := _bytes_to_decode(image)) > _MOST_BYTES:
            advice = "not progressive, or smaller" if name in _HALVED else "with 8 bits a sample, or smaller"
            raise MasterError.at(
                key,
                f"decoding its {width}×{height} px would take {need // 10**6} MB, over the limit of {_MOST_BYTES // 10**6}",
                f"save it {advice}",
            )


def _bytes_to_decode(image: ImageFile.ImageFile) -> int:
    """Bytes that a decoder holds at its peak: the picture, and of a progressive JPEG all its coefficients, two bytes each."""
    width, height = image.size
    held = width * height * _BYTES.get(image.mode, 4)
    if not (isinstance(image, JpegImageFile) and image.info.get("progressive")):
        return held
    scale = image.decoderconfig[0] if image.decoderconfig else 1
    across, down = (max(layer[i] for layer in image.layer) for i in (1, 2))
    samples = sum(layer[1] * layer[2] for layer in image.layer) / (across * down)
    return held + round(2 * samples * width * height * scale**2)


@contextlib.contextmanager
def _told(key: str) -> Iterator[None]:
    """Turns the errors of Pillow and the system about bad files into one kind with a clear line."""
    try:
        yield
    except FileNotFoundError as error:
        raise MasterError.at(
            key, "there is no such file in the masters folder", "put it there or mend its name"
        ) from error
    except UnidentifiedImageError as error:
        raise MasterError.at(
            key, "is not an image that can be read", "save it as JPEG, PNG, TIFF, WebP or AVIF"
        ) from error
    except OSError as error:
        if error.errno is not None:
            raise MasterError.at(key, f"cannot be read ({error.strerror})", cure_of(error)) from error
        raise MasterError.at(key, f"is damaged ({error})", "save or copy it again") from error
    except MasterError:
        raise
    except Exception as error:  # decoders raise anything for damaged files; no list of it was ever whole
        raise MasterError.at(key, f"is damaged ({error})", "save or copy it again") from error
