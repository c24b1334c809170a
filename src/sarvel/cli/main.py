"""The command line: every option declared once, the command's module loaded when it is called, errors caught here.

Exit codes: 0 done; 1 done, and something needs the user; 2 nothing done, the call or the plan is wrong; 130 interrupted.
"""

from __future__ import annotations

import argparse
import importlib
import os
import sys
from collections.abc import Sequence

from sarvel import __version__
from sarvel.errors import SarvelError


def _workers(text: str) -> int:
    if not text.isdecimal() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number from 1")
    return int(text)


def _device(text: str) -> tuple[float, float, float]:
    try:
        size, _, density = text.partition("@")
        width, height = (float(number) for number in size.split("x"))
        device = (width, height, float(density or 1))
    except ValueError:
        device = (0, 0, 0)
    if not all(0 < number < 1e5 for number in device):
        raise argparse.ArgumentTypeError(f"got '{text}', write width x height @ density, such as 390x844@3")
    return device


class _Help(argparse.HelpFormatter):
    """Help as wide as the terminal: argparse would load shutil to learn that, a third of the time that --help takes."""

    def __init__(self, prog: str) -> None:
        columns = os.environ.get("COLUMNS", "")
        super().__init__(prog, width=(int(columns) if columns.isdecimal() else _terminal_columns()) - 2)


def _terminal_columns() -> int:
    try:
        return max(40, os.get_terminal_size(sys.__stdout__.fileno() if sys.__stdout__ else 1).columns)
    except (OSError, ValueError):
        return 100


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="sarvel",
        formatter_class=_Help,
        description="From a site's master images: crops at the layout's breakpoints, in modern formats, and the markup for them.",
        epilog="Begin with `sarvel demo`. Exit codes: 0 done; 1 done, and something needs you; 2 nothing done; 130 interrupted.",
    )
    parser.add_argument("--version", action="version", version=f"sarvel {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", required=True)

    output = argparse.ArgumentParser(add_help=False, formatter_class=_Help)
    output.add_argument("--json", action="store_true", help="one JSON document on standard output, nothing else")
    output.add_argument("--quiet", action="store_true", help="say only what is wrong")
    output.add_argument("--verbose", action="store_true", help="say each step, and show tracebacks")
    planned = argparse.ArgumentParser(add_help=False, formatter_class=_Help)
    planned.add_argument("--plan", metavar="FILE", help="the plan (else the nearest sarvel.toml upwards)")
    working = argparse.ArgumentParser(add_help=False, formatter_class=_Help)
    working.add_argument("--workers", metavar="N", type=_workers, help="processes at most (else one for each core)")

    def command(name: str, says: str, *parents: argparse.ArgumentParser) -> argparse.ArgumentParser:
        return commands.add_parser(name, help=says, description=says, parents=list(parents), formatter_class=_Help)

    demo = command("demo", "set up the demo site and do the whole job on it", working, output)
    demo.add_argument(
        "folder", metavar="FOLDER", nargs="?", default="brindle-rock", help="a new one (else brindle-rock)"
    )
    _add_one(command("one", "the whole job for one image, without a plan", working, output))
    plan = command("plan", "show the arithmetic before anything is made: cuts, widths, sizes, and why", planned, output)
    plan.add_argument("slots", metavar="SLOT", nargs="*", help="slots of the plan (else all)")
    proof = command("proof", "a contact sheet of every crop with its subject", planned, output)
    proof.add_argument("--output", metavar="FILE", default="proof.png", help="the PNG to write (else proof.png)")
    proof.add_argument("--each", action="store_true", help="one PNG for each master, named after it")
    proof.add_argument(
        "--suggest", action="store_true", help="find subjects for masters that have none; print the lines for the plan"
    )
    proof.add_argument("--save", action="store_true", help="the same, and write the lines into the plan")
    command("render", "make the renditions that are missing or out of date", planned, working, output)
    weave = command("weave", "write the markup into the pages", planned, output)
    weave.add_argument("pages", metavar="PAGE", nargs="*", help="pages of the plan (else all)")
    weave.add_argument("--undo", action="store_true", help="give the author's tags back")
    weave.add_argument("--diff", action="store_true", help="show what would change; write nothing")
    _add_pick(
        command("pick", "which file each device fetches for the images of a page, and how it fits", planned, output)
    )
    command("build", "render and weave, and say what came of it", planned, working, output)
    return parser


def _add_one(one: argparse.ArgumentParser) -> None:
    add = one.add_argument
    add("master", metavar="MASTER", help="the image, as large as it is")
    add("--alt", required=True, metavar="WORDS", help="what it shows; '' if it is decoration")
    shown = "how wide it is shown: a CSS length or a sizes value, or several such as 0=100vw and 1024=50vw (else 100vw)"
    add("--shown", metavar="[FROM=]WIDTH", action="append", help=shown)
    cut = (
        "4:3 or native; 1024=21:9 from a viewport width up; '(orientation: portrait)=2:3' on a condition (else native)"
    )
    add("--cut", metavar="[WHEN=]RATIO", action="append", help=cut)
    add("--subject", metavar="L,T,R,B", help="what must stay in view, in fractions of width and height")
    add("--formats", metavar="LIST", help="best first (else avif,webp,jpeg)")
    add("--densities", metavar="LIST", help="sharp up to the largest of these (else 1,2)")
    add("--load", choices=["first", "later"], help="seen at once, or later (the default)")
    add("--output", metavar="FOLDER", default="pictures", help="the folder for the files (else pictures)")
    add("--address", metavar="PREFIX", help="how pages reach that folder (else its name)")
    add("--as-plan", action="store_true", help="print the sarvel.toml that says the same; make nothing")


def _add_pick(pick: argparse.ArgumentParser) -> None:
    add = pick.add_argument
    add("page", metavar="PAGE", help="any page with images; - for standard input")
    add("--device", metavar="WxH@D", type=_device, action="append", help="390x844@3; several (else the audience's)")
    add("--image", metavar="NAME", help="only one image: its number, #id, .class or the name of its slot")
    add("--why", action="store_true", help="say what was passed over, and why")


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command.

    Args:
        argv: what stands behind `sarvel`; None takes the process's own.

    Returns:
        The exit code.
    """
    options = _parser().parse_args(argv)
    try:
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


def run() -> None:
    """The console script."""
    sys.exit(main())
