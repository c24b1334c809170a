"""The short way for a run that has nothing to do: nothing that the last one read has changed, and what it left is there.

On a large site that is the commonest run. It is answered from the ledger, before anything that is slow to load.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import time
from collections.abc import Iterable, Mapping
from importlib.util import find_spec
from pathlib import Path

from sarvel.cli.speak import Speaker
from sarvel.press.ledger import read_finding

_KEY = "nothing to do"
_SETTLED_NS = 2_000_000_000  # what changed so shortly ago could change again within a tick of the file system's clock


def nothing_to_do(options: argparse.Namespace, ledger: Path) -> int | None:
    """Answers `sarvel render` if the last run left nothing to do; None if that is not sure.

    Args:
        options: as called.
        ledger: the file of the plan's ledger.
    """
    if options.only or options.force or options.prune or options.dry_run or options.verify or not ledger.is_file():
        return None
    said = read_finding(ledger, _KEY)
    told = json.loads(said) if said else None
    if told is None or told["called"] != _called(options) or not _stands(told):
        return None
    speaker = Speaker.of(options)
    speaker.notes(told["notes"])
    speaker.result(told["result"])
    speaker.document(**told["document"])
    return 0


def finding(
    options: argparse.Namespace,
    read: Iterable[Path],
    folders: Iterable[Path],
    output: Path,
    started: int,
    said: tuple[list[str], str, Mapping[str, object]],
) -> dict[str, str]:
    """What the ledger is to remember of a run that had nothing to do; empty if that cannot be told for sure.

    Args:
        options: as called.
        read: the files that it read.
        folders: the folders in which it looked for files.
        output: the folder of renditions.
        started: when it began, ns of the system's clock.
        said: its notes, its result in words, and its document.
    """
    states = {str(path.absolute()): _state(str(path)) for path in (*read, *folders)}
    if any(state is None or state[0] > started - _SETTLED_NS for state in states.values()):
        return {}
    notes, result, document = said
    told = {
        "called": _called(options),
        "states": states,
        "output": str(output.absolute()),
        "names": _names(str(output)),
        "notes": notes,
        "result": result,
        "document": document,
    }
    return {_KEY: json.dumps(told)}


def now() -> int:
    """The system's clock, ns."""
    return time.time_ns()


def _stands(told: dict[str, object]) -> bool:
    states = told["states"]
    return (
        isinstance(states, dict)
        and all(_state(path) == state for path, state in states.items())
        and _names(str(told["output"])) == told["names"]
    )


def _called(options: argparse.Namespace) -> list[str]:
    """From where, on which plan, and by which program."""
    return [str(Path.cwd()), options.plan or "", *map(str, _program())]


def _program() -> list[int]:
    """When the newest file of Sarvel was written, and that of the library that encodes: other ones may make other files."""
    own = Path(__file__).parent.parent
    codes = (
        entry.stat().st_mtime_ns
        for folder, _, _ in os.walk(own)
        if "demo" not in folder and "__pycache__" not in folder
        for entry in os.scandir(folder)
        if entry.name.endswith(".py")
    )
    packages = (find_spec(name) for name in ("PIL", "pillow_jxl"))
    places = (spec.origin for spec in packages if spec and spec.origin)
    return [max(codes), *(os.stat(place).st_mtime_ns for place in places)]  # noqa: PTH116 - as below


def _state(path: str) -> list[int] | None:
    """When a file or folder changed last, and its size; None if it is gone."""
    try:
        stat = os.stat(path)  # noqa: PTH116 - thousands of them, and a Path takes longer than the question
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
