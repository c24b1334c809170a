"""PNG (W3C, third edition): lossless, with a palette or as grey where that holds all colors.

With the extra `png` the package pyoxipng tries further forms and filters for each file, which spares about a tenth. It is no
requirement, because it has no wheels for some systems; without it, files are written and interlaced by Pillow.
"""

from __future__ import annotations

import importlib.util
import io
import struct
import zlib
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from PIL import Image

from sarvel.encode.codecs.codec import Codec, Options, built_in, saved

if TYPE_CHECKING:
    from sarvel.core.pixels.resample import Pixels

# Section 8.1: of each block of 8 × 8 px, the first row and column of each pass, and the steps between its rows and columns.
_PASSES = ((0, 0, 8, 8), (0, 4, 8, 8), (4, 0, 8, 4), (0, 2, 4, 4), (2, 0, 4, 2), (0, 1, 2, 2), (1, 0, 2, 1))
_INTERLACE = 12  # the byte of IHDR that states how rows are ordered: section 11.2.1
_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_MOST_COLORS = 256

OPTIMISES = importlib.util.find_spec("oxipng") is not None
"""True if the extra is installed."""


def fitting(pixels: Pixels) -> Image.Image:
    """The same pixels in the smallest form: a palette of at most 256 colors, grey, or unchanged."""
    import numpy as np

    height, width, channels = pixels.shape
    codes = np.ascontiguousarray(np.pad(pixels, ((0, 0), (0, 0), (0, 4 - channels)))).view(np.uint32)[..., 0]
    if len(np.unique(codes[: height // 8 + 1])) <= _MOST_COLORS:  # spares most photographs the sorting of all
        colors, which = np.unique(codes, return_inverse=True)
        if len(colors) <= _MOST_COLORS:
            image = Image.frombytes("P", (width, height), which.astype(np.uint8).tobytes())
            table = colors.view(np.uint8).reshape(-1, 4)
            image.putpalette(table[:, :3].tobytes())
            if channels == 4:
                image.info["transparency"] = table[:, 3].tobytes()
            return image
    red, green, blue = (pixels[..., i] for i in range(3))
    if (red == green).all() and (red == blue).all():
        return Image.fromarray(red if channels == 3 else np.stack([red, pixels[..., 3]], axis=-1))
    return Image.fromarray(pixels)


def _save(pixels: Pixels, options: Options) -> bytes:
    image = fitting(pixels)
    rest: dict[str, Any] = {name: value for name, value in options.items() if name not in ("interlace", "level")}
    if "transparency" in image.info:
        rest["transparency"] = image.info["transparency"]
    if image.mode == "P":
        rest["bits"] = 8  # so that rows of every pass fill whole bytes in the same way
    content, interlaces = saved(image, "png", rest), bool(options.get("interlace"))
    if OPTIMISES:
        return _optimised(content, options["level"], interlaces=interlaces)
    return _interlaced(image, content, rest) if interlaces else content


def _optimised(content: bytes, level: int, *, interlaces: bool) -> bytes:
    """The same picture in the smallest form that is found; metadata and colors of transparent pixels stay.

    Args:
        level: how many forms are tried, 0 to 6.
        interlaces: whether it is to show roughly before it is whole.
    """
    import oxipng

    ordered = oxipng.Interlacing.Adam7 if interlaces else oxipng.Interlacing.Off
    keep = oxipng.StripChunks.none()
    # Interlaced files are larger; it would give the other one back.
    return oxipng.optimize_from_memory(content, level=level, force=interlaces, interlace=ordered, strip=keep)


def _interlaced(image: Image.Image, content: bytes, options: Options) -> bytes:
    """The file with its rows in the seven passes of section 8.1: each a smaller picture, filtered on its own by Pillow."""
    width, height = image.size
    rows = b""
    for top, left, down, across in _PASSES:
        if top < height and left < width:
            part = _every(image, top, left, down, across)
            rows += zlib.decompress(
                b"".join(data for name, data in _chunks(saved(part, "png", options)) if name == b"IDAT")
            )
    written, out = False, io.BytesIO()
    out.write(_SIGNATURE)
    for name, data in _chunks(content):
        if name == b"IHDR":
            out.write(_chunk(name, data[:_INTERLACE] + b"\x01"))
        elif name != b"IDAT":
            out.write(_chunk(name, data))
        elif not written:
            out.write(_chunk(name, zlib.compress(rows, 9)))
            written = True
    return out.getvalue()


def _every(image: Image.Image, top: int, left: int, down: int, across: int) -> Image.Image:
    import numpy as np

    samples = np.ascontiguousarray(np.asarray(image)[top::down, left::across])
    part = Image.frombytes(image.mode, (samples.shape[1], samples.shape[0]), samples.tobytes())
    if image.mode == "P":
        part.putpalette(image.getpalette() or [])
    return part


def _chunks(content: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = len(_SIGNATURE)
    while at < len(content):
        (length,) = struct.unpack_from(">I", content, at)
        yield content[at + 4 : at + 8], content[at + 8 : at + 8 + length]
        at += length + 12


def _chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def _version() -> str:
    if not OPTIMISES:
        return built_in("zlib")()
    import importlib.metadata  # slow to load

    return f"oxipng {importlib.metadata.version('pyoxipng')}"


PNG = Codec(
    name="png",
    media_type="image/png",
    ending="png",
    alpha=True,
    depths=(1, 2, 4, 8, 16),
    animation=True,
    profile=True,
    longest=2**31 - 1,  # PNG, section 11.2.1
    version=_version,
    always={"compress_level": 9},
    efforts={"quick": {"level": 1}, "normal": {"level": 2}, "thorough": {"level": 4}} if OPTIMISES else {},
    lossy=None,
    lossless={},
    drawn={},
    interlaces=True,
    save=_save,
)
