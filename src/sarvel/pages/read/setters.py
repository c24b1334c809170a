"""Scripts of a page that give an image another file: they set `src`, which does nothing to an image with `srcset`.

HTML, section 4.8.4.3.7: of an image with a list of files, `src` is the last choice. Only scripts that name the image by a
selector, an id or a class near that statement are found.
"""

from __future__ import annotations

import contextlib
import functools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.html.selector import Selector, SelectorError, parse_selector
from sarvel.core.html.tags import Tag, line_and_column
from sarvel.pages.read.expression import Expression
from sarvel.pages.read.project import Project

LAZY = ("data-src", "data-lazy", "data-lazy-src", "data-original", "data-srcset", "data-lazysrc")
"""Attributes in which loaders of pages keep the file that a script gives to an image later. No standard has them: they are what
scripts of many sites look for."""

_LONGEST = 400_000  # bytes of a script that is read; libraries as long know no image of the page by name

_SCRIPT = re.compile(r"<script\b(?P<attributes>[^>]{0,2000})>", re.IGNORECASE)
_SCRIPT_END = re.compile(r"</script", re.IGNORECASE)
_SRC = re.compile(r"""\bsrc\s*=\s*["']?([^"'\s>]+)""", re.IGNORECASE)

_NAME = r"[A-Za-z_$][\w$]*"
_FINDS = r"(?:(?:\$|jQuery)\(|querySelector(?:All)?\(|getElementById\(|getElementsByClassName\()"
_FOUND = rf"""{_FINDS}\s*["'`](?P<css>[^"'`\n]+)["'`]\s*\)"""
# The element, right in front of what sets its src: a call that finds it, or a name that was given to it.
_SET = re.compile(
    rf"""(?:{_FOUND}(?:\[\d+\]|\.(?:eq|first|get)\(\d*\))?|(?P<name>{_NAME})(?:\[\w+\])?)
    \s*(?:\.src\s*=(?!=)|\.setAttribute\(\s*["']src["']|\.(?:attr|prop)\(\s*(?:["']src["']\s*,|\{{\s*["']?src["']?\s*:))""",
    re.VERBOSE,
)
_GIVEN = re.compile(rf"""(?P<name>{_NAME})\s*=\s*[^;=\n]*?{_FOUND}""")
_EACH = re.compile(rf"""{_FOUND}\s*\.(?:forEach|each)\(\s*(?:function\s*\(|\()?\s*(?P<name>{_NAME})""")


@dataclass(frozen=True)
class Setter:
    """A statement that sets the file of images.

    Attributes:
        selectors: of these images; one of them means each.
        place: the script's file and line.
    """

    selectors: tuple[Selector, ...]
    place: str

    def means(self, tag: Tag, ancestors: Sequence[Tag]) -> bool:
        """Tells whether it sets the file of an img."""
        return any(one.matches(tag, ancestors) for one in self.selectors)


def setters(page: Path, text: str, project: Project) -> list[Setter]:
    """The statements of a page's scripts, inline and at hand, that set files of images."""
    found: list[Setter] = []
    for attributes, start, end in _scripts(text):
        src = _SRC.search(attributes)
        if src is None and end - start <= _LONGEST:
            line, _ = line_and_column(text, start)
            found += _of_script(str(page), text[start:end], line)
        elif src and (file := project.file(Expression(src[1]), page.parent)):
            with contextlib.suppress(OSError):
                found += _of_file(file, file.stat().st_mtime_ns)
    return found


def _scripts(text: str) -> Iterator[tuple[str, int, int]]:
    """The attributes of each script element, and where its text starts and ends; a script that is never closed does not count."""
    at = 0
    while (opening := _SCRIPT.search(text, at)) and (ending := _SCRIPT_END.search(text, opening.end())):
        yield opening["attributes"], opening.end(), ending.start()
        at = ending.end()


@functools.lru_cache(maxsize=256)
def _of_file(file: Path, _changed: int) -> Sequence[Setter]:
    if file.stat().st_size > _LONGEST:
        return ()
    return tuple(_of_script(str(file), file.read_text("utf-8", "replace"), 1))


def _of_script(file: str, text: str, line: int) -> Iterator[Setter]:
    if "src" not in text or "srcset" in text:  # a script that knows lists of files takes care of them
        return
    names: dict[str, list[str]] = {}
    for given in (*_GIVEN.finditer(text), *_EACH.finditer(text)):
        names.setdefault(given["name"], []).append(_css(given.group(), given["css"]))
    at = 0
    for statement in _SET.finditer(text):
        line, at = line + text.count("\n", at, statement.start()), statement.start()
        css = (
            [_css(statement.group(), statement["css"])] if statement["css"] else names.get(statement["name"] or "", [])
        )
        selectors = tuple(selector for one in css for selector in _parsed(one))
        if selectors:
            yield Setter(selectors, f"{file}:{line}")


def _css(words: str, said: str) -> str:
    """The selector of what a call finds."""
    return f"#{said}" if "getElementById" in words else f".{said}" if "ByClassName" in words else said


def _parsed(css: str) -> Iterator[Selector]:
    """The selectors of a list that can mean an image, as far as they are supported."""
    for one in css.split(","):
        with contextlib.suppress(SelectorError):
            selector = parse_selector(one.strip())
            if selector.type in ("", "img"):
                yield selector
