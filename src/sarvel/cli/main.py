"""The command line's edge: one command found, loaded and run, errors caught here and nowhere else.

Exit codes: 0 done; 1 done, and something needs the user; 2 nothing done, the call or the plan is wrong; 130 interrupted.
"""

from __future__ import annotations

import importlib
import io
import os
import signal
import sys
from collections.abc import Sequence

from sarvel.cli.options import parse
from sarvel.cli.ui.text import one_line


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command.

    Args:
        argv: what follows `sarvel`; None takes the process's own.

    Returns:
        The exit code.
    """
    for stream in (sys.stdout, sys.stderr):  # file names may hold what no encoding can spell
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    # Before NumPy is loaded: our products are of a few rows, too small to share out, and cores are busy with other work.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # Before pydantic is: it would read the metadata of every installed package, to look for plug-ins.
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    options = parse(sys.argv[1:] if argv is None else list(argv))
    try:
        if options.command in ("render", "build"):
            from sarvel.cli.at_once import skip_unchanged  # start-up is a feature

            code = skip_unchanged(options)
            if code is not None:
                return code
        command = importlib.import_module(f"sarvel.cli.commands.{options.command or 'next_step'}")
        return int(command.run(options))
    except (Exception, KeyboardInterrupt) as error:  # noqa: BLE001 - the edge: no traceback reaches a user
        return _failed(error, verbose=options.verbose)


def _failed(error: BaseException, *, verbose: bool) -> int:
    """Prints the error that ended a command, and returns the exit code."""
    # What an interrupt came to in a library may look like anything.
    if isinstance(error, KeyboardInterrupt) or getattr(signal.getsignal(signal.SIGINT), "came", False):
        print("interrupted; finished work is kept", file=sys.stderr)
        return 130
    if isinstance(error, BrokenPipeError):
        # Anyone who read our output has gone; writing the rest on exit would fail once more.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    if verbose:
        import traceback

        traceback.print_exception(error)
    from sarvel.errors import SarvelError, cure_of  # start-up is a feature

    if isinstance(error, SarvelError):
        for notice in error.notices:
            print(one_line(str(notice)), file=sys.stderr)
        return error.exit_code
    if isinstance(error, OSError) and error.filename is not None:  # a file or folder that no one may look at
        where = one_line(os.fsdecode(error.filename))
        print(f"{where}: {error.strerror}; {cure_of(error)}", file=sys.stderr)
        return 2
    if isinstance(error, OSError) and error.errno is not None:  # of the system, such as too many open files
        print(f"sarvel: {error.strerror}; {cure_of(error)}, then run again", file=sys.stderr)
        return 2
    print(
        f"sarvel: internal error: {one_line(repr(error))}; run again with --verbose and send us the output",
        file=sys.stderr,
    )
    return 2
