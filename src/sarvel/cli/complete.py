"""Shell completion. docs/guide.md describes how to set it up."""

from __future__ import annotations

import argparse
import os
from collections.abc import Callable, Iterable
from pathlib import Path

from sarvel.cli.options import parser_for
from sarvel.errors import SarvelError


def complete() -> None:
    """Answers a shell that asks by argcomplete's variables, and ends the program."""
    import argcomplete

    words = os.environ.get("COMP_LINE", "").split()[1:]
    parser = parser_for(words)
    commands = [one for one in parser._actions if isinstance(one, argparse._SubParsersAction)]  # noqa: SLF001 - has no public name
    for called in (one for action in commands for one in action.choices.values()):
        for option in called._actions:  # noqa: SLF001 - as above
            find = _WORDS.get(option.dest)
            if find:
                option.completer = _completer(find)  # argcomplete reads it
    argcomplete.autocomplete(parser)


def _completer(find: Callable[[argparse.Namespace], Iterable[str]]) -> Callable[..., list[str]]:
    def words(parsed_args: argparse.Namespace, **_: object) -> list[str]:
        try:
            return sorted(find(parsed_args))
        except (SarvelError, OSError):
            return []  # there is no plan, or it is wrong, which a command tells

    return words


def _slots(options: argparse.Namespace) -> Iterable[str]:
    from sarvel.plan.read import read_plan_if_any

    plan = read_plan_if_any(getattr(options, "plan", None), Path.cwd())
    return plan.slots if plan else ()


def _slots_and_masters(options: argparse.Namespace) -> Iterable[str]:
    from sarvel.plan.read import read_plan_if_any

    plan = read_plan_if_any(getattr(options, "plan", None), Path.cwd())
    return {*plan.slots, *plan.masters} if plan else ()


def _rules(_: argparse.Namespace) -> Iterable[str]:
    from sarvel.rules import RULES

    return RULES


_WORDS: dict[str, Callable[[argparse.Namespace], Iterable[str]]] = {
    "slots": _slots,
    "only": _slots_and_masters,
    "explain": _rules,
    "image": _slots,
}
"""What finds the words of an option, by where it is kept."""
