"""The short way for a run without work: its inputs have not changed, and its outputs exist.

On a large site that is the commonest run. It is answered from the ledger, before anything that is slow to load.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import os
import time
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from importlib.util import find_spec
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sarvel.errors import SarvelError
from sarvel.files.ledger_rows import read_finding
from sarvel.notices import Notice

if TYPE_CHECKING:
    from sarvel.pipeline.site import PlanAndPages
    from sarvel.plan.read import Plan

_SETTLED_NS = 2_000_000_000  # what changed so shortly ago could change again within a tick of the file system's clock
_DIGEST = 32  # bytes, for sums: against chance, because no one gains by a false one
_SMALL = 1_000_000  # bytes; smaller files that a run wrote itself are known by their contents, however new they are

_Mark = list[int] | str | None  # time of change, ns, and size; or a digest of the contents; None for no file


@dataclass(frozen=True)
class InputState:
    """The files that the result of a run depends on.

    Attributes:
        read: files that it read, and folders in which it looked for files.
        looked: files that it looked at, and places where it found none.
        written: files that it wrote, or found written.
        listed: folders, or URLs of object storage, whose names and sizes of files count.
        masters: folders that masters lie in, each with the endings of their names: of the files that are called so, times count.
        started: when it began, ns of the system's clock.
    """

    read: Iterable[Path]
    looked: Iterable[Path]
    written: Iterable[Path]
    listed: Sequence[str]
    masters: Mapping[Path, Collection[str]]
    started: int


def clock() -> int:
    """The system's clock, ns."""
    return time.time_ns()


def kept_result(ledger: Path, called: Sequence[str]) -> Mapping[str, Any] | None:
    """The result of a run, if the last one that was called like it left nothing to do; None if that is not sure.

    Args:
        ledger: the file of the plan's ledger.
        called: the command, and all else that its result depends on.
    """
    found = read_finding(ledger, _key(called)) if ledger.is_file() else None
    told = json.loads(found) if found else None
    if told is None or told["called"] != _called(called) or told["program"] != _program():
        return None
    if any(_mark(path, like=mark) != mark for path, mark in told["marks"].items()):
        return None
    if any(_names(place) != names for place, names in told["names"].items()):
        return None
    if any(_dates(folder, endings)[0] != dates for folder, (dates, endings) in told["dates"].items()):
        return None
    result: Mapping[str, Any] = told["result"]
    return result


def kept_entry(called: Sequence[str], state: InputState, result: Mapping[str, object]) -> dict[str, str]:
    """The ledger's entry for a run that left nothing to do; empty if that is not sure.

    Args:
        called: as for `nothing_to_do`.
        result: of the next run, as JSON.
    """
    marks: dict[str, _Mark] = {}
    written = {str(path.absolute()) for path in state.written}
    inside = tuple(f"{place}{os.sep}" for place in state.listed)  # known by their names and sizes
    for path in (str(path.absolute()) for path in (*state.read, *state.looked)):
        if path not in written and not path.startswith(inside):
            marks[path] = _mark(path)
    if any(isinstance(mark, list) and mark[0] > state.started - _SETTLED_NS for mark in marks.values()):
        return {}
    for path in written:
        marks[path] = _mark(path, like="")
        mark = marks[path]
        if mark is None or (isinstance(mark, list) and mark[0] > state.started - _SETTLED_NS):
            return {}
    dates: dict[str, tuple[str, list[str]]] = {}
    for folder, endings in ((str(place.absolute()), sorted(some)) for place, some in state.masters.items()):
        digest, latest = _dates(folder, endings)
        if latest > state.started - _SETTLED_NS:
            return {}
        dates[folder] = (digest, endings)
    told = {
        "called": _called(called),
        "program": _program(),
        "marks": marks,
        "names": {place: _names(place) for place in state.listed},
        "dates": dates,
        "result": result,
    }
    return {_key(called): json.dumps(told, default=Notice.as_json)}


def endings_by_folder(files: Iterable[Path], found: dict[Path, set[str]]) -> dict[Path, set[str]]:
    """Adds to the folders of files, each with the endings of their names."""
    for file in files:
        found.setdefault(file.parent, set()).add(file.suffix)
    return found


def places_listed(plan: Plan) -> list[str]:
    """The places of a plan whose names and sizes count: of its renditions, and of masters in object storage."""
    output = plan.output_url or str(plan.output.absolute())
    return [output, *([plan.masters_url] if plan.masters_url else [])]


def folders_searched(site: PlanAndPages) -> list[Path]:
    """The folders in which a new file could be a page, or a master that was missing."""
    folders = {page.file.source.parent for page in site.pages}
    for pattern in (*site.plan.page_patterns, *site.plan.data):
        root = site.plan.folder
        for part in itertools.takewhile(lambda part: not set(part) & set("*?["), Path(pattern).parts):
            root /= part
        folders |= {Path(folder) for folder, _, _ in os.walk(root)}
    return sorted(folders)


def _key(called: Sequence[str]) -> str:
    """The key in the ledger: one for each command, for the last run of it."""
    return f"nothing to do: {called[0]}"


def _called(called: Sequence[str]) -> list[str]:
    """The current folder and the arguments of a run."""
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
    """A mark of the state of a file or folder; or None.

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
    """A digest of the names and sizes in a folder, or in object storage, or ""."""
    if "://" in folder:
        return _names_in_store(folder)
    try:
        with os.scandir(folder) as entries:
            return _digest(f"{entry.name}\n{entry.stat().st_size}" for entry in entries)
    except OSError:
        return ""


def _dates(folder: str, endings: Sequence[str]) -> tuple[str, int]:
    """A digest of names, sizes and times of the files in a folder that end so; and the latest time, ns."""
    latest, wanted = 0, tuple(endings)

    def marks(entries: Iterable[os.DirEntry[str]]) -> Iterator[str]:
        nonlocal latest
        for entry in entries:
            if entry.name.endswith(wanted):
                stat = entry.stat()
                latest = max(latest, stat.st_mtime_ns)
                yield f"{entry.name}\n{stat.st_size}\n{stat.st_mtime_ns}"

    try:
        with os.scandir(folder) as entries:
            return _digest(marks(entries)), latest
    except OSError:
        return "", 0


def _names_in_store(url: str) -> str:
    from sarvel.files.storage.store import Store

    try:
        entries = Store(url).entries()
    except SarvelError:
        return ""  # the run itself reports the fault
    return _digest(f"{name}\n{entry.size}\n{entry.version}" for name, entry in entries.items())


def _digest(marks: Iterable[str]) -> str:
    """A digest of texts in any order, which are held one at a time: the sum of theirs.

    Clarke et al., "Incremental Multiset Hash Functions and Their Application to Memory Integrity Checking", ASIACRYPT 2003.
    """
    total = 0
    for mark in marks:
        content = mark.encode("utf-8", "surrogateescape")
        total += int.from_bytes(hashlib.blake2b(content, digest_size=_DIGEST).digest())
    return f"{total % 2 ** (8 * _DIGEST):x}"
