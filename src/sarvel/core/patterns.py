"""Patterns of paths, as every key of the plan writes them.

`*` matches any letters of one name, `?` one letter, `[abc]` one of these, `[!abc]` any other letter, and `**`
between slashes for any number of folders. A pattern means the files whose paths it matches, and everything in folders
whose paths it matches. A path always matches itself, even if its name holds brackets.
"""

from __future__ import annotations

import functools
import re

WILD = frozenset("*?[")
"""The letters that make a name a pattern."""


def matches(pattern: str, path: str) -> bool:
    """Tells whether a pattern means a file.

    Args:
        pattern: the pattern; a slash at its end and `.` for the folder itself change nothing.
        path: of the file, from the folder that patterns are seen from, with forward slashes.
    """
    plain = "/".join(parts_of(pattern))
    return path == plain or path.startswith(f"{plain}/") or plain == "" or bool(_compiled(pattern).fullmatch(path))


def matches_name(part: str, name: str) -> bool:
    """Tells whether one part of a pattern, between slashes and other than `**`, means a name."""
    return part == name or bool(_compiled(part).fullmatch(name))


def parts_of(pattern: str) -> list[str]:
    """The parts of a pattern between slashes."""
    return [part for part in pattern.split("/") if part not in ("", ".")]


@functools.lru_cache(maxsize=256)
def _compiled(pattern: str) -> re.Pattern[str]:
    *folders, last = parts_of(pattern) or [""]
    before = "".join(r"(?:[^/]+/)*" if part == "**" else f"{_in_regex(part)}/" for part in folders)
    return re.compile(before + (".+" if last == "**" else rf"{_in_regex(last)}(?:/.*)?"), re.DOTALL)


_PIECE = re.compile(r"\*+|\?|\[(!?)(\]?[^\]]*)\]|.", re.DOTALL)


def _in_regex(part: str) -> str:
    """A part of a pattern as a regular expression."""
    return "".join(map(_piece_in_regex, _PIECE.finditer(part)))


def _piece_in_regex(found: re.Match[str]) -> str:
    piece = found.group()
    if piece.startswith("*"):
        return "[^/]*"
    if piece == "?":
        return "[^/]"
    if found.group(2):
        letters = re.sub(r"([\\\[\]^&~|])", r"\\\1", found.group(2))
        some = f"[{'^' if found.group(1) else ''}{letters}]"
        return f"(?!/){some}" if _is_sound(some) else re.escape(piece)
    return re.escape(piece)


def _is_sound(some: str) -> bool:
    """Tells whether a set of letters is valid: `[z-a]` is not, and matches literally."""
    try:
        re.compile(some)
    except re.error:
        return False
    return True
