"""A dry run: files that would be made or written."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sarvel.files.atomic import holds
from sarvel.notices import Notice
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import RenderOptions, to_do
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.weave import woven_pages


@dataclass(frozen=True)
class Unfinished:
    """Open work.

    Attributes:
        files: names of renditions that would be made.
        written: pages and files next to them that would be written.
        faults: obstacles, each once.
        warnings: messages about pictures that need the user.
    """

    files: tuple[str, ...]
    there: int
    written: tuple[Path, ...]
    faults: tuple[Notice, ...]
    warnings: tuple[Notice, ...]

    def __bool__(self) -> bool:
        """Tells whether something would be made or written, or is in the way of that."""
        return bool(self.files or self.written or self.faults)


def unfinished(parts: Parts) -> Unfinished:
    """Works out what a build would make and write. Nothing is made or written.

    Raises:
        OutputError: the folder of renditions cannot be read.
    """
    files: list[str] = []
    there = 0
    faults: dict[Notice, None] = {}
    warnings: dict[Notice, None] = {}
    for site in parts.by_masters():
        todo = to_do(site, parts.ledger, RenderOptions())
        files += [one.name for work in todo.works for crop in work.crops for one in crop.renditions]
        files += [one.name for one in todo.copies]
        there += todo.kept
        faults |= dict.fromkeys(site.faults)
        warnings |= dict.fromkeys(site.warnings)
    written: list[Path] = []
    late: dict[Notice, None] = {}
    for woven, _ in woven_pages(parts):
        late |= dict.fromkeys(woven.faults)
        if not holds(woven.page.file.target, woven.content)():
            written.append(woven.page.file.target)
    written += [one.target for one in parts.asked.others if not holds(one.target, one.source.read_bytes())()]
    written += [file for file, content in side_files(parts).items() if not holds(file, content)()]
    faults |= {} if files else late  # else most say that files are not made
    return Unfinished(tuple(sorted(files)), there, tuple(written), tuple(faults), tuple(warnings))
