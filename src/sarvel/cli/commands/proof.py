"""`sarvel proof`: a contact sheet of every crop with its subject, and the same facts as a table."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.commands.subjects import guess_as_json
from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console, warn
from sarvel.cli.ui.styles import BAD, GOOD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import listed
from sarvel.core.edition.compose import SUBJECT_LOST, Crop
from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import ONLY_CROP, Slot
from sarvel.errors import MasterError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.targets import check_output
from sarvel.tools.subjects.gather import Proof, found_in, proofs_of

if TYPE_CHECKING:
    from sarvel.tools.proof.sheets import Sheets


def run(options: argparse.Namespace) -> int:
    """Draws the sheet; exit code 1 if a master cannot be read."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger)
        output = Path(options.output or "proof.png")
        check_output(plan, output, site.files_read())
        found, faults = found_in(site, ledger, console)
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
        how = "choose on the page of `sarvel subjects --page`"
        console.notes([Notice(Kind.GUESSED, listed(unsure), "no guess is sure enough", how, "note")])
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
    return console.code(failed=bool(faults))


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
    from sarvel.tools.proof.sheets import OneEach, Pages

    sheets: Sheets = (OneEach if options.each else Pages)(output)
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
            told = ProofNotes(proof.about, proof.trouble, proof.loses, proof.guesses)
            sheets.add(proof.master, pixels[key], shots, told)
            advance(1, key)
    return sheets.written()


def _master_as_json(proof: Proof) -> dict[str, object]:
    guess = guess_as_json(proof.found) if proof.found else None
    return {"master": proof.master.key, "loses": proof.loses, "unsure": proof.unsure, "guess": guess}


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
        "box": crop.box.edges,
        "guessed": crop.guessed,
        "lost": round(crop.lost, 6),
        "soft": bool(crop.soft),
    }
