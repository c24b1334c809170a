"""Leaving: pages restored, and all unchanged files of Sarvel removed; no master, no plan, no file of others."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from sarvel.files.atomic import content_digest, holds, leads_out
from sarvel.files.batches import batches
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.notices import Notice
from sarvel.pages.read.local_files import is_file
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.render import names_in_use
from sarvel.pipeline.site import RequestedImages, read_asked
from sarvel.pipeline.targets import side_places
from sarvel.pipeline.weave import in_place, unweave_plan
from sarvel.pipeline.written import WrittenFiles
from sarvel.plan.json_schema import FILE_NAME as SCHEMA
from sarvel.plan.json_schema import schema_text
from sarvel.plan.read import Plan

_CHANGED = "was changed since Sarvel wrote it"
_AT_ONCE = 500  # names that are looked up together


@dataclass
class Removal:
    """The pages to restore, and the files to remove.

    Attributes:
        pages: files that get their authors' tags back.
        beside: woven pages, copies and side files that go.
        renditions: names of made files that go.
        left: files that stay, and why.
        faults: pages that cannot be restored.
    """

    asked: RequestedImages
    pages: list[Path] = field(default_factory=list)
    beside: list[Path] = field(default_factory=list)
    renditions: list[str] = field(default_factory=list)
    left: dict[Path, str] = field(default_factory=dict)
    faults: list[Notice] = field(default_factory=list)

    @property
    def files(self) -> list[Path]:
        """All files that go, the ledger last."""
        folder, ledger = self.asked.output.folder, self.asked.plan.folder / FILE_NAME
        return [*self.beside, *(folder / name for name in self.renditions), *([ledger] if is_file(ledger) else [])]


def removal_of(plan: Plan, ledger: Ledger) -> Removal:
    """Lists the pages to restore and the files to remove. Changes nothing.

    Raises:
        PlanError: the pages cannot be found.
    """
    found = Removal(read_asked(plan, for_undo=True))
    for page in in_place(found.asked).pages:
        restored = unweave(page)
        found.faults += restored.faults
        if restored.text != page.text.text:
            found.pages.append(page.file.source)
    _add_written(found, ledger)
    schema = plan.folder / SCHEMA
    if is_file(schema) and holds(schema, schema_text().encode())():
        found.beside.append(schema)
    _add_renditions(found, ledger)
    return found


def _add_written(found: Removal, ledger: Ledger) -> None:
    """Adds woven pages, copies next to them and side files."""
    files = [file for file in (*(page.file for page in found.asked.pages), *found.asked.others) if file.top]
    places = [file.target for file in files if not leads_out(file.target, file.top)]
    written = WrittenFiles(found.asked.plan, ledger, places)
    for place in dict.fromkeys([*places, *side_places(found.asked.plan)]):
        if is_file(place) and written.has(place):
            if written.is_unchanged(place):
                found.beside.append(place)
            else:
                found.left[place] = _CHANGED


def _add_renditions(found: Removal, ledger: Ledger) -> None:
    output = found.asked.output
    if output.place is not None:
        found.left[output.folder] = "its files are in object storage, which only its owner clears"
        return
    for names in batches(output.names(), _AT_ONCE):
        for name, made in ledger.files(names).items():
            if content_digest(output.read(name)) == made.content:
                found.renditions.append(name)
            else:
                found.left[output.folder / name] = _CHANGED
    found.renditions.sort()


def carry_out(found: Removal, ledger: Ledger, listener: Listener) -> None:
    """Removes the files, but for the ledger; files that pages still name stay.

    Raises:
        OutputError: a file cannot be removed.
    """
    found.faults = list(unweave_plan(found.asked, ledger, listener, whole=True).faults)
    for file in found.beside:
        file.unlink(missing_ok=True)
    named = names_in_use(found.asked)
    output = found.asked.output
    found.left |= {output.folder / name: "a page names it" for name in found.renditions if name in named}
    found.renditions = [name for name in found.renditions if name not in named]
    output.remove(found.renditions)
    for folder in {output.folder, *(parent for file in found.beside for parent in file.parents)}:
        _remove_empty(folder, found.asked.plan.folder)


def _remove_empty(folder: Path, top: Path) -> None:
    """Removes a folder, and those around it, that hold nothing any more."""
    while folder != top and folder.is_relative_to(top):
        try:
            folder.rmdir()
        except OSError:
            return
        folder = folder.parent
