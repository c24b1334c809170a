"""Copyright and credit: the part of a master's metadata that may be kept."""

from __future__ import annotations

from PIL import Image, ImageFile, IptcImagePlugin

from sarvel.encode.orientation import exif_of

# Exif 2.32, table 4: Artist and Copyright.
_ARTIST, _COPYRIGHT = 0x013B, 0x8298

# Where else they may stand: records of IPTC IIM 4.2 (by-line, credit; copyright notice), keywords of PNG, section 11.3.3.1.
_IPTC = {_ARTIST: ((2, 80), (2, 110)), _COPYRIGHT: ((2, 116),)}
_PNG = {_ARTIST: "Author", _COPYRIGHT: "Copyright"}


def credit_of(image: ImageFile.ImageFile) -> bytes:
    """Artist and copyright of an image as Exif metadata of their own; b"" if it names neither."""
    theirs, ours = exif_of(image), Image.Exif()
    iptc = IptcImagePlugin.getiptcinfo(image) or {}
    for tag in (_ARTIST, _COPYRIGHT):
        said = theirs.get(tag) or next((iptc[record] for record in _IPTC[tag] if iptc.get(record)), None)
        text = _words(said or image.info.get(_PNG[tag]))
        if text:
            ours[tag] = text
    return ours.tobytes() if len(ours) else b""


def _words(said: object) -> str:
    if isinstance(said, list):
        return ", ".join(filter(None, map(_words, said)))
    text = said.decode("utf-8", "replace") if isinstance(said, bytes) else str(said or "")
    return text.strip("\0 ")
