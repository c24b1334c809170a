"""The command line's edge: one command found, loaded and run, errors caught here and nowhere else.

Exit codes: 0 done; 1 done, and something needs the user; 2 nothing done, the call or the plan is wrong; 130 interrupted.
"""

from __future__ import annotations

import argparse
import importlib
import os
import sys
from collections.abc import Sequence

from sarvel.cli.options import parse
from sarvel.errors import SarvelError


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command.

    Args:
        argv: what stands behind `sarvel`; None takes the process's own.

    Returns:
        The exit code.
    """
    options = parse(sys.argv[1:] if argv is None else argv)
    try:
        if options.command == "render" and (code := _at_once(options)) is not None:
            return code
        command = importlib.import_module(f"sarvel.cli.{options.command}")
        return int(command.run(options))
    except KeyboardInterrupt:
        print("interrupted; what was done is kept", file=sys.stderr)  # noqa: T201 - the edge, where printing is the job
        return 130
    except BrokenPipeError:
        # Whoever read our output has gone; writing the rest on exit would fail once more.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except Exception as error:  # noqa: BLE001 - the edge: no traceback reaches a user
        if options.verbose:
            import traceback  # noqa: PLC0415 - only for this

            traceback.print_exc()
        if isinstance(error, SarvelError):
            print(error, file=sys.stderr)  # noqa: T201 - as above
            return error.exit_code
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


def run() -> None:
    """The console script."""
    sys.exit(main())
