"""Every command and every option, declared once.

Start-up is a feature: only the options of the command that is called are made into a parser, and the command's own module
is loaded only then.
"""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Sequence

from sarvel import __version__

TYPE_CHECKING = False  # see sarvel/__init__.py
if TYPE_CHECKING:
    from sarvel.core.css.device import Device

Parser = argparse.ArgumentParser


def parse(arguments: Sequence[str]) -> argparse.Namespace:
    """Reads a command line; `command` is the command's name.

    Leaves the program with exit code 2 and a line on standard error where it says nothing that is known.
    """
    parser = Parser(
        prog="sarvel",
        formatter_class=_Help,
        description="From a site's master images: crops at the layout's breakpoints, in modern formats, and the markup for them.",
        epilog="Begin with `sarvel demo`. Exit codes: 0 done; 1 done, and something needs you; 2 nothing done; 130 interrupted.",
    )
    parser.add_argument("--version", action="version", version=f"sarvel {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", required=True)
    for name, (says, groups) in _COMMANDS.items():
        called = name in arguments
        command = commands.add_parser(name, help=says, description=says, formatter_class=_Help, add_help=called)
        for add_group in groups if called else ():
            add_group(command)
    return parser.parse_args(arguments)


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


def _workers(text: str) -> int:
    if not text.isdecimal() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number from 1")
    return int(text)


def _device(text: str) -> Device:
    from sarvel.core.css.device import parse_device  # only `pick` needs it

    try:
        return parse_device(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"got '{text}', write width x height @ density, such as 390x844@3") from None


def _planned(command: Parser) -> None:
    command.add_argument("--plan", metavar="FILE", help="the plan (else the nearest sarvel.toml upwards)")


def _working(command: Parser) -> None:
    command.add_argument("--workers", metavar="N", type=_workers, help="processes at most (else one for each core)")


def _choosing(command: Parser) -> None:
    add = command.add_argument
    add(
        "--only", metavar="PATTERN", action="append", help="only slots or masters of this name, such as card or 'boat*'"
    )
    add("--force", action="store_true", help="make what stands there already, too")
    add("--verify", action="store_true", help="read every file that stands there, and make again what others changed")
    add("--prune", action="store_true", help="remove renditions that the plan does not make any more")


def _watching(command: Parser) -> None:
    command.add_argument("--prune", action="store_true", help="remove renditions that the plan does not make any more")
    command.add_argument("--quiet", action="store_true", help="say only what is wrong")
    command.add_argument("--verbose", action="store_true", help="say each step, and show tracebacks")
    command.set_defaults(json=False)


def _foretelling(command: Parser) -> None:
    command.add_argument(
        "--dry-run", action="store_true", help="say what would be made and how long it may take; make nothing"
    )


def _telling(command: Parser) -> None:
    command.add_argument("--json", action="store_true", help="one JSON document on standard output, nothing else")
    command.add_argument("--quiet", action="store_true", help="say only what is wrong")
    command.add_argument("--verbose", action="store_true", help="say each step, and show tracebacks")


def _demo(command: Parser) -> None:
    command.add_argument(
        "folder", metavar="FOLDER", nargs="?", default="brindle-rock", help="a new one (else brindle-rock)"
    )


def _one(command: Parser) -> None:
    add = command.add_argument
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


def _plan(command: Parser) -> None:
    command.add_argument("slots", metavar="SLOT", nargs="*", help="slots of the plan (else all)")
    command.add_argument(
        "--quality", action="store_true", help="show how each format is encoded, and how alike it looks to the master"
    )


def _proof(command: Parser) -> None:
    add = command.add_argument
    add("--output", metavar="FILE", default="proof.png", help="the PNG to write (else proof.png)")
    add("--each", action="store_true", help="one PNG for each master, named after it")
    add("--suggest", action="store_true", help="find subjects for masters that have none; print the lines for the plan")
    add("--save", action="store_true", help="the same, and write the lines into the plan")


def _start(command: Parser) -> None:
    command.add_argument("folder", metavar="FOLDER", nargs="?", default=".", help="the site's (else where you are)")


def _survey(command: Parser) -> None:
    add = command.add_argument
    add("paths", metavar="PATH", nargs="*", help="folders and files to look through (else the folder where you are)")
    add("--all", action="store_true", help="show every file, not only those that could save most")


def _weave(command: Parser) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages of the plan (else all)")
    add("--undo", action="store_true", help="give the author's tags back")
    add("--diff", action="store_true", help="show what would change; write nothing")


def _check(command: Parser) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages or folders, any, woven or not (else the plan's, as woven)")
    add("--explain", metavar="RULE", help="say what a rule is for and how to mend what breaks it")
    add("--format", choices=["text", "json", "sarif"], default="text", help="how findings are written (else text)")
    says = "exit with 1 from this severity on: broken, wasteful or hint (else wasteful)"
    add("--severity", choices=["broken", "wasteful", "hint"], help=says)


def _pick(command: Parser) -> None:
    add = command.add_argument
    add("page", metavar="PAGE", help="any page with images; - for standard input")
    add("--device", metavar="WxH@D", type=_device, action="append", help="390x844@3; several (else the audience's)")
    add("--image", metavar="NAME", help="only one image: its number, #id, .class or the name of its slot")
    add("--why", action="store_true", help="say what was passed over, and why")


# By name, in the order in which people meet them: what it does, and its options. Its module in this folder has its name.
_COMMANDS: dict[str, tuple[str, tuple[Callable[[Parser], None], ...]]] = {
    "demo": ("set up the demo site and do the whole job on it", (_demo, _working, _telling)),
    "start": ("draft a plan from the images, pages and stylesheets that are there", (_start, _telling)),
    "survey": (
        "every image file of a site: where it is used, what it weighs, what it could weigh",
        (_survey, _planned, _telling),
    ),
    "one": ("the whole job for one image, without a plan", (_one, _working, _telling)),
    "plan": ("show the arithmetic before anything is made: cuts, widths, sizes, and why", (_plan, _planned, _telling)),
    "proof": ("a contact sheet of every crop with its subject", (_proof, _planned, _telling)),
    "render": (
        "make the renditions that are missing or out of date",
        (_planned, _choosing, _foretelling, _working, _telling),
    ),
    "weave": ("write the markup into the pages", (_weave, _planned, _telling)),
    "pick": ("which file each device fetches for the images of a page, and how it fits", (_pick, _planned, _telling)),
    "check": ("what is wrong with the image markup of any page", (_check, _planned, _telling)),
    "build": ("render, weave and check, and say what came of it", (_planned, _choosing, _working, _telling)),
    "watch": ("build, and again at each change of a master, the plan or a page", (_planned, _working, _watching)),
}
