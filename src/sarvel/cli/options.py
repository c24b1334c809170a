"""Every command and every option, declared once.

Start-up is a feature: only the options of the command that is called are made into a parser, and the command's own module
is loaded only then.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence

from sarvel.cli.parser import Help, Parser, examples_of
from sarvel.version import __version__

TYPE_CHECKING = False  # see sarvel/__init__.py
if TYPE_CHECKING:
    from typing import TypeAlias

    from sarvel.core.css.device import Device

Group: TypeAlias = "Parser | argparse._ArgumentGroup"  # noqa: SLF001 - argparse has no public name for it


def parse(arguments: Sequence[str]) -> argparse.Namespace:
    """Reads a command line; `command` is the command's name, None if there is none.

    Leaves the program with exit code 2 and a line on standard error where it says nothing that is known.
    """
    if arguments[:1] == ["help"]:
        arguments = [*arguments[1:2], "--help"]
    return parser_for(arguments).parse_args(arguments)


def parser_for(arguments: Sequence[str]) -> Parser:
    """The parser of a command line, with the options of the command that it calls."""
    parser = Parser(
        prog="sarvel",
        formatter_class=Help,
        description="From a site's master images: crops at the layout's breakpoints, in modern formats, and the markup for them.",
        epilog=_EPILOG,
    )
    parser.add_argument("--version", action="version", version=f"sarvel {__version__}")
    parser.set_defaults(verbose=False)
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    for name, (says, groups) in _COMMANDS.items():
        called = name in arguments
        end = examples_of(name) if called and ("-h" in arguments or "--help" in arguments) else None
        command = commands.add_parser(
            name, help=says, description=says, formatter_class=Help, add_help=called, epilog=end
        )
        headed: dict[str, Group] = {}
        for add_group in groups if called else ():
            title = _TITLES.get(add_group, "")
            if title and title not in headed:
                headed[title] = command.add_argument_group(title)
            add_group(headed.get(title, command))
    return parser


def _workers(text: str) -> int:
    if not text.isdecimal() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number from 1")
    return int(text)


def _percent(text: str) -> float:
    try:
        percent = float(text)
    except ValueError:
        percent = -1.0
    if not 0 <= percent <= 100:
        raise argparse.ArgumentTypeError(f"got '{text}', write a number from 0 to 100")
    return percent


def _count(text: str) -> int:
    if not text.isdecimal():
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number, 0 or more")
    return int(text)


def _device(text: str) -> Device:
    from sarvel.core.css.device import parse_device  # only `pick` needs it

    try:
        return parse_device(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"got '{text}', write width x height @ density, such as 390x844@3") from None


def _planned(command: Group) -> None:
    command.add_argument(
        "--plan", metavar="FILE", help="the plan (default: the nearest sarvel.toml, here or in a folder above)"
    )


def _working(command: Group) -> None:
    command.add_argument(
        "--workers", metavar="N", type=_workers, help="number of processes at most (default: one for each core)"
    )


def _trying(command: Group) -> None:
    says = "how long encoders try: quick, normal or thorough (default: the plan's)"
    command.add_argument("--effort", choices=["quick", "normal", "thorough"], metavar="EFFORT", help=says)


def _choosing(command: Group) -> None:
    add = command.add_argument
    add(
        "--only",
        metavar="PATTERN",
        action="append",
        help="only slots and masters whose name matches, such as card or 'boat*'",
    )
    add("--force", action="store_true", help="make files again that are there already")
    add("--verify", action="store_true", help="read every file that is there, and make those again that were changed")
    add("--prune", action="store_true", help="remove renditions that the plan no longer makes")
    add("--on", metavar="ADDRESS", help="have the workers of a dask scheduler make them, such as tcp://10.0.0.5:8786")


def _watching(command: Group) -> None:
    _trying(command)
    command.set_defaults(effort="quick")
    command.add_argument("--prune", action="store_true", help="remove renditions that the plan no longer makes")
    command.add_argument("--quiet", action="store_true", help="print only problems")
    command.add_argument("--verbose", action="store_true", help="print each step, and show tracebacks")
    command.set_defaults(json=False)


def _foretelling(command: Group) -> None:
    command.add_argument(
        "--dry-run", action="store_true", help="print what would be made and how long it may take; make nothing"
    )


def _freezing(command: Group) -> None:
    says = "make and write nothing; exit with 1 if anything would be: for pipelines that only verify"
    command.add_argument("--frozen", action="store_true", help=says)


def _telling(command: Group) -> None:
    command.add_argument(
        "--json", action="store_true", help="print one JSON document, and nothing else, on standard output"
    )
    command.add_argument("--quiet", action="store_true", help="print only problems")
    command.add_argument("--verbose", action="store_true", help="print each step, and show tracebacks")


def _demo(command: Group) -> None:
    command.add_argument(
        "folder", metavar="FOLDER", nargs="?", default="brindle-rock", help="a new folder (default: brindle-rock)"
    )


def _one(command: Group) -> None:
    add = command.add_argument
    add("master", metavar="MASTER", help="the original image")
    add("--alt", required=True, metavar="WORDS", help="what it shows, in words; '' if it is decoration")
    sizes = (
        "how wide the page shows it: a CSS length or a sizes value; or several by viewport width: 0=100vw, 1024=50vw (default: 100vw)"
    )
    add("--sizes", metavar="[FROM=]WIDTH", action="append", help=sizes)
    crop = "ratio: 4:3 or native; 1024=21:9 from a width up; '(orientation: portrait)=2:3' on a condition (default: native)"
    add("--crop", metavar="[WHEN=]RATIO", action="append", help=crop)
    add("--subject", metavar="L,T,R,B", help="the part that must stay in view, in fractions of width and height")
    add("--formats", metavar="LIST", help="formats, best first (default: avif,webp,jpeg)")
    add("--densities", metavar="LIST", help="pixel densities; sharp up to the largest (default: 1,2)")
    _trying(command)
    add("--loading", choices=["eager", "lazy"], help="eager for what is seen at once (default: lazy)")
    add("--output", metavar="FOLDER", default="pictures", help="the folder for the files (default: pictures)")
    add("--address", metavar="PREFIX", help="URL prefix of that folder (default: its name)")
    add("--as-plan", action="store_true", help="print the same as a sarvel.toml; make nothing")


def _plan(command: Group) -> None:
    command.add_argument("slots", metavar="SLOT", nargs="*", help="slots of the plan (default: all)")
    command.add_argument(
        "--quality", action="store_true", help="show encoder numbers and likeness to the master, by format"
    )
    says = "print the JSON Schema of sarvel.toml, by which editors complete and check it"
    command.add_argument("--schema", action="store_true", help=says)


def _proof(command: Group) -> None:
    add = command.add_argument
    add("--output", metavar="FILE", help="the file to write (default: proof.png, or proof.html)")
    add("--each", action="store_true", help="write one PNG for each master, named after it")
    add(
        "--html",
        action="store_true",
        help="write a page instead, in which a click or a dragged box gives the line for the plan",
    )
    add("--suggest", action="store_true", help="find subjects for masters without one, and print lines for the plan")
    add("--save", action="store_true", help="find subjects, and write those that are sure enough into the plan")
    add("--sure", metavar="PERCENT", type=_percent, default=80.0, help="how sure that is, at least (default: 80)")
    add(
        "--choose",
        metavar="MASTER=NUMBER",
        action="append",
        default=[],
        help="write a numbered guess of the sheet into the plan, or a box: MASTER=LEFT,TOP,RIGHT,BOTTOM",
    )


def _report(command: Group) -> None:
    add = command.add_argument
    add("--output", metavar="FILE", help="the file to write (default: report.html beside the plan)")
    add("--open", action="store_true", help="open it in the browser")
    add(
        "--compare",
        metavar="COUNT",
        type=_count,
        default=24,
        help="pictures held against their masters, those least alike first (default: 24)",
    )
    add("--markdown", action="store_true", help="print a page for a review request instead")
    add("--pictures", action="store_true", help="with --markdown: put small pictures in, as data")
    add("--since", metavar="FILE", help="tell what changed since FILE, a document that report --json wrote before")
    add("--confirmed", metavar="FILE", help="show what FILE holds, a document that confirm --json wrote")


def _serve(command: Group) -> None:
    add = command.add_argument
    add("--host", metavar="ADDRESS", default="127.0.0.1", help="the address to listen at (default: 127.0.0.1)")
    add("--port", metavar="PORT", type=_count, default=8123, help="the port; 0 for one that is free (default: 8123)")
    add("--before", action="store_true", help="serve the authors' pages, as they are before weaving")
    says = "serve what is there; do not build at changes"
    add("--no-watch", dest="watch", action="store_false", help=says)
    add(
        "--production",
        action="store_true",
        help='serve nothing but pictures, each made when it is first asked for: for plans with delivery = "request"',
    )
    add("--new-key", action="store_true", help="put a new key for sealed addresses in front of the others, and end")
    add(
        "--cache",
        metavar="FOLDER",
        help="with --production: the folder for files (default: sarvel.cache beside the plan)",
    )
    add("--cache-size", metavar="WEIGHT", help="with --production: what they may weigh together (default: 10 GB)")
    add("--queue", metavar="N", type=_count, help="with --production: files that may wait to be made (default: 64)")
    log = "with --production: write a line of JSON for each request to FILE; - for standard output"
    add("--access-log", metavar="FILE", help=log)


def _start(command: Group) -> None:
    command.add_argument(
        "folder", metavar="FOLDER", nargs="?", default=".", help="the site's folder (default: the current one)"
    )
    command.add_argument(
        "--measure", action="store_true", help="look at the pages in a browser, and draft what it shows"
    )


def _driven(command: Group) -> None:
    command.add_argument(
        "--driver", metavar="URL", help="a WebDriver that runs already (default: start the installed Chromium's)"
    )


def _measure(command: Group) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages as a browser gets them (default: the plan's)")
    add("--save", action="store_true", help="write what was measured into the plan")


def _confirm(command: Group) -> None:
    command.add_argument("pages", metavar="PAGE", nargs="*", help="pages of the plan (default: all)")
    _on_devices(command, "six of the audience's")
    says = "ask for the pages at URL, where the site is deployed, and for all files that they name; without a browser"
    command.add_argument("--against", metavar="URL", help=says)
    says = "look at pages that an engine built: two folders, built from the pages before they were woven and after"
    command.add_argument("--built", metavar=("BEFORE", "AFTER"), nargs=2, help=says)


def _on_devices(command: Group, default: str) -> None:
    says = f"a device, such as 390x844@3; may be repeated (default: {default})"
    command.add_argument("--device", metavar="WxH@D", type=_device, action="append", help=says)


def _survey(command: Group) -> None:
    add = command.add_argument
    add("paths", metavar="PATH", nargs="*", help="folders and files to look through (default: the current folder)")
    add("--all", action="store_true", help="show every file, not only those with most to save")


def _weave(command: Group) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages of the plan (default: all)")
    add("--undo", action="store_true", help="restore the author's tags")
    add("--diff", action="store_true", help="show the changes; write nothing")
    add("--frozen", action="store_true", help="write nothing; exit with 1 if a page is not woven as the plan says")


def _check(command: Group) -> None:
    add = command.add_argument
    add(
        "pages",
        metavar="PAGE",
        nargs="*",
        help="any pages or folders, woven or not (default: the plan's pages, as woven)",
    )
    add("--explain", metavar="RULE", help="explain a rule: why it matters, what to do, an example, where it is silent")
    add("--mend", action="store_true", help="mend the pages where it is sure how, and tell what is left")
    add("--diff", action="store_true", help="with --mend: show the changes; write nothing")
    name = "check standard input as the page NAME; with --mend its mended text goes to standard output"
    add("--stdin-name", metavar="NAME", help=name)
    forms = ["text", "json", "sarif", "lines", "annotations"]
    add("--format", choices=forms, default="text", help="form of the findings (default: text)")
    add("--baseline", metavar="FILE", help="leave out what FILE holds, a document that check --json wrote before")
    says = "exit with 1 for findings of this severity or a graver one (default: wasteful)"
    add("--severity", choices=["broken", "wasteful", "hint"], help=says)


def _pick(command: Group) -> None:
    add = command.add_argument
    add("page", metavar="PAGE", help="any page; - for standard input")
    _on_devices(command, "the audience's")
    add("--image", metavar="NAME", help="a single image: its number, #id, .class or slot")
    add("--why", action="store_true", help="explain what was passed over, and why")


_TITLES: dict[Callable[[Group], None], str] = {
    _planned: "the plan",
    _choosing: "what is made",
    _foretelling: "what is made",
    _trying: "how it is made",
    _working: "how it is made",
    _driven: "the browser",
    _telling: "what is printed",
}
"""The headings of options that several commands have; a command's own stand before them."""

