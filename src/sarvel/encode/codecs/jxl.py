"""JPEG XL (ISO/IEC 18181), written by libjxl through the package pillow-jxl-plugin: the extra `jxl`.

The package hands no color profile on, so wide colors are brought into sRGB for it.
"""

from __future__ import annotations

import importlib.util
from typing import TYPE_CHECKING

from PIL import Image

from sarvel.encode.codecs.codec import Codec, Options, saved
from sarvel.encode.codecs.typical import Typical

if TYPE_CHECKING:
    from sarvel.core.pixels.resample import Pixels

AVAILABLE = importlib.util.find_spec("pillow_jxl") is not None
"""True if the extra is installed."""


def load() -> None:
    """Teaches Pillow to read and write the format."""
    import pillow_jxl  # noqa: F401 - imported because it registers the format, and only where it is used


def _version() -> str:
    import importlib.metadata

    return f"pillow-jxl-plugin {importlib.metadata.version('pillow-jxl-plugin')}"


def _save(pixels: Pixels, options: Options) -> bytes:
    load()
    return saved(Image.fromarray(pixels), "jxl", options)


JXL = Codec(
    name="jxl",
    media_type="image/jxl",
    ending="jxl",
    alpha=True,
    depths=(8, 10, 12, 16),
    animation=True,
    profile=False,
    longest=2**18,  # ISO/IEC 18181-1, annex M: level 5, which browsers take
    version=_version,
    always={"num_threads": 1},
    efforts={"quick": {"effort": 3}, "normal": {"effort": 5}, "thorough": {"effort": 9}},
    lossy={},
    lossless={"lossless": True},
    drawn={},
    typical=Typical(69.5, 1.49, (-0.9, 1.01, -0.34)),
    save=_save,
)
