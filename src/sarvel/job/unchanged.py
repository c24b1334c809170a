"""The short way for a run that has nothing to do: nothing that the last one read has changed, and what it left is there.

On a large site that is the commonest run. It is answered from the ledger, before anything that is slow to load.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.press.ledger import read_finding

if TYPE_CHECKING:
    from sarvel.job.site import Site

_SETTLED_NS = 2_000_000_000  # what changed so shortly ago could change again within a tick of the file system's clock
_SMALL = 1_000_000  # bytes; smaller files that a run wrote itself are known by their contents, however new they are

_Mark = list[int] | str | None  # time of change, ns, and size; or a digest of the contents; None for no file


@dataclass(frozen=True)
class Said:
    """The words of a run that has nothing to do.

    Attributes:
        notes: what the user should know and may leave so.
        text: its result for a person, as it is printed.
        document: its result as JSON.
    """

    notes: Sequence[str]
    text: str
    document: Mapping[str, object]


@dataclass(frozen=True)
class Seen:
    """The files that the result of a run depends on.

    Attributes:
        read: files that it read, and folders in which it looked for files.
        looked: files that it looked at, and places where it found none.
        written: files that it wrote, or found written.
        output: the folder of renditions.
        started: when it began, ns of the system's clock.
    """

    read: Iterable[Path]
    looked: Iterable[Path]
    written: Iterable[Path]
    output: Path
    started: int


def now() -> int:
    """The system's clock, ns."""
    return time.time_ns()


def nothing_to_do(ledger: Path, called: Sequence[str]) -> Said | None:
    """The words of a run, if the last one that was called like it left nothing to do; None if that is not sure.

    Args:
        ledger: the file of the plan's ledger.
        called: the command, and all else that its words and deeds depend on: the plan, the form of its output.
    """
    said = read_finding(ledger, _key(called)) if ledger.is_file() else None
    told = json.loads(said) if said else None
    if told is None or told["called"] != _called(called) or told["program"] != _program():
        return None
    if _names(told["output"]) != told["names"]:
        return None
    if any(_mark(path, like=mark) != mark for path, mark in told["marks"].items()):
        return None
    return Said(told["notes"], told["text"], told["document"])


def entry(called: Sequence[str], seen: Seen, said: Said) -> dict[str, str]:
    """The ledger's entry for a run that left nothing to do; empty if that is not sure.

    Args:
        called: as for `nothing_to_do`.
        seen: what the run went by.
        said: what the next one would say.
    """
    marks: dict[str, _Mark] = {}
    written = {str(path.absolute()) for path in seen.written}
    inside = f"{seen.output.absolute()}{os.sep}"  # known by their names and sizes
    for path in (str(path.absolute()) for path in (*seen.read, *seen.looked)):
        if path not in written and not path.startswith(inside):
            marks[path] = _mark(path)
    if any(isinstance(mark, list) and mark[0] > seen.started - _SETTLED_NS for mark in marks.values()):
        return {}
    for path in written:
        marks[path] = _mark(path, like="")
        mark = marks[path]
        if mark is None or (isinstance(mark, list) and mark[0] > seen.started - _SETTLED_NS):
            return {}
    told = {
        "called": _called(called),
        "program": _program(),
        "marks": marks,
        "output": str(seen.output.absolute()),
        "names": _names(str(seen.output)),
        "notes": list(said.notes),
        "text": said.text,
        "document": said.document,
    }
    return {_key(called): json.dumps(told)}


def folders_read(site: Site) -> list[Path]:
    """The folders in which a new file could be a page, or a master that was missing."""
    folders = {page.file.source.parent for page in site.pages}
    for pattern in site.plan.page_patterns:
        root = site.plan.folder
        for part in itertools.takewhile(lambda part: not set(part) & set("*?["), Path(pattern).parts):
            root /= part
        folders |= {Path(folder) for folder, _, _ in os.walk(root)}
    return sorted(folders)


def _key(called: Sequence[str]) -> str:
    """The key in the ledger: one for each command, for the last run of it."""
    return f"nothing to do: {called[0]}"


def _called(called: Sequence[str]) -> list[str]:
    """The folder that a run is called from, and what it is called with."""
    return [str(Path.cwd()), *called]


def _program() -> list[int]:
    """Times of change of the program and of the libraries that encode: other ones may make other files."""
    own = Path(__file__).parent.parent
    codes = (
        entry.stat().st_mtime_ns
        for folder, _, _ in os.walk(own)
        if "demo" not in folder and "__pycache__" not in folder
        for entry in os.scandir(folder)
        if entry.name.endswith(".py")
    )
    packages = (find_spec(name) for name in ("PIL", "pillow_jxl", "oxipng"))
    places = (spec.origin for spec in packages if spec and spec.origin)
    return [max(codes), *(Path(place).stat().st_mtime_ns for place in places)]


def _mark(path: str, like: _Mark = None) -> _Mark:
    """A mark of the state of a file or folder; None if there is none.

    Args:
        path: the file or folder.
        like: a mark of the kind that is wanted: a digest, or else time and size. A large file has no digest.
    """
    try:
        stat = os.stat(path)  # noqa: PTH116 - thousands of them, and a Path takes longer than the question
        if isinstance(like, str) and stat.st_size < _SMALL:
            with open(path, "rb") as file:  # noqa: PTH123 - as above
                return hashlib.blake2b(file.read(), digest_size=16).hexdigest()
    except OSError:
        return None
    return [stat.st_mtime_ns, stat.st_size]


def _names(folder: str) -> str:
    """A digest of the names and sizes of what is in a folder; "" if there is none."""
    try:
        with os.scandir(folder) as entries:
            there = sorted(f"{entry.name}\n{entry.stat().st_size}" for entry in entries)
    except OSError:
        return ""
    return hashlib.blake2b("\0".join(there).encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()
