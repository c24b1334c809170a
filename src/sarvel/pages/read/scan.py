"""All files of a site that a survey looks at: images, pages, stylesheets, and other text that may name images."""

from __future__ import annotations

import contextlib
import os
import re
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.core.html.dialect import dialect_of
from sarvel.pages.read.kinds import read_if_short
from sarvel.pages.read.local_files import is_file

_IMAGES = frozenset({"jpg", "jpeg", "png", "webp", "avif", "gif", "jxl", "tif", "tiff", "bmp", "svg", "heic", "ico"})
_TEXTS = frozenset(
    {
        "js",
        "mjs",
        "cjs",
        "ts",
        "json",
        "yml",
        "yaml",
        "toml",
        "xml",
        "txt",
        "webmanifest",
        "csv",
        "scss",
        "sass",
        "less",
    }
)
# An element where an expression of a script stands.
_MARKUP = re.compile(r"(?:[(=>?:&]|return)\s*<(?:[A-Za-z][\w.]*[\s/>]|>)")
_LEFT_OUT = frozenset({"node_modules", "__pycache__", CACHE_NAME})  # and folders whose name begins with a point
_LONGEST = 2_000_000  # bytes; longer texts are data that no one wrote
_NAMED = re.compile(rf"[\w@.%+~-]+\.(?:{'|'.join(sorted(_IMAGES))})\b", re.IGNORECASE)


def is_image(file: Path) -> bool:
    """Tells whether a file is an image, going by the ending of its name."""
    return file.suffix.lower().lstrip(".") in _IMAGES


@dataclass
class SiteFiles:
    """Files, by kind; each list in order.

    Attributes:
        texts: other text that may name images.
    """

    images: list[Path] = field(default_factory=list)
    pages: list[Path] = field(default_factory=list)
    sheets: list[Path] = field(default_factory=list)
    texts: list[Path] = field(default_factory=list)


def find_all(paths: Iterable[Path], left_out: Collection[Path], dialects: Mapping[str, str]) -> SiteFiles:
    """Looks through files and folders.

    Args:
        left_out: folders to leave out, absolute.
        dialects: names of dialects by file ending, before our own.
    """
    found = SiteFiles()
    for file in dict.fromkeys(file for path in paths for file in _files(path, left_out)):
        ending = file.suffix.lower().lstrip(".")
        if ending in _IMAGES:
            found.images.append(file)
        elif ending == "css":
            found.sheets.append(file)
        elif dialect_of(file.name, dialects):
            found.pages.append(file)
        elif ending in _TEXTS:
            found.texts.append(file)
    return found


def dialects_of_scripts(root: Path, left_out: Iterable[Path]) -> dict[str, str]:
    """The dialect of files of scripts, by ending, if they hold the components of a project."""
    scripts = find_all([root], {place.absolute() for place in left_out}, {}).texts
    has_markup = any(_MARKUP.search(read_if_short(file)) for file in scripts if file.suffix == ".js")
    return {".js": "script"} if has_markup else {}


def _files(path: Path, left_out: Collection[Path]) -> Iterator[Path]:
    if is_file(path):
        yield path
        return
    for folder, folders, names in os.walk(path):
        folders[:] = sorted(
            name
            for name in folders
            if not name.startswith(".") and name not in _LEFT_OUT and Path(folder, name).absolute() not in left_out
        )
        files = (Path(folder, name) for name in sorted(names) if not name.startswith("."))
        yield from filter(is_file, files)


def names_in(files: Iterable[Path]) -> set[str]:
    """The names of image files that stand anywhere in some texts, escapes and all."""
    names: set[str] = set()
    for file in files:
        with contextlib.suppress(OSError):  # a file that cannot be read is no page
            if file.stat().st_size <= _LONGEST:
                names.update(_NAMED.findall(file.read_bytes().decode("utf-8", "replace")))
    return names
