"""A survey of a site: its image files, their uses, and possible savings. For `survey` and `start`."""

from __future__ import annotations

import urllib.parse
from collections.abc import Collection, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from types import MappingProxyType

from sarvel.core.css.sheet import naming_files
from sarvel.core.html.dialect import HTML, dialect_of
from sarvel.core.html.document import Document, read_document
from sarvel.core.html.tags import line_and_column
from sarvel.core.html.template_code import holds_code
from sarvel.core.layout.audience import BUILT_IN, Visits, busiest
from sarvel.core.model import Slot
from sarvel.core.survey.copies import photo_name
from sarvel.core.survey.estimate import UNKNOWN, Sample, WeightEstimate, sample_of, typical, weighed
from sarvel.core.survey.site_address import published_at
from sarvel.core.survey.uses import Use, uses_of, uses_of_sheet
from sarvel.encode.image_headers import Header, read_header
from sarvel.encode.same_photo import Glance, glance, same_photo
from sarvel.encode.small_encodes import encoded_small
from sarvel.errors import PageError
from sarvel.notices import Notice
from sarvel.pages.read.kinds import kind_of
from sarvel.pages.read.page_files import read_text
from sarvel.pages.read.project import Project
from sarvel.pages.read.roots import file_of
from sarvel.pages.read.scan import SiteFiles, dialects_of_scripts, find_all, names_in
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.roots import roots_of
from sarvel.plan.read import Plan
from sarvel.workers.cores import available_workers

_OWN_SAMPLES = 16  # files that are encoded small, the ones that weigh most; what others weigh follows from these


@dataclass(frozen=True)
class Placed:
    """A use and where it is.

    Attributes:
        file: the page or stylesheet.
        line: from 1.
        column: from 1.
    """

    file: Path
    line: int
    column: int
    use: Use

    def __str__(self) -> str:
        """`pages/index.html:14:10`."""
        return f"{self.file}:{self.line}:{self.column}"


@dataclass
class SurveyedFile:
    """An image file.

    Attributes:
        weight: bytes.
        uses: where it is used, in order.
        mentioned: whether some text names it, though no markup does.
        sampled: whether its own picture was encoded for the estimate.
        weighed: its bytes now and if it fitted.
        copy_of: the larger file of the same photograph, if there is one.
    """

    file: Path
    weight: int
    header: Header
    uses: list[Placed] = field(default_factory=list)
    mentioned: bool = False
    sampled: bool = False
    weighed: WeightEstimate = UNKNOWN
    copy_of: SurveyedFile | None = None


@dataclass(frozen=True)
class Survey:
    """A site.

    Attributes:
        rows: its image files, those first that could save most, then the heaviest.
        missing: uses of files that are not there.
        untold: uses of files that only an engine knows.
        pages: its pages, read, by file.
        sheets: the text of its stylesheets, by file.
        faults: files that could not be read, and why.
    """

    rows: tuple[SurveyedFile, ...]
    missing: tuple[Placed, ...]
    pages: Mapping[Path, Document]
    sheets: Mapping[Path, str]
    faults: tuple[Notice, ...]
    untold: tuple[Placed, ...] = ()

    @property
    def unused(self) -> list[SurveyedFile]:
        """Files that nothing names, the heaviest first."""
        return sorted((row for row in self.rows if not row.uses and not row.mentioned), key=lambda row: -row.weight)


def survey(
    paths: Sequence[Path],
    plan: Plan | None,
    listener: Listener,
    project: Project | None = None,
    left_out: Collection[Path] = (),
    dialects: Mapping[str, str] = MappingProxyType({}),
    *,
    weighs: bool = True,
) -> Survey:
    """Looks over a site.

    Args:
        plan: what leaves out the renditions and tells slots and audience; None for none.
        project: where addresses lead, if there is no plan; None finds out.
        left_out: folders to leave out.
        dialects: names of dialects by file ending, before our own, if there is no plan.
        weighs: whether it is asked what files could save, and which of them nothing names.
    """
    left_out = {path.absolute() for path in ([plan.output, plan.woven] if plan else left_out) if path}
    dialects = plan.dialects if plan else dialects or _dialects(paths)
    found = find_all(paths, left_out, dialects)
    audience = busiest(plan.audience if plan else BUILT_IN)
    faults: list[Notice] = []
    texts = _texts([*found.pages, *found.sheets], faults)
    pages = {
        file: read_document(texts[file], dialect_of(file.name, dialects) or HTML)
        for file in found.pages
        if file in texts
    }
    sheets = {file: texts[file] for file in found.sheets if file in texts}
    rows = {file.resolve(): SurveyedFile(file, file.stat().st_size, Header()) for file in found.images}
    missing, untold = _placed(pages, sheets, rows, plan, project, audience)
    with ThreadPoolExecutor(available_workers()) as pool, listener.progress("reading", len(rows)) as tell:
        for row, header in zip(rows.values(), pool.map(read_header, [row.file for row in rows.values()]), strict=True):
            row.header = header
            tell(1, row.file.name)
    _find_copies(list(rows.values()))
    if weighs:
        _mentioned(rows, found)
        _weigh(list(rows.values()), listener)
    order = sorted(rows.values(), key=lambda row: (-row.weighed.saves, -row.weight, str(row.file)))
    return Survey(tuple(order), tuple(missing), pages, sheets, tuple(faults), tuple(untold))


