"""`sarvel proof`: a contact sheet of every crop with its subject, and the same facts as a table."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.plans import plan_of
from sarvel.cli.saving import rewritten
from sarvel.cli.ui.console import Console, warn
from sarvel.cli.ui.styles import BAD, GOOD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import SUBJECT_LOST, Crop
from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import ONLY_CROP, Master, Slot
from sarvel.errors import MasterError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.targets import check_output
from sarvel.plan.save import subject_in_toml, with_subjects
from sarvel.tools.proof.gather import Proof, chosen, found_in, proofs_of, sure_enough

if TYPE_CHECKING:
    from sarvel.tools.proof.sheets import Sheets


def run(options: argparse.Namespace) -> int:
    """Draws the sheet; exit code 1 if a crop loses its subject or a master cannot be read."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger)
        output = Path(options.output or ("proof.html" if options.html else "proof.png"))
        draws = not (options.choose or options.save or options.suggest)
        if draws:
            check_output(plan, output, site.files_read())
        found, faults = found_in(site, ledger, console)
        if options.choose or options.save:
            return _save(site, found, faults, options, console)
        if not draws:
            return _suggest(site, found, faults, console)
        return _run(site, found, faults, output, options, console)


def _run(
    site: Site,
    found: dict[str, FoundSubject],
    faults: list[Notice],
    output: Path,
    options: argparse.Namespace,
    console: Console,
) -> int:
    proofs = proofs_of(site, found)
    faults = list(dict.fromkeys([*site.faults, *faults]))
    written = _drawn(proofs, site, output, faults, console, options)
    _tell(console, proofs)
    for file in written:
        console.result(f"drawn: {file}")
    if unsure := [proof.master.key for proof in proofs if proof.unsure]:
        how = f"`sarvel proof --choose {unsure[0]}=1` writes the first one of the sheet"
        console.notes([Notice(Kind.GUESSED, _listed(unsure), "no guess is sure enough", how, "note")])
    console.trouble([*faults, *site.warnings])
    console.notes(site.notes)
    console.document(
        sheets=[file.as_posix() for file in written],
        masters=[_master_as_json(proof) for proof in proofs],
        crops=[_as_json(proof.master, *row) for proof in proofs for row in proof.rows],
        faults=faults,
        warnings=site.warnings,
        notes=site.notes,
    )
    return 1 if faults or site.warnings else 0


def _drawn(
    proofs: Sequence[Proof],
    site: Site,
    output: Path,
    faults: list[Notice],
    console: Console,
    options: argparse.Namespace,
) -> list[Path]:
    from sarvel.encode.decode import read_pixels
    from sarvel.tools.proof.contact_sheet import Shot
    from sarvel.tools.proof.notes import ProofNotes
    from sarvel.tools.proof.sheets import Html, OneEach, Pages

    sheets: Sheets = (Html if options.html else OneEach if options.each else Pages)(output)
    with console.progress("drawing", len(proofs)) as advance:
        for proof in proofs:
            key = proof.master.key
            try:
                keys = {key, *(crop.source.key for _, crop in proof.rows)}
                pixels = {key: read_pixels(site.masters.file(key), key) for key in keys}
            except MasterError as error:
                faults += (one for one in error.notices if one not in faults)
                continue
            shots = [Shot(slot, crop, pixels[crop.source.key]) for slot, crop in proof.rows]
            lines = tuple(f"subject = {subject_in_toml(guess)}" for guess in proof.guesses)
            told = ProofNotes(proof.about, proof.trouble, proof.loses, proof.guesses, lines, key in site.plan.masters)
            sheets.add(proof.master, pixels[key], shots, told)
            advance(1, key)
    return sheets.written()


def _suggest(site: Site, found: dict[str, FoundSubject], faults: list[Notice], console: Console) -> int:
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
    """Writes subjects into the plan: those that were chosen, and with --save those that are sure enough."""
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
        console.notes([Notice(Kind.GUESSED, _listed(left), text, "see `sarvel proof`, and choose there", "note")])
    return _told(site, found, list(boxes), faults, console)


def _told(site: Site, found: dict[str, FoundSubject], saved: list[str], faults: list[Notice], console: Console) -> int:
    faults = list(dict.fromkeys([*site.faults, *faults]))
    console.trouble(faults)
    console.document(subjects={key: _guess_as_json(guess) for key, guess in found.items()}, saved=saved, faults=faults)
    return 1 if faults else 0


def _counted(count: int) -> str:
    return "1 subject" if count == 1 else f"{count} subjects"


def _listed(keys: Sequence[str]) -> str:
    more = len(keys) - 3
    return ", ".join(keys[:3]) + (f" and {more} more" if more > 0 else "")


def _guess_as_json(guess: FoundSubject) -> dict[str, object]:
    return {
        "subject": _edges(guess.box),
        "sure": round(guess.sure, 3),
        "others": [_edges(other) for other in guess.others],
    }


def _master_as_json(proof: Proof) -> dict[str, object]:
    guess = _guess_as_json(proof.found) if proof.found else None
    return {"master": proof.master.key, "loses": proof.loses, "unsure": proof.unsure, "guess": guess}


def _edges(box: Box) -> list[float]:
    return [box.left, box.top, box.right, box.bottom]


def _tell(console: Console, proofs: Sequence[Proof]) -> None:
    if not console.is_for_people or not proofs:
        return
    table = Table(
        [
            Column("master", "name"),
            Column("slot"),
            Column("crop"),
            Column("ratio", "number"),
            Column("zoom", "number"),
            Column("crop, px", spare=1),
            Column("subject"),
        ]
    )
    for proof in proofs:
        for i, (slot, crop) in enumerate(proof.rows):
            verdict = _verdict(crop, proof)
            wrong, unsure = crop.lost > SUBJECT_LOST, bool(crop.soft) or proof.unsure
            table.add(
                "" if i else proof.master.key,
                slot.name,
                crop.rule.name or ONLY_CROP,
                f"{crop.box.width / crop.box.height:.2f}",
                f"{crop.rule.zoom:g}",
                f"{crop.box.width:.0f}×{crop.box.height:.0f}",
                (verdict, BAD if wrong else WARNING if unsure else GOOD),
            )
    console.show(table)


def _verdict(crop: Crop, proof: Proof) -> str:
    if crop.lost > SUBJECT_LOST:
        return f"{crop.lost:.0%} lost" + (" of a guess" if crop.guessed is not None else "")
    kept = "in view" if crop.subjects else "none named"
    if proof.unsure and crop.guessed is not None:
        kept = "unsure"
    return f"{kept}, too small" if crop.soft else kept


def _as_json(master: MasterFacts, slot: Slot, crop: Crop) -> dict[str, object]:
    return {
        "master": master.key,
        "slot": slot.name,
        "crop": crop.rule.name or ONLY_CROP,
        "from": crop.source.key,
        "ratio": crop.box.width / crop.box.height,
        "zoom": crop.rule.zoom,
        "box": _edges(crop.box),
        "guessed": crop.guessed,
        "lost": round(crop.lost, 6),
        "soft": bool(crop.soft),
    }
