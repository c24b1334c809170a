"""The command line's edge: one command found, loaded and run, errors caught here and nowhere else.

Exit codes: 0 done; 1 done, and something needs the user; 2 nothing done, the call or the plan is wrong; 130 interrupted.
"""

from __future__ import annotations

import argparse
import importlib
import io
import os
import signal
import sys
from collections.abc import Sequence

from sarvel.cli.options import parse
from sarvel.cli.speak import visible
from sarvel.errors import SarvelError


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command.

    Args:
        argv: what stands behind `sarvel`; None takes the process's own.

    Returns:
        The exit code.
    """
    for stream in (sys.stdout, sys.stderr):  # file names may hold what no encoding can spell
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    options = parse(sys.argv[1:] if argv is None else argv)
    try:
        if options.command == "render" and (code := _at_once(options)) is not None:
            return code
        command = importlib.import_module(f"sarvel.cli.{options.command}")
        return int(command.run(options))
    except (Exception, KeyboardInterrupt) as error:  # noqa: BLE001 - the edge: no traceback reaches a user
        return _failed(error, verbose=options.verbose)


def _failed(error: BaseException, *, verbose: bool) -> int:
    """Says what ended a command, and returns its exit code."""
    # What an interrupt came to in a library may look like anything.
    if isinstance(error, KeyboardInterrupt) or getattr(signal.getsignal(signal.SIGINT), "came", False):
        print("interrupted; what was done is kept", file=sys.stderr)  # noqa: T201 - the edge, where printing is the job
        return 130
    if isinstance(error, BrokenPipeError):
        # Whoever read our output has gone; writing the rest on exit would fail once more.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    if verbose:
        import traceback  # noqa: PLC0415 - only for this

        traceback.print_exception(error)
    if isinstance(error, SarvelError):
        print(visible(str(error)), file=sys.stderr)  # noqa: T201 - as above
        return error.exit_code
    if isinstance(error, OSError) and error.filename is not None:  # a file or folder that nobody may look at
        where = visible(os.fsdecode(error.filename))
        print(f"{where}: {error.strerror}; check its permissions and name", file=sys.stderr)  # noqa: T201 - as above
        return 2
    print(  # noqa: T201 - as above
        f"sarvel: a fault of ours, not of yours: {error!r}; run again with --verbose and send us what it says",
        file=sys.stderr,
    )
    return 2


def _at_once(options: argparse.Namespace) -> int | None:
    """The answer of a run that has nothing to do, before anything slow is loaded; None if it may have."""
    from pathlib import Path  # noqa: PLC0415 - start-up is a feature

    from sarvel.cli.unchanged import nothing_to_do  # noqa: PLC0415 - as above
    from sarvel.plan.find import find_plan  # noqa: PLC0415 - as above

    plan = Path(options.plan) if options.plan else find_plan(Path.cwd())
    return nothing_to_do(options, plan.parent / "sarvel.ledger")