def _dialects(paths: Sequence[Path]) -> Mapping[str, str]:
    """What files of scripts are, in projects of components."""
    roots = [path for path in paths if path.is_dir() and kind_of(path).way == "source"]
    return {ending: name for root in roots for ending, name in dialects_of_scripts(root, ()).items()}


def _texts(files: Sequence[Path], faults: list[Notice]) -> dict[Path, str]:
    texts = {}
    for file in files:
        try:
            texts[file] = read_text(file).text
        except PageError as error:
            faults += error.notices
    return texts


def _placed(
    pages: Mapping[Path, Document],
    sheets: Mapping[Path, str],
    rows: Mapping[Path, SurveyedFile],
    plan: Plan | None,
    project: Project | None,
    audience: Sequence[Visits],
) -> tuple[list[Placed], list[Placed]]:
    """Adds every use to its file's row; returns uses whose file is missing, and those whose file only an engine knows."""
    missing, untold = [], []
    site = plan.url if plan else published_at(pages.values())
    slots: Mapping[str, Slot] = plan.slots if plan else {}
    for file, text in (*((file, page.text) for file, page in pages.items()), *sheets.items()):
        page = pages.get(file)
        roots = roots_of(file, page.text if page else "", plan, project)
        roots = replace(roots, project=replace(roots.project, site=site))
        for use in uses_of(page, audience, slots) if page else uses_of_sheet(naming_files(text), audience):
            at_hand, expected = file_of(use.url, roots)
            placed = Placed(file, *line_and_column(text, use.start), use)
            row = rows.get(at_hand.resolve()) if at_hand else None
            if row:
                row.uses.append(placed)
            elif expected:
                missing.append(placed)
            elif holds_code(use.url) and at_hand is None:
                untold.append(placed)
    return missing, untold


def _mentioned(rows: Mapping[Path, SurveyedFile], found: SiteFiles) -> None:
    """Marks files that no markup uses but some text names."""
    left = [row for row in rows.values() if not row.uses]
    if left:
        names = names_in([*found.pages, *found.sheets, *found.texts])
        for row in left:
            row.mentioned = (
                row.file.name in names or urllib.parse.quote(row.file.name, errors="surrogateescape") in names
            )


_NARROWER = 0.95  # of the width of another file, below which a file may be a smaller copy
_SAME_SHAPE = 0.02  # share by which ratios differ that rounding to whole px may cause


def _find_copies(rows: Sequence[SurveyedFile]) -> None:
    """Finds files of one photograph in several sizes: by their names, and by a look at them."""
    by_name: dict[str, list[SurveyedFile]] = {}
    for row in rows:
        if row.header.width and row.header.frames == 1:
            name = photo_name(row.file.stem, row.header.width, row.header.height)
            by_name.setdefault(name, []).append(row)
    glances: dict[Path, Glance | None] = {}
    for named in by_name.values():
        named.sort(key=lambda row: (-row.header.width, str(row.file)))
        for at, row in enumerate(named):
            row.copy_of = next((one for one in named[:at] if one.copy_of is None and _is_copy(row, one, glances)), None)


def _is_copy(small: SurveyedFile, large: SurveyedFile, glances: dict[Path, Glance | None]) -> bool:
    ratio = (small.header.width * large.header.height) / (small.header.height * large.header.width)
    if small.header.width > _NARROWER * large.header.width or abs(ratio - 1) > _SAME_SHAPE:
        return False
    for row in (small, large):
        if row.file not in glances:
            glances[row.file] = glance(row.file)
    one, other = glances[small.file], glances[large.file]
    return one is not None and other is not None and same_photo(one, other)


def _weigh(rows: Sequence[SurveyedFile], listener: Listener) -> None:
    """Estimates what files would weigh: the heaviest from their own picture, others going by these."""
    drawn = [row for row in rows if row.uses and row.header.width and row.header.frames == 1]
    heaviest = sorted(drawn, key=lambda row: (-row.weight, str(row.file)))[:_OWN_SAMPLES]
    samples: dict[Path, Sample] = {}
    with ThreadPoolExecutor(available_workers()) as pool, listener.progress("weighing", len(heaviest)) as tell:
        encoded = pool.map(encoded_small, [row.file for row in heaviest])
        for row, sizes in zip(heaviest, encoded, strict=True):
            if sizes:
                samples[row.file] = sample_of(sizes)
            tell(1, row.file.name)
    known = [(samples[row.file], row.header.height / row.header.width) for row in heaviest if row.file in samples]
    for row in drawn:
        row.sampled = row.file in samples
        sample = samples.get(row.file)
        if sample is None and known:
            sample = typical(known, row.header.width, row.header.height)
        row.weighed = weighed(row.header.width, row.weight, [placed.use for placed in row.uses], sample)
