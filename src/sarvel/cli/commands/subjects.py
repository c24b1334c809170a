"""`sarvel subjects`: guesses where the subject of each master is, and writes it into the plan."""

from __future__ import annotations

import argparse
from collections.abc import Sequence

from sarvel.cli.plans import plan_of
from sarvel.cli.saving import rewritten
from sarvel.cli.ui.console import Console, warn
from sarvel.core.crop.place import Box
from sarvel.core.facts import FoundSubject
from sarvel.core.model import Master
from sarvel.notices import Kind, Notice
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.plan.save import subject_in_toml, with_subjects
from sarvel.tools.proof.gather import chosen, found_in, sure_enough


def run(options: argparse.Namespace) -> int:
    """Lists guesses, or saves them; exit code 1 if a master cannot be read."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger)
        found, faults = found_in(site, ledger, console)
    if options.choose or options.save:
        return _save(site, found, faults, options, console)
    return _list(site, found, faults, console)


def _list(site: Site, found: dict[str, FoundSubject], faults: list[Notice], console: Console) -> int:
    """Prints lines for the plan, for masters whose subject it does not name."""
    for key, guess in found.items():
        if guess.subjects:
            line = f"subject = {subject_in_toml(guess.box)}  # guessed, {guess.sure:.0%} sure"
        else:
            line = "# nothing in particular stands out"
        console.result(f'[masters."{key}"]\n{line}\n')
    console.result(f"{_counted(sum(bool(guess.subjects) for guess in found.values()))} suggested for {site.plan.file}")
    return _told(site, found, [], faults, console)


def _save(
    site: Site, found: dict[str, FoundSubject], faults: list[Notice], options: argparse.Namespace, console: Console
) -> int:
    """Writes subjects into the plan: chosen ones, and with --save the ones that are sure enough."""
    plan = site.plan
    least = options.sure / 100
    boxes = dict(chosen(said, plan, found) for said in options.choose)
    others = {
        key: guess for key, guess in found.items() if key not in boxes and not plan.masters.get(key, Master()).find
    }
    if options.save:
        boxes |= {key: guess.box for key, guess in others.items() if sure_enough(guess, least)}
    if boxes:
        rewritten(plan.file, lambda text: with_subjects(text, boxes))
    console.result(f"{_counted(len(boxes))} saved in {plan.file}")
    left = [key for key in others if key not in boxes]
    if options.save and left:
        text = f"not {options.sure:g}% sure of the subject"
        console.notes([Notice(Kind.GUESSED, listed(left), text, "choose one on `sarvel proof`", "note")])
    return _told(site, found, list(boxes), faults, console)


def _told(site: Site, found: dict[str, FoundSubject], saved: list[str], faults: list[Notice], console: Console) -> int:
    faults = list(dict.fromkeys([*site.faults, *faults]))
    console.trouble(faults)
    console.document(subjects={key: guess_as_json(guess) for key, guess in found.items()}, saved=saved, faults=faults)
    return console.code(failed=bool(faults))


def _counted(count: int) -> str:
    return "1 subject" if count == 1 else f"{count} subjects"


def listed(keys: Sequence[str]) -> str:
    """The first keys, and how many more there are."""
    more = len(keys) - 3
    return ", ".join(keys[:3]) + (f" and {more} more" if more > 0 else "")


def guess_as_json(guess: FoundSubject) -> dict[str, object]:
    """A guess as docs/json.md has it."""
    return {
        "subject": edges_of(guess.box),
        "sure": round(guess.sure, 3),
        "others": [edges_of(other) for other in guess.others],
    }


def edges_of(box: Box) -> list[float]:
    """Left, top, right and bottom."""
    return [box.left, box.top, box.right, box.bottom]
