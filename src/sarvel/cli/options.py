"""Every command and every option, declared once.

Start-up is a feature: only the called command gets its options, and only its module is loaded.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence

from sarvel.cli.overview import DESCRIPTION, EPILOG, SAYS, overview
from sarvel.cli.parser import Help, Parser, examples_of
from sarvel.version import __version__

TYPE_CHECKING = False  # see sarvel/__init__.py
if TYPE_CHECKING:
    from typing import TypeAlias

    from sarvel.core.css.device import Device

Group: TypeAlias = "Parser | argparse._ArgumentGroup"  # noqa: SLF001 - argparse has no public name for it


def parse(arguments: Sequence[str]) -> argparse.Namespace:
    """Parses a command line; `command` is the name of the command, or None.

    Exits with code 2 and one line on standard error if the command line is wrong.
    """
    if arguments[:1] == ["help"]:
        arguments = [*arguments[1:2], "--help"]
    return parser_for(arguments).parse_args(arguments)


def parser_for(arguments: Sequence[str]) -> Parser:
    """The parser of a command line, with the options of the command that it calls.

    Each parser looks for translations of its own words, which takes longer than all else: the called command's is enough.
    """
    parser = Parser(prog="sarvel", formatter_class=Help, description=DESCRIPTION, epilog=EPILOG)
    parser.overview = overview()
    parser.add_argument("--version", action="version", version=f"sarvel {__version__}")
    parser.set_defaults(verbose=False)
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    is_called = bool(arguments) and arguments[0] in COMMANDS
    for name, says in SAYS.items():
        called = name in arguments
        if is_called and not called:
            continue
        asks = {"-h", "--help", "--help-all"} & {*arguments}
        command = commands.add_parser(
            name,
            help=says,
            description=f"{says[0].upper()}{says[1:]}.",
            formatter_class=Help,
            add_help=called,
            epilog=examples_of(name) if called and asks else None,
        )
        headed: dict[str, Group] = {}
        for add_group in COMMANDS[name] if called else ():
            title = _TITLES.get(add_group, "")
            if title and title not in headed:
                headed[title] = command.add_argument_group(title)
            add_group(headed.get(title, command))
        if called:
            _hide_rare(command, all_of_them="--help-all" in arguments)
    return parser


def _hide_rare(command: Parser, *, all_of_them: bool) -> None:
    """Leaves rarely used options out of the help, and adds --help-all if there are any."""
    rare = [action for action in command._actions if {*action.option_strings} & _RARE]  # noqa: SLF001 - has no public name
    if rare:
        command.add_argument("--help-all", action="help", help="show rarely used options too")
    for action in () if all_of_them else rare:
        action.help = argparse.SUPPRESS


def _workers(text: str) -> int:
    if not text.isdecimal() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number from 1")
    return int(text)


def _percent(text: str) -> float:
    try:
        percent = float(text)
    except ValueError:
        percent = -1.0
    if not 0 <= percent <= 100 or 0 < percent < 1:
        raise argparse.ArgumentTypeError(f"got '{text}', write a percentage from 0 to 100, such as 80")
    return percent


def _count(text: str) -> int:
    if not text.isdecimal():
        raise argparse.ArgumentTypeError(f"got '{text}', write a whole number, 0 or more")
    return int(text)


def _port(text: str) -> int:
    if not text.isdecimal() or int(text) > 65535:
        raise argparse.ArgumentTypeError(f"got '{text}', write a number from 0 to 65535")
    return int(text)


def _device(text: str) -> Device:
    from sarvel.core.css.device import parse_device  # few commands need it

    try:
        device = parse_device(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"got '{text}', write width x height @ density, such as 390x844@3") from None
    if "@" not in text:
        density = 3 if device.width < 500 else 2  # what phones and laptops commonly have
        raise argparse.ArgumentTypeError(f"got '{text}', which does not say the density; write {text}@{density} or so")
    return device


def _planned(command: Group) -> None:
    command.add_argument(
        "--plan", metavar="FILE", help="the plan (default: the nearest sarvel.toml, here or in a folder above)"
    )


def _working(command: Group) -> None:
    command.add_argument("--workers", metavar="N", type=_workers, help="most processes to use (default: one per core)")


def _trying(command: Group) -> None:
    says = "how long encoders try: quick, normal or thorough (default: the plan's)"
    command.add_argument("--effort", choices=["quick", "normal", "thorough"], metavar="EFFORT", help=says)


def _choosing(command: Group) -> None:
    add = command.add_argument
    says = "only slots and masters whose name matches, such as card or 'boat*'; repeatable"
    add("--only", metavar="PATTERN", action="append", help=says)
    add("--force", action="store_true", help="make existing files again")
    add("--verify", action="store_true", help="read every existing file; make changed ones again")
    add("--prune", action="store_true", help="delete files that the plan no longer makes")
    add("--on", metavar="ADDRESS", help="use the workers of a dask scheduler, such as tcp://10.0.0.5:8786")


def _trying_out(command: Group) -> None:
    says = "print files to make and how long it may take; make nothing"
    command.add_argument("--dry-run", action="store_true", help=says)


def _build(command: Group) -> None:
    command.add_argument("--watch", action="store_true", help="build again at each change; with quick files by default")
    says = "write nothing; exit with 1 if a build would write anything (for pipelines)"
    command.add_argument("--check", action="store_true", help=says)


def _telling(command: Group) -> None:
    add = command.add_argument
    add("--json", action="store_true", help="print one JSON document on standard output, and nothing else")
    add("--quiet", action="store_true", help="print problems only")
    add("--verbose", action="store_true", help="print each step, every notice, and tracebacks")
    add("--strict", action="store_true", help="exit with 1 for warnings and notes too")


def _demo(command: Group) -> None:
    command.add_argument(
        "folder", metavar="FOLDER", nargs="?", default="brindle-rock", help="a new folder (default: brindle-rock)"
    )


def _one(command: Group) -> None:
    add = command.add_argument
    add("master", metavar="MASTER", help="the original image")
    add("--alt", required=True, metavar="WORDS", help="the alt text; '' for decoration")
    sizes = "how wide the page shows it: a CSS length, a sizes value, or 0=100vw and 1024=50vw (default: 100vw)"
    add("--sizes", metavar="[FROM=]WIDTH", action="append", help=sizes)
    crop = "4:3 or native; 1024=21:9 from a viewport width on; '(orientation: portrait)=2:3' (default: native)"
    add("--crop", metavar="[WHEN=]RATIO", action="append", help=crop)
    add("--subject", metavar="L,T,R,B", help="the part that must stay in view, in fractions of width and height")
    add("--formats", metavar="LIST", help="formats, best first (default: avif,webp,jpeg)")
    add("--densities", metavar="LIST", help="pixel densities; sharp up to the largest (default: 1,2)")
    _trying(command)
    add("--loading", choices=["eager", "lazy"], help="eager for an image that is seen at once (default: lazy)")
    add("--output", metavar="FOLDER", default="pictures", help="the folder for the files (default: pictures)")
    add("--address", metavar="PREFIX", help="URL prefix of that folder (default: its name)")
    add("--as-plan", action="store_true", help="print the same as a sarvel.toml; make nothing")


def _plan(command: Group) -> None:
    add = command.add_argument
    add("slots", metavar="SLOT", nargs="*", help="slots of the plan (default: all)")
    add("--why", action="store_true", help="show how well the widths fit, against evenly spread ones and one file")
    add("--quality", action="store_true", help="show encoder numbers and likeness to the master, by format")
    add("--schema", action="store_true", help="print the JSON Schema of sarvel.toml, for editors")


def _proof(command: Group) -> None:
    add = command.add_argument
    add("--output", metavar="FILE", help="the file to write (default: proof.png)")
    add("--each", action="store_true", help="write one PNG for each master, named after it")


def _subjects(command: Group) -> None:
    add = command.add_argument
    add("--save", action="store_true", help="write guesses that are sure enough into the plan")
    add("--sure", metavar="PERCENT", type=_percent, default=80.0, help="minimum confidence for --save (default: 80)")
    says = "write a guess by its number on the proof, or a box MASTER=LEFT,TOP,RIGHT,BOTTOM, into the plan; repeatable"
    add("--choose", metavar="MASTER=NUMBER", action="append", default=[], help=says)
    add("--page", action="store_true", help="write a page on which to choose subjects, by keys or by dragging boxes")
    add("--open", action="store_true", help="write the page, and open it in the browser")
    add("--output", metavar="FILE", help="write the page there (default: subjects.html, next to the plan)")


def _report(command: Group) -> None:
    add = command.add_argument
    add("--output", metavar="FILE", help="the file to write (default: report.html, next to the plan)")
    add("--open", action="store_true", help="open it in the browser")
    says = "how many files to compare with their masters, the least similar first (default: 24)"
    add("--compare", metavar="COUNT", type=_count, default=24, help=says)
    add("--markdown", action="store_true", help="print a summary for a review request instead")
    add("--pictures", action="store_true", help="with --markdown: embed small pictures as data")
    add("--since", metavar="FILE", help="show what changed since FILE, the output of an earlier report --json")
    add("--confirmed", metavar="FILE", help="include FILE, the output of confirm --json")


def _listening(command: Group, port: int) -> None:
    add = command.add_argument
    add("--host", metavar="ADDRESS", default="127.0.0.1", help="the address to listen at (default: 127.0.0.1)")
    says = f"the port; 0 for any free one (default: {port})"
    add("--port", metavar="PORT", type=_port, default=port, help=says)


def _serve(command: Group) -> None:
    _listening(command, 8123)
    command.add_argument("--before", action="store_true", help="serve the authors' pages, before weaving")
    says = "do not build at changes"
    command.add_argument("--no-watch", dest="watch", action="store_false", help=says)


def _deliver(command: Group) -> None:
    _listening(command, 8124)
    add = command.add_argument
    add("--new-key", action="store_true", help="create a signing key and exit; older keys stay valid")
    add("--cache", metavar="FOLDER", help="the folder for made files (default: sarvel.cache, next to the plan)")
    add("--cache-size", metavar="WEIGHT", help="most bytes to keep there, such as '2 GB' (default: 10 GB)")
    add("--queue", metavar="N", type=_count, help="most files waiting to be made (default: 64)")
    says = "write a line of JSON for each request to FILE; - for standard output"
    add("--access-log", metavar="FILE", help=says)


def _start(command: Group) -> None:
    command.add_argument(
        "folder", metavar="FOLDER", nargs="?", default=".", help="the site's folder (default: the current one)"
    )
    command.add_argument("--measure", action="store_true", help="measure the layout in a browser")
    says = "weave in the pages of an engine, in the source, in a server's templates, or in pages (default: by the project's kind)"
    command.add_argument("--way", choices=("engine", "source", "server", "pages"), help=says)
    command.add_argument(
        "--at", metavar="URL", help="measure the site that runs at URL on this machine, for its templates"
    )
    says = "the folder of the built site: the pages of an engine; of components and templates, the site to measure"
    command.add_argument("--built", metavar="FOLDER", help=says)


def _driven(command: Group) -> None:
    says = "a WebDriver that is running (default: start the installed Chromium's)"
    command.add_argument("--driver", metavar="URL", help=says)


def _measure(command: Group) -> None:
    add = command.add_argument
    add(
        "pages", metavar="PAGE", nargs="*", help="pages as a browser gets them (default: the plan's, some of each kind)"
    )
    add("--all", action="store_true", help="open all pages of the plan")
    add("--save", action="store_true", help="write the measurements into the plan")


def _confirm(command: Group) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages of the plan (default: some of each kind)")
    add("--all", action="store_true", help="open all pages, however many are of a kind")
    _on_devices(command, "six of the audience's")
    add("--against", metavar="URL", help="check the deployed pages at URL and every file that they name; no browser")
    add(
        "--before",
        metavar="URL",
        help="compare two sites that run on this machine: the one before weaving, with --after",
    )
    add("--after", metavar="URL", help="the one after weaving")
    says = "compare pages that an engine built: one folder from before weaving, one from after"
    add("--built", metavar=("BEFORE", "AFTER"), nargs=2, help=says)


def _on_devices(command: Group, default: str) -> None:
    says = f"a device, such as 390x844@3; repeatable (default: {default})"
    command.add_argument("--device", metavar="WxH@D", type=_device, action="append", help=says)


def _survey(command: Group) -> None:
    add = command.add_argument
    add("paths", metavar="PATH", nargs="*", help="folders and files to search (default: the current folder)")
    add("--all", action="store_true", help="list every file, not only those with the most to save")


def _weave(command: Group) -> None:
    add = command.add_argument
    add("pages", metavar="PAGE", nargs="*", help="pages of the plan (default: all)")
    add("--undo", action="store_true", help="restore the authors' tags")
    add("--dry-run", action="store_true", help="print the changes as a diff; write nothing")
    add("--check", action="store_true", help="write nothing; exit with 1 if a page is not up to date")
    says = "none: write no marks, for pages that are under version control; sarvel cannot restore these"
    add("--marks", choices=("kept", "none"), default="kept", help=says)


def _remove(command: Group) -> None:
    add = command.add_argument
    add("--yes", action="store_true", help="do not ask")
    add("--dry-run", action="store_true", help="list the pages to restore and the files to remove; change nothing")
    add("--with-plan", action="store_true", help="remove the plan, too")


def _check(command: Group) -> None:
    add = command.add_argument
    says = "any pages or folders, woven or not (default: the plan's pages, as woven)"
    add("pages", metavar="PAGE", nargs="*", help=says)
    add("--explain", metavar="RULE", help="explain a rule: why it matters, how to fix it, an example, its limits")
    add("--mend", action="store_true", help="fix safe cases, and report the rest")
    add("--dry-run", action="store_true", help="with --mend: print the changes as a diff; write nothing")
    says = "check standard input as the page NAME; with --mend, print the fixed text"
    add("--stdin-name", metavar="NAME", help=says)
    forms = ["text", "json", "sarif", "lines", "annotations"]
    add("--format", choices=forms, default="text", help="the format of the findings (default: text)")
    add("--baseline", metavar="FILE", help="ignore the findings in FILE, the output of an earlier check --json")
    says = "exit with 1 for findings of this severity or higher (default: wasteful)"
    add("--severity", choices=["broken", "wasteful", "hint"], help=says)


def _pick(command: Group) -> None:
    add = command.add_argument
    add("page", metavar="PAGE", help="any page; - for standard input")
    _on_devices(command, "the audience's")
    add("--image", metavar="NAME", help="one image: its number, #id, .class or slot")
    add("--why", action="store_true", help="explain why other files were not chosen")


_TITLES: dict[Callable[[Group], None], str] = {
    _planned: "the plan",
    _choosing: "files",
    _trying_out: "files",
    _trying: "how it is made",
    _working: "how it is made",
    _driven: "the browser",
    _telling: "output",
}
"""Headings of options that several commands share; the options of one command are above them."""

_RARE = {
    "--on", "--driver", "--compare", "--confirmed", "--schema", "--stdin-name", "--verify", "--force", "--densities",
    "--baseline", "--against", "--built", "--pictures", "--cache-size", "--queue", "--access-log", "--host", "--each",
    "--address", "--as-plan", "--sure",
}  # fmt: skip
"""Options that only --help-all shows."""

_PARTS = (_trying_out, _planned, _choosing, _trying, _working, _telling)
COMMANDS: dict[str, tuple[Callable[[Group], None], ...]] = {
    "demo": (_demo, _working, _telling),
    "start": (_start, _driven, _telling),
    "one": (_one, _working, _telling),
    "build": (_build, *_PARTS),
    "serve": (_serve, _planned, _trying, _working, _telling),
    "render": _PARTS,
    "weave": (_weave, _planned, _telling),
    "deliver": (_deliver, _planned, _working, _telling),
    "survey": (_survey, _planned, _telling),
    "measure": (_measure, _driven, _planned, _telling),
    "plan": (_plan, _trying, _planned, _telling),
    "proof": (_proof, _planned, _telling),
    "subjects": (_subjects, _planned, _telling),
    "check": (_check, _planned, _telling),
    "pick": (_pick, _planned, _telling),
    "confirm": (_confirm, _driven, _planned, _telling),
    "report": (_report, _planned, _working, _telling),
    "remove": (_remove, _planned, _telling),
}
"""The options of each command, by name. Its module in `commands` has its name."""
