"""`sarvel subjects`: who names the subject of each master, what crops lose of it, and ways to decide."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Mapping
from pathlib import Path

from sarvel.cli.plans import plan_of
from sarvel.cli.saving import rewritten
from sarvel.cli.ui.console import Console, warn
from sarvel.cli.ui.styles import BAD, GOOD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import counted, listed
from sarvel.core.edition.compose import SUBJECT_LOST, Crop
from sarvel.core.edition.subject import SubjectSource
from sarvel.core.facts import FoundSubject
from sarvel.core.model import ONLY_CROP, Slot
from sarvel.errors import MasterError
from sarvel.files.reports import write_for_people
from sarvel.notices import Kind, Notice
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.subjects import SubjectTask
from sarvel.pipeline.targets import check_output
from sarvel.plan.save import with_subjects
from sarvel.tools.subjects.gather import Proof, chosen, found_in, proofs_of_sources, sure_enough
from sarvel.workers.cores import available_workers

_BY: Mapping[SubjectSource, str] = {
    "plan": "named by the plan",
    "file": "by their metadata",
    "import": "by the file of subjects",
    "guess": "guessed",
    "": "without one",
}


def run(options: argparse.Namespace) -> int:
    """Shows subjects, saves them, or writes the page; exit code 1 if a master cannot be read."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger)
        output = Path(options.output) if options.output else plan.folder / "subjects.html"
        is_page = bool(options.page or options.open or options.output)
        if is_page:
            check_output(plan, output, site.files_read())
        found, faults = found_in(site, ledger, console)
        proofs = {proof.master.key: proof for proof in proofs_of_sources(site, found)}
        written = _write_page(site, proofs, output, faults, console) if is_page else []
    saved = _save(site, proofs, options, console) if options.choose or options.save else []
    if not (written or options.choose or options.save):
        _show(proofs, console)
    if options.open and written:
        import webbrowser

        webbrowser.open(written[0].absolute().as_uri())
    faults = list(dict.fromkeys([*site.faults, *faults]))
    console.trouble([*faults, *site.warnings])
    notes = [one for one in site.notes if one.kind == Kind.REMARK]
    console.notes(notes)
    subjects = {key: _as_json(proof) for key, proof in proofs.items()}
    files = [file.as_posix() for file in written]
    console.document(subjects=subjects, saved=saved, written=files, faults=faults, warnings=site.warnings, notes=notes)
    return console.code(failed=bool(faults))


def _show(proofs: Mapping[str, Proof], console: Console) -> None:
    """Prints the table, how many subjects come from where, and the next step."""
    table = Table([Column("master", "name"), Column("from"), Column("sure", "number"), Column("crops lose", "list")])
    for key, proof in proofs.items():
        lost = [(_name(*row), proof.lost(row[1])) for row in proof.rows]
        losses = ", ".join(f"{name} {share:.0%}" for name, share in lost if share > SUBJECT_LOST)
        sure = "" if proof.sure is None else f"{proof.sure:.0%}"
        style = WARNING if proof.unsure else GOOD
        told = (losses, BAD) if losses else ("nothing" if proof.boxes else "", "")
        table.add(key, (proof.named_by or "none", style), sure, told)
    if console.is_for_people and proofs:
        console.show(table)
    counts = Counter(proof.named_by for proof in proofs.values())
    parts = [f"{counts[by]} {words}" for by, words in _BY.items() if counts[by]]
    console.result(f"{counted(len(proofs), 'master')}: {', '.join(parts)}" if parts else "no page asks for a master")
    aside = [key for key, proof in proofs.items() if proof.is_ignored]
    if aside:
        text = "guessed, but crops are centred"
        console.notes(
            [Notice(Kind.GUESSED, listed(aside), text, "`sarvel subjects --save` writes it into the plan", "note")]
        )
    if unsure := [key for key, proof in proofs.items() if proof.unsure]:
        text = "nothing is sure enough of the subject"
        console.notes(
            [Notice(Kind.GUESSED, listed(unsure), text, "choose it on the page of `sarvel subjects --page`", "note")]
        )


def _name(slot: Slot, crop: Crop) -> str:
    return f"{slot.name}·{crop.rule.name or ONLY_CROP}"


def _save(site: Site, proofs: Mapping[str, Proof], options: argparse.Namespace, console: Console) -> list[str]:
    """Writes subjects into the plan: chosen ones, and with --save guesses that are sure enough."""
    plan = site.plan
    boxes = dict(chosen(said, plan, proofs) for said in options.choose)
    others = {key: proof.found for key, proof in proofs.items() if proof.found and key not in boxes}
    others = {key: guess for key, guess in others.items() if not (key in plan.masters and plan.masters[key].find)}
    if options.save:
        boxes |= {key: guess.box for key, guess in others.items() if sure_enough(guess, options.sure / 100)}
    if boxes:
        rewritten(plan.file, lambda text: with_subjects(text, boxes))
    console.result(f"{counted(len(boxes), 'subject')} saved in {plan.file}")
    left = [key for key in others if key not in boxes]
    if options.save and left:
        text, cure = f"not {options.sure:g}% sure of the subject", "choose one on the page of `sarvel subjects --page`"
        console.notes([Notice(Kind.GUESSED, listed(left), text, cure, "note")])
    return list(boxes)


def _write_page(
    site: Site, proofs: Mapping[str, Proof], output: Path, faults: list[Notice], console: Console
) -> list[Path]:
    """Writes the page of the masters that have something to decide; nothing if there are none."""
    from sarvel.tools.subjects.page import as_page, is_to_decide, master_as_json, pictures_of

    wanted = [proof for proof in proofs.values() if is_to_decide(proof)]
    tasks = [SubjectTask(one.master.key, site.masters.file(one.master.key), one.master.digest) for one in wanted]
    pictures: dict[str, str] = {}
    with console.progress("drawing", len(wanted)) as advance:
        for task, picture in pictures_of(tasks, available_workers()):
            if isinstance(picture, MasterError):
                faults += picture.notices
            else:
                pictures[task.key] = picture
            advance(1, task.key)
    shown = [proof for proof in wanted if proof.master.key in pictures]
    masters = [master_as_json(proof, pictures[proof.master.key], site.plan) for proof in shown]
    if not masters:
        console.result("nothing to decide: plan or metadata name all subjects, or no crop leaves anything out")
        return []
    write_for_people(output, as_page(masters, len(proofs) - len(masters), site.plan))
    open_ = sum(proof.unsure for proof in shown)
    console.result(f"written: {output}: {counted(len(masters), 'master')}, {open_} to decide; open it in a browser")
    return [output]


def _as_json(proof: Proof) -> dict[str, object]:
    """A subject as docs/json.md has it."""
    return {
        "from": proof.named_by or None,
        "boxes": [box.edges for box in proof.boxes],
        "sure": None if proof.sure is None else round(proof.sure, 3),
        "unsure": proof.unsure,
        "guesses": [box.edges for box in proof.choices],
        "crops": [
            {"slot": slot.name, "crop": crop.rule.name or ONLY_CROP, "lost": round(proof.lost(crop), 6)}
            for slot, crop in proof.rows
        ],
    }


def guess_as_json(guess: FoundSubject) -> dict[str, object]:
    """A guess as docs/json.md has it."""
    return {
        "subject": guess.box.edges,
        "sure": round(guess.sure, 3),
        "others": [other.edges for other in guess.others],
    }
