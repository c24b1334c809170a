"""`sarvel serve`: the site on loopback, with a live list of what each window fetches; pages reload at each build."""

from __future__ import annotations

import argparse
import socket
import sys
import threading
import time
from collections.abc import Sequence
from importlib.util import find_spec
from typing import TYPE_CHECKING

from sarvel.cli.commands.build import build_and_tell
from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console
from sarvel.cli.ui.styles import GOOD, TAKEN, WARNING
from sarvel.cli.ui.text import shortened, visible
from sarvel.core.amounts import weight
from sarvel.errors import PlanError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.render import RenderOptions
from sarvel.plan.read import Plan

if TYPE_CHECKING:
    import uvicorn

    from sarvel.server.live import LiveRow
    from sarvel.server.preview import Preview

_COLORS = {"sharp": GOOD, "soft": TAKEN, "missing": TAKEN, "nothing": TAKEN}  # by the first word of a verdict
_STARTED = 5.0  # s within which a server is there, or has failed
_GRACE = 1  # s that answers have to end in


def run(options: argparse.Namespace) -> int:
    """Serves until it is interrupted.

    Raises:
        PlanError: the extra is not installed, or the port is taken.
    """
    console = Console.of(options)
    try:
        from sarvel.server.preview import Preview
    except ImportError:
        raise PlanError.at("", "sarvel serve needs an extra", "install it with pip install 'sarvel[serve]'") from None
    from sarvel.server.live import Live
    from sarvel.tools.serving.served_folders import folders_of

    plan = plan_of(options)
    preview = Preview(
        folders_of(plan, before=options.before), Live(plan), lambda rows: _tell(rows, console), [options.host]
    )
    listening = listening_at(options.host, options.port)
    server, thread = _started(preview, listening)
    host, port = listening.getsockname()[:2]
    whose = "the authors' pages of " if options.before else ""
    name = plan.folder.absolute().name
    console.result(f"serving {whose}{name} at http://{host}:{port}/; stop with Ctrl-C")
    try:
        _wait(options, plan, preview, console)
    finally:
        server.should_exit = True
        preview.end()
        thread.join(2 * _GRACE)  # what still answers when the interpreter ends fails with a traceback
    return 0  # pragma: no cover - it ends by an interrupt


def _wait(options: argparse.Namespace, plan: Plan, preview: Preview, console: Console) -> None:
    """Builds at each change, if changes can be watched; else waits."""
    from sarvel.tools.serving.served_folders import folders_of

    def build(now: Plan) -> None:
        build_and_tell(now, RenderOptions(workers=options.workers), console, table=False, woven=lambda: built(now))

    def built(now: Plan) -> None:
        preview.live.plan = now
        preview.folders = folders_of(now, before=options.before)
        preview.built()

    if options.watch and not options.before and find_spec("watchfiles") is None:
        text, cure = "changes are not built, which needs another extra", "pip install 'sarvel[watch]'"
        console.notes([Notice(Kind.CALL, "", text, cure, "note")])
    elif options.watch and not options.before:
        from sarvel.cli.watching import watching

        watching(plan.file, options.effort or "quick", console, build)
    while True:
        time.sleep(3600)


def listening_at(host: str, port: int) -> socket.socket:
    """A socket that listens.

    Raises:
        PlanError: it cannot.
    """
    listening = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
        listening.listen(128)
    except OSError as error:
        listening.close()
        how = "name another with --port, or --port 0 for one that is free"
        raise PlanError.at(f"{host}:{port}", f"cannot be listened at ({error.strerror})", how) from error
    return listening


def _started(preview: Preview, listening: socket.socket) -> tuple[uvicorn.Server, threading.Thread]:
    """The server, and the thread that it runs in."""
    import uvicorn

    config = uvicorn.Config(preview.app(), log_level="error", timeout_graceful_shutdown=_GRACE, lifespan="on")
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    end = time.monotonic() + _STARTED
    while not server.started and time.monotonic() < end:
        time.sleep(0.02)
    return server, thread


def _tell(rows: Sequence[LiveRow], console: Console) -> None:
    """Prints rows of the list."""
    if not console.is_for_people:
        return
    from rich.text import Text

    for row in rows:
        said = Text().append(f"{time.strftime('%H:%M:%S')} ", style="dim")
        said.append("fetched " if row.fetched else "would   ", style="" if row.fetched else "dim")
        size = "" if row.weight is None else weight(row.weight)
        px = "" if row.width is None else f"{row.width} px"
        said.append(
            visible(f"{shortened(row.page or '-', 14):14} {row.slot:10} {shortened(row.file, 48):48} {px:>8} {size:>8}")
        )
        said.append(f" {row.device or ''!s:14} ", style="dim")
        said.append(row.verdict, style=_COLORS.get(row.verdict.partition(" ")[0], WARNING))
        console.show(said)
    sys.stdout.flush()