_EPILOG = """\
Begin with `sarvel demo`; `sarvel` alone says what to do next, `sarvel help COMMAND` what a command takes, with examples.
Exit codes: 0 done; 1 done, and something needs you; 2 nothing done; 130 interrupted."""

# By name, in the order in which people meet them: what it does, and its options. Its module in this folder has its name.
_COMMANDS: dict[str, tuple[str, tuple[Callable[[Group], None], ...]]] = {
    "demo": ("set up the demo site, and render, weave and check it", (_demo, _working, _telling)),
    "start": ("draft a plan from the site's images, pages and stylesheets", (_start, _driven, _telling)),
    "survey": (
        "list the image files of a site: uses, weights, possible savings",
        (_survey, _planned, _telling),
    ),
    "measure": ("measure in a browser how wide each slot shows its images", (_measure, _driven, _planned, _telling)),
    "one": ("make the files and the markup of one image, without a plan", (_one, _working, _telling)),
    "plan": ("show crops, widths and sizes, and why, before anything is made", (_plan, _trying, _planned, _telling)),
    "proof": ("draw a contact sheet of every crop with its subject", (_proof, _planned, _telling)),
    "render": (
        "make the renditions that are missing or out of date",
        (_planned, _choosing, _trying, _foretelling, _working, _telling),
    ),
    "weave": ("write the markup into the pages", (_weave, _planned, _telling)),
    "pick": (
        "show the file that each device fetches for the images of a page, and how it fits",
        (_pick, _planned, _telling),
    ),
    "confirm": (
        "look in a browser at what weaving moved, what each device fetched and how soon",
        (_confirm, _driven, _planned, _telling),
    ),
    "check": ("find faults in the image markup of any page", (_check, _planned, _telling)),
    "report": (
        "write a page that shows what was made, what each device fetches, and what needs a look",
        (_report, _planned, _working, _telling),
    ),
    "build": (
        "render, weave and check, with a summary",
        (_freezing, _planned, _choosing, _trying, _working, _telling),
    ),
    "serve": (
        "serve the site to browsers here, with a live list of what each window fetches",
        (_serve, _planned, _trying, _working, _telling),
    ),
    "watch": ("build, and build again at each change of a master, the plan or a page", (_planned, _working, _watching)),
}
