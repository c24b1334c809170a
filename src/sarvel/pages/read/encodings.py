"""The encoding of a page: what its byte-order mark or its first tags say, as browsers read them; each byte comes back as it was.

HTML, section 13.2.3.2 ("prescan a byte stream to determine its encoding"); labels are those of the Encoding Standard. A page
whose encoding no one knows, or whose bytes would not come back, is read as ASCII with its other bytes kept aside.
"""

from __future__ import annotations

import codecs
import re
from typing import Final

from sarvel.core.html.tags import Wanted, tags

KEPT: Final = "sarvel-kept"
"""Error handler: bytes that were kept aside come back; letters that an encoding lacks become character references."""

_META = Wanted(frozenset({"meta"}))
_PRESCANNED = 1024  # bytes: HTML, section 13.2.3.2
_ZEROS = 0.1  # of the bytes of UTF-16, where tags are ASCII; a text in any other encoding has none
_XML = re.compile(r"""<\?xml\s[^>]*?encoding\s*=\s*["']([\w.:-]+)""")
_CHARSET = re.compile(r"""charset\s*=\s*["']?\s*([^\s"';]+)""", re.IGNORECASE)
_MARKS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
_WIDE = (
    (codecs.BOM_UTF32_LE, "UTF-32"),
    (codecs.BOM_UTF32_BE, "UTF-32"),
    (b"<\0\0\0", "UTF-32"),
    (b"\0\0\0<", "UTF-32"),
)


def _kept(error: UnicodeError) -> tuple[str | bytes, int]:
    if isinstance(error, UnicodeDecodeError):
        return chr(0xDC00 + error.object[error.start]), error.start + 1
    if not isinstance(error, UnicodeEncodeError):
        raise error
    letter = ord(error.object[error.start])
    if 0xDC80 <= letter <= 0xDCFF:  # PEP 383
        return bytes([letter - 0xDC00]), error.start + 1
    return f"&#{letter};", error.start + 1


codecs.register_error(KEPT, _kept)


def mark_of(content: bytes) -> tuple[bytes, str]:
    """The byte-order mark of a page and its encoding, or nothing."""
    return next(((mark, name) for mark, name in _MARKS if content.startswith(mark)), (b"", ""))


def unread(content: bytes) -> str:
    """The name of an encoding that no browser reads a page in, or not without a mark; "" for any other."""
    for begin, name in _WIDE:
        if content.startswith(begin):
            return name
    head = content[:_PRESCANNED]
    is_wide = not mark_of(content)[0] and head.count(0) > len(head) * _ZEROS
    return "UTF-16 without a byte-order mark" if is_wide else ""


def encoding_of(content: bytes) -> str:
    """The encoding of a page without a mark, by which all its bytes come back; Python's name of it."""
    is_utf8 = _round_trips(content, "utf-8")
    if is_utf8 and not content.isascii():
        return "utf-8"
    said = _declared(content[:_PRESCANNED].decode("latin-1"))
    if said and said != "utf-8" and _round_trips(content, said):
        return said
    return "utf-8" if is_utf8 else "ascii"


def _declared(head: str) -> str:
    """The encoding that a page says of itself; "" where it says none that there is."""
    import webencodings  # only few pages ask for it

    labels = [found[1] for found in [_XML.match(head)] if found]
    for tag in tags(head, only=_META):
        values = tag.values()
        content = _CHARSET.search(values.get("content", "")) if "http-equiv" in values else None
        labels += [one for one in (values.get("charset"), content and content[1]) if one]
    known = (webencodings.lookup(label.strip()) for label in labels)
    found = next((one for one in known if one), None)
    # A page that could be read this far is in no such encoding, despite its declaration: HTML, section 13.2.3.2, step 16.
    return "" if found is None or found.name.startswith(("utf-16", "x-user")) else str(found.codec_info.name)


def _round_trips(content: bytes, encoding: str) -> bool:
    """Tells whether an encoding gives the bytes of a page back; some have several spellings of one letter."""
    try:
        return content.decode(encoding, "strict" if encoding == "utf-8" else KEPT).encode(encoding, KEPT) == content
    except (UnicodeError, LookupError):
        return False
