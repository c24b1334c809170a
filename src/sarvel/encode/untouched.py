"""A master itself as one of its files: where it is lighter than what an encoder makes of it at the same size."""

from __future__ import annotations

from PIL import ImageFile

from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Treatment
from sarvel.encode.masters import opened, size_of, taken
from sarvel.encode.work import CropWork, MasterWork

# What Pillow names of a file next to its pixels that must not be published, or that changes how they are shown.
_BESIDE = frozenset(
    {"exif", "xmp", "XML:com.adobe.xmp", "icc_profile", "photoshop", "comment", "gamma", "chromaticity"}
)
_MEDIA_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png", "WEBP": "image/webp", "AVIF": "image/avif"}


def untouched(work: MasterWork, crop: CropWork, rendition: Rendition, most: int) -> bytes | None:
    """The bytes of a master, if they can serve as a rendition and are fewer than an encoder's.

    That is so of a crop that is all of it, at its own width, in its own format, where nothing but pixels is in it.

    Args:
        most: bytes of what an encoder made.
    """
    box, encoding = crop.box, rendition.encoding
    if crop.treatment != Treatment() or encoding.metadata or encoding.interlace:
        return None
    is_whole = box.left == box.top == 0 and box.width == rendition.width and box.height == rendition.height
    if not is_whole or size_of(work.file) >= most:
        return None
    with opened(work.file, work.key, work.digest) as image:
        is_of_format = _MEDIA_TYPES.get(image.format or "") == rendition.media_type
        if image.size != rendition.size or not is_of_format or not _is_bare(image):
            return None
    with taken(work.file, work.key) as copy:
        return copy.stream.read() if copy.digest == work.digest and copy.size < most else None


def _is_bare(image: ImageFile.ImageFile) -> bool:
    """Tells whether there are 8-bit pixels that browsers show unchanged, and no metadata."""
    texts = getattr(image, "text", {}) if image.format == "PNG" else {}
    is_plain = image.mode in ("RGB", "RGBA", "L", "P") and not _BESIDE & set(image.info)
    return is_plain and not texts and not dict(image.getexif())
