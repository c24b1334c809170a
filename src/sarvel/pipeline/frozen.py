"""A site that is taken as it stands: what would have to be made or written, if anything could be."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sarvel.files.atomic import holds
from sarvel.files.ledger import Ledger
from sarvel.pipeline.render import RenderOptions, to_do
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.site import Site
from sarvel.pipeline.weave import weaver_of


@dataclass(frozen=True)
class Unfinished:
    """What is not as the plan says now.

    Attributes:
        files: names of renditions that would be made.
        written: pages and files beside them that would be written.
        faults: what stands in the way of parts of it, a message each.
    """

    files: tuple[str, ...]
    written: tuple[Path, ...]
    faults: tuple[str, ...]

    def __bool__(self) -> bool:
        """Tells whether there is anything."""
        return bool(self.files or self.written or self.faults)


def unfinished(site: Site, ledger: Ledger) -> Unfinished:
    """Works out what a build would make and write. Nothing is made or written.

    Raises:
        OutputError: the folder of renditions cannot be read.
    """
    files: list[str] = []
    if site.plan.makes_files:
        todo = to_do(site, ledger, RenderOptions())
        files = [one.name for work in todo.works for cut in work.cuts for one in cut.renditions]
        files += [one.name for one in todo.copies]
    weaver = weaver_of(site)
    woven = [weaver(page) for page in site.pages]
    written = [one.page.file.target for one in woven if not holds(one.page.file.target, one.content)()]
    written += [one.target for one in site.others if not holds(one.target, one.source.read_bytes())()]
    beside = side_files(site, site.there()).items()
    written += [file for file, text in beside if not holds(file, text.encode("utf-8", "backslashreplace"))()]
    late = () if files else (fault for one in woven for fault in one.faults)  # else most say that files are not made
    faults = dict.fromkeys([*site.faults, *late])
    return Unfinished(tuple(sorted(files)), tuple(written), tuple(faults))
