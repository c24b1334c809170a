"""Leaving: pages restored, and all unchanged files of Sarvel removed; no master, no plan, no file of others."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.errors import PageError, SarvelError
from sarvel.files.atomic import content_digest, holds, leads_out
from sarvel.files.batches import batches
from sarvel.files.ledger import FILE_NAME, Ledger
from sarvel.notices import Notice
from sarvel.pages.read.local_files import is_file
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import names_in_use
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.site import RequestedImages, read_again, read_asked
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
    for file, is_same in (*_woven(found.asked, ledger), *_side_files(plan, ledger)):
        if is_same:
            found.beside.append(file)
        else:
            found.left[file] = _CHANGED
    schema = plan.folder / SCHEMA
    if is_file(schema) and holds(schema, schema_text().encode())():
        found.beside.append(schema)
    _add_renditions(found, ledger)
    return found


def _woven(asked: RequestedImages, ledger: Ledger) -> Iterator[tuple[Path, bool]]:
    """Files in the folder of woven pages that Sarvel wrote, and whether they are still as it wrote them."""
    pages = [page for page in asked.pages if page.file.top and is_file(page.file.target)]
    written = WrittenFiles(asked.plan, ledger, [page.file.target for page in pages])
    for page in pages:
        if not leads_out(page.file.target, page.file.top) and written.has(page.file.target):
            with contextlib.suppress(PageError):
                again = read_again(asked.plan, replace(page.file, source=page.file.target))
                yield page.file.target, unweave(again).text == page.text.text
    for copy in asked.others:
        if copy.top and is_file(copy.target) and not leads_out(copy.target, copy.top) and written.has(copy.target):
            yield copy.target, holds(copy.target, copy.source.read_bytes())()


def _side_files(plan: Plan, ledger: Ledger) -> Iterator[tuple[Path, bool]]:
    """Side files that Sarvel wrote, and whether they are still as it wrote them."""
    wanted: Mapping[Path, bytes] = {}
    with contextlib.suppress(SarvelError):  # without masters they cannot be compared
        wanted = side_files(Parts(read_asked(plan), ledger, as_it_stands=True))
    written = WrittenFiles(plan, ledger, ())
    for file in dict.fromkeys([*wanted, *side_places(plan)]):
        if is_file(file) and written.has(file):
            yield file, file in wanted and holds(file, wanted[file])()


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
