"""Text for people: made safe to show on a terminal."""

from __future__ import annotations

import functools
import re

# Letters that act on a terminal: all controls but line end and tab (Unicode, categories Cc and, of Cf, what turns the
# direction of writing; Zl and Zp).
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069]")
_LINE_END = re.compile(r"[\n\t]")
_INDENTED = 2_000_000  # letters of JSON that are still laid out, which takes Python ten times as long
_LONGEST = 600  # letters of a message; a longer one repeats someone's input, such as a page's value of some kilobytes
_BASE64 = re.compile(r"(data:[\w/+.;=-]{0,100}base64,)([A-Za-z0-9+/=_%-]{9,})")


def visible(text: str) -> str:
    """Spells out letters that act on a terminal: no file name and no page moves the cursor or hides what follows."""
    return _CONTROL.sub(_spelled, text)


def one_line(message: str) -> str:
    """A message as one line of bounded length: its place and its cure, which are at its ends, stay."""
    return shortened(_LINE_END.sub(_spelled, visible(message)), _LONGEST)


def as_json(content: object) -> str:
    """A document of JSON that acts on no terminal and no log either: RFC 8259, section 7, lets any letter be escaped."""
    import json  # start-up is a feature

    from sarvel.notices import Notice

    text = json.dumps(content, ensure_ascii=False, default=Notice.as_json)
    if len(text) < _INDENTED:
        text = json.dumps(content, ensure_ascii=False, indent=2, default=Notice.as_json)
    return _CONTROL.sub(lambda found: f"\\u{ord(found.group()):04x}", text)


def _spelled(found: re.Match[str]) -> str:
    return found.group().encode("unicode_escape").decode()


@functools.lru_cache(maxsize=4)
def legible(text: str) -> str:
    """Replaces letters that act on a terminal, and files held as base64, by others; the text keeps its length."""
    dotted = _BASE64.sub(lambda found: found.group(1) + "·" * len(found.group(2)), text)
    return _CONTROL.sub("�", dotted)


def without_files(text: str) -> str:
    """Leaves out of a text the files that it holds as base64."""
    return _BASE64.sub(r"\1…", text)


def shortened(text: str, room: int) -> str:
    """A text in so many letters, at least 4, without its middle if it is longer: the ends of names say most."""
    head = (room - 1) // 3
    return text if len(text) <= room else f"{text[:head]}…{text[head + 1 - room :]}"
