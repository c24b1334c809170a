"""`sarvel deliver`: files made when browsers first ask for them, behind signed addresses."""

from __future__ import annotations

import argparse
import os
import signal
from dataclasses import replace
from pathlib import Path

from sarvel.cli.commands.serve import listening_at
from sarvel.cli.ui.console import Console
from sarvel.errors import PlanError
from sarvel.plan.find import find_plan
from sarvel.plan.read import read_plan
from sarvel.plan.seal_keys import key_file, keys_of

_MOST_CONNECTIONS = 2000  # at once; further clients get "try again"
_GRACE = 30  # s that answers under way have to end


def run(options: argparse.Namespace) -> int:
    """Serves until SIGTERM or SIGINT; with --new-key creates a key.

    Raises:
        PlanError: the plan delivers nothing on request, there is no key, an option is wrong, the extra is not installed, or
            the port is taken.
    """
    console = Console.of(options)
    if options.new_key:
        return _new_key(options, console)
    try:
        import uvicorn

        from sarvel.server.guarded import GuardedProtocol
        from sarvel.server.pictures import Pictures
        from sarvel.server.settings import from_environment, weight_of
    except ImportError:
        raise PlanError.at("", "sarvel deliver needs an extra", "install it with pip install 'sarvel[serve]'") from None

    said = {**os.environ, **({"SARVEL_PLAN": options.plan} if options.plan else {})}
    settings = from_environment(said)
    plan = read_plan(settings.plan)
    if plan.delivery != "request":
        raise PlanError.at(plan.file, "delivers files from a folder", 'write delivery = "request" under [site]')
    keys_of(plan)
    settings = replace(
        settings,
        cache=Path(options.cache) if options.cache else settings.cache,
        cache_bytes=weight_of(options.cache_size, "--cache-size") if options.cache_size else settings.cache_bytes,
        workers=options.workers or settings.workers,
        queue=options.queue or settings.queue,
        log=options.access_log or settings.log,
    )
    app = Pictures(lambda: settings)
    config = uvicorn.Config(
        app, http=GuardedProtocol, ws="none", lifespan="on", loop="asyncio", log_level="error", server_header=False,
        limit_concurrency=_MOST_CONNECTIONS, timeout_graceful_shutdown=_GRACE,
    )  # fmt: skip
    listening = listening_at(options.host, options.port)
    host, port = listening.getsockname()[:2]
    console.result(
        f"serving pictures of {plan.file} at http://{host}:{port}/, kept in {settings.cache}; stop with Ctrl-C"
    )
    signal.signal(signal.SIGTERM, lambda *_: None)  # uvicorn ends by it, and then sends it on
    server = uvicorn.Server(config)
    server.run(sockets=[listening])
    return 0 if server.started else 2


def _new_key(options: argparse.Namespace, console: Console) -> int:
    """Puts a new key in front of the others.

    Raises:
        PlanError: there is no plan, or the key file may be read by others.
        OutputError: it cannot be written.
    """
    from sarvel.tools.new_key import with_new_key

    plan = read_plan(Path(options.plan) if options.plan else find_plan(Path.cwd()))
    file = key_file(plan)
    count = with_new_key(file)
    others = f"; {count - 1} older keys stay valid; delete them when no page holds their seals" if count > 1 else ""
    console.result(
        f"{file}: a new key seals from now on{others}; keep the file out of version control, and weave again"
    )
    console.document(file=file.as_posix(), keys=count)
    return 0
