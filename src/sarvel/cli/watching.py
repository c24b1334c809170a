"""`sarvel build --watch`: builds, and builds again at each change of a master, the plan or a page."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.ui.console import Console
from sarvel.core.address.on_request import CACHE_NAME
from sarvel.core.amounts import listed
from sarvel.core.model import Effort
from sarvel.errors import PlanError, SarvelError
from sarvel.files.atomic import PART
from sarvel.files.folder_lock import NAME as LOCK
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.plan.read import Plan, read_plan

if TYPE_CHECKING:
    import watchfiles

_PAUSE = 60  # ms without a change, after which a burst of them is over
_LONGEST = 1000  # ms after which a burst is acted on though it goes on
_TICK = 200  # ms until the first build, by when changes are being listened for


def watching(file: Path, effort: Effort, console: Console, build: Callable[[Plan], object]) -> int:
    """Builds, and builds again at each change, until it is interrupted.

    Args:
        build: builds the current plan.

    Raises:
        PlanError: the extra is not installed.
    """
    try:
        import watchfiles
    except ImportError:
        raise PlanError.at("", "watching needs an extra", "install it with pip install 'sarvel[watch]'") from None
    plan: Plan | None = None
    folders = _folders(file, _read(file, effort, console))
    # Listening begins before the first build, and goes on during each: no change falls between two of them.
    rounds = watchfiles.watch(
        *folders, watch_filter=None, debounce=_LONGEST, step=_PAUSE, rust_timeout=_TICK, yield_on_timeout=True
    )
    first = True
    for changes in rounds:
        told = _telling(changes, plan, file)
        if not first and not told:
            continue
        if told:
            console.result(f"{time.strftime('%H:%M:%S')} changed: {listed(told)}")
        plan = _read(file, effort, console) or plan
        if plan is not None:
            try:
                build(plan)
            except SarvelError as error:  # the next change may mend it
                console.trouble(error.notices)
        if first:
            console.result(f"watching {', '.join(map(str, folders))}; stop with Ctrl-C")
        first = False
    return 0  # pragma: no cover - an interrupt ends it


def _read(file: Path, effort: Effort, console: Console) -> Plan | None:
    """Reads the plan; reports a broken plan, and returns None."""
    try:
        return read_plan(file).at_effort(effort)
    except SarvelError as error:
        console.trouble(error.notices)
        return None


def _folders(file: Path, plan: Plan | None) -> list[Path]:
    """The folders to listen to: the plan's, and the masters folder if it lies elsewhere."""
    folders = [file.absolute().parent]
    masters = plan.masters_folder.absolute() if plan else folders[0]
    if masters.is_dir() and not masters.resolve().is_relative_to(folders[0].resolve()):
        folders.append(masters)
    return folders


def _telling(changes: Iterable[tuple[watchfiles.Change, str]], plan: Plan | None, file: Path) -> list[str]:
    """Changed files that a build could read."""
    ours = [path.resolve() for path in ((plan.output, plan.woven) if plan else ()) if path]
    told = set()
    for _, name in changes:
        path = Path(name)
        mine = path.name.startswith((PART, LOCK, FILE_NAME, ".git")) or CACHE_NAME in path.parts or ".git" in path.parts
        if not mine and not any(path.is_relative_to(folder) for folder in ours) and not path.is_dir():
            told.add(os.path.relpath(path, file.absolute().parent.resolve()))
    return sorted(told)
