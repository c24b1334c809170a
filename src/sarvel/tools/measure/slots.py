"""Measuring a plan's slots: how wide a real browser shows their images."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.browser.page_boxes import PageBoxes
from sarvel.browser.site_server import Folders
from sarvel.browser.views import HEIGHT
from sarvel.core.amounts import counted
from sarvel.core.css.device import Device
from sarvel.core.html.dialect import HTML, dialect_of
from sarvel.core.layout.alike import Measured, sorted_apart, united
from sarvel.core.layout.fitted import ALLOWED, Fitted, fit_shown
from sarvel.core.model import Slot
from sarvel.core.survey.looks import worth_opening
from sarvel.errors import PageError, PlanError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Ask, Page, page_of, read_page
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import SERVABLE, PageFile, PageText, seen_from
from sarvel.pages.restore.blocks import Block
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.layout_state import state_of_page
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.roots import project_of
from sarvel.pipeline.targets import pages_of
from sarvel.plan.read import Plan
from sarvel.tools.measure.pages import PageToMeasure, measured_pages
from sarvel.tools.serving.served_folders import maker_of

_ENOUGH = 5  # pages on which a slot is measured, of a plan that has many


@dataclass(frozen=True)
class ShownKind:
    """Images that are shown at the same widths.

    Attributes:
        places: where they stand, `page:line:column`.
        fitted: how wide they are shown; None if nothing shows them.
        box: the place that they are in.
    """

    places: tuple[str, ...]
    fitted: Fitted | None
    box: Measured


@dataclass(frozen=True)
class SlotMeasured:
    """A slot's images, measured.

    Attributes:
        kinds: its images by how they are shown, the commonest first.
        off: how far the plan's width is from that of the commonest, CSS px, at most.
        off_at: the viewport width where that is so, CSS px.
        first: the share that one fills of the first screen of a phone and of a desktop, 0 to 1, at most.
        fits: `object-fit` of its images, or `background-size`, each once.
        states: the pages that it was measured on, relative to the plan's folder, and the state of each.
    """

    slot: Slot
    kinds: tuple[ShownKind, ...]
    off: float
    off_at: int
    first: tuple[float, float]
    fits: tuple[str, ...]
    states: Mapping[str, str]

    @property
    def fitted(self) -> Fitted | None:
        """How wide its images are shown."""
        return self.kinds[0].fitted

    @property
    def agrees(self) -> bool:
        """Tells whether the plan agrees with the measurement, to half a pixel."""
        return self.off <= ALLOWED


@dataclass(frozen=True)
class MeasuredPlan:
    """The result of measuring.

    Attributes:
        slots: only slots that pages show, in the plan's order.
        faults: obstacles, a notice each.
        notes: what the user may leave so, a notice each.
    """

    slots: tuple[SlotMeasured, ...]
    pages: int
    faults: tuple[Notice, ...]
    notes: tuple[Notice, ...]


def measure_plan(
    plan: Plan, names: Sequence[str], driver: str | None, listener: Listener, *, every: bool = False
) -> MeasuredPlan:
    """Measures the slots of a plan.

    Args:
        names: pages to look at; none for the plan's own.
        every: whether to look at all of these, however many show a slot.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        PlanError: there is no page that a browser could show.
        BrowserError: no browser can be had.
    """
    for name in names:
        if not is_file(Path(name)):
            raise PlanError.at(
                name, "there is no such page", "name one that a browser shows, such as public/index.html"
            )
    pages, faults, notes = _pages(plan, names)
    if not (names or every):
        pages, more = _worth_looking(pages)
        text = f"{counted(more, 'page')} skipped, whose slots are measured on others"
        left = Notice(Kind.LEFT_OUT, str(plan.file), text, "open them too with --all", "note")
        notes += [left] if more else []
    sheets = {page.file.source: _sheet(page) for page in pages}
    asked = {file: sheet for file, sheet in sheets.items() if sheet.starts}
    if not asked and not faults:
        raise PlanError.at(
            plan.file, "no image of these pages is for a slot of the plan", "name the pages that show some"
        )
    found = measured_pages(
        list(asked.values()), Folders(project_of(plan).tops, base=plan.base, maker=maker_of(plan)), driver, listener
    )
    by_slot: dict[str, list[_Image]] = {}
    for page in pages:
        boxes = found.pages.get(page.file.source)
        for number, ask in enumerate(_asks(page) if boxes else ()):
            by_slot.setdefault(ask.slot, []).append(_image(page, ask, boxes, number))
    states = {page.file.source: state_of_page(plan, page) for page in pages if page.file.source in found.pages}
    slots = tuple(_slot(plan, slot, by_slot[name], states) for name, slot in plan.slots.items() if name in by_slot)
    return MeasuredPlan(slots, len(found.pages), (*faults, *found.faults), (*notes, *found.notes))


def _pages(plan: Plan, names: Sequence[str]) -> tuple[list[Page], list[Notice], list[Notice]]:
    """The pages to look at, as their authors wrote them; faults; notes."""
    own, _, faults = pages_of(plan)
    known = {file.source.resolve(): file for file in own}
    files = [known.get(Path(name).resolve(), _page_file(plan, name)) for name in names] if names else own
    pages, left = [], 0
    for file in files:
        if not names and file.source.suffix.lower() not in SERVABLE:
            left += 1
            continue
        try:
            page = read_page(file, plan.slots, project_of(plan), plan.masters_folder)
        except PageError as error:
            faults += error.notices
            continue
        pages.append(_as_written(plan, page) if file in own else page)
    text, cure = f"{left} of its pages are no HTML", "name the pages that they become"
    return pages, faults, [Notice(Kind.LEFT_OUT, str(plan.file), text, cure, "note")] if left else []


def _worth_looking(pages: Sequence[Page]) -> tuple[list[Page], int]:
    """The pages to measure of a plan that has many: those with a slot that was not seen often yet; and how many are left out."""
    slots = {page.file.source: {ask.slot for ask in _asks(page)} for page in pages}
    chosen = worth_opening(slots, _ENOUGH)
    kept = [page for page in pages if page.file.source in chosen]
    return kept, sum(bool(some) for file, some in slots.items() if file not in chosen)


def _page_file(plan: Plan, name: str) -> PageFile:
    file = Path(name)
    return PageFile(file, file, dialect_of(file.name, plan.dialects) or HTML)


def _as_written(plan: Plan, page: Page) -> Page:
    """A page of the plan with its author's tags: woven ones would have the width of the plan."""
    text = unweave(page).text
    said = PageText(text, page.text.encoding, page.text.mark)
    return page_of(page.file, said, plan.slots, project_of(plan), plan.masters_folder)


def _asks(page: Page) -> list[Ask]:
    """The images that a page shows of slots."""
    return [ask for ask in page.asks if ask.slot and (not ask.fault or ask.key) and ask.block.is_shown]


def _sheet(page: Page) -> PageToMeasure:
    return PageToMeasure(page.file.source, page.text, [_start(page, ask.block) for ask in _asks(page)])


def _start(page: Page, block: Block) -> int:
    """Offset of the tag whose box is meant: within a woven picture, its img."""
    if block.mention is not None:
        return block.start
    inner = page.text.text[block.start : block.end]
    return block.start + max(inner.lower().rfind("<img"), 0)


def _place(page: Page, block: Block) -> str:
    return f"{page.file.source}:{block.line}:{block.column}"


def _image(page: Page, ask: Ask, boxes: PageBoxes | None, number: int) -> _Image:
    first = boxes.first.get(number, (0.0, 0.0)) if boxes else (0.0, 0.0)
    seen = boxes.boxes.get(number, {}).values() if boxes else ()
    fits = tuple(dict.fromkeys(box.fit for box in seen if box.shown))
    return _Image(page, _place(page, ask.block), _measured(boxes, number), first, fits)


def _measured(boxes: PageBoxes | None, number: int) -> Measured:
    if boxes is None or number not in boxes.boxes:
        return Measured({}, {})
    seen = boxes.boxes[number].values()
    natural = max((box.natural[0] for box in seen if not box.listed), default=0)
    return Measured.of(boxes.widths(number), boxes.pulls.get(number, {}), natural)


@dataclass(frozen=True)
class _Image:
    """An image of a slot, its place in words, its box, its share of the first screens, and how it fits its box."""

    page: Page
    place: str
    box: Measured
    first: tuple[float, float]
    fits: tuple[str, ...]


def _slot(plan: Plan, slot: Slot, images: Sequence[_Image], states: Mapping[Path, str]) -> SlotMeasured:
    kinds = list(kinds_of([(image.place, image.box) for image in images]))
    off, at = 0.0, 0
    if kinds[0].fitted:
        widths = [(viewport, width) for viewport, width in kinds[0].box.widths.items() if width]
        off, at = max((abs(slot.shown.on(Device(viewport, HEIGHT)) - width), viewport) for viewport, width in widths)
    first = max(image.first[0] for image in images), max(image.first[1] for image in images)
    fits = tuple(dict.fromkeys(fit for image in images for fit in image.fits))
    files = dict.fromkeys(image.page.file.source for image in images)
    return SlotMeasured(
        slot, tuple(kinds), off, at, first, fits, {seen_from(plan.folder, one): states[one] for one in files}
    )


def kinds_of(images: Sequence[tuple[str, Measured]]) -> Iterator[ShownKind]:
    """Images grouped by how they are shown, the commonest first; hidden ones last.

    Args:
        images: the place of each, and its box.
    """
    shown = [one for one in images if one[1].shown]
    for numbers in sorted_apart([box for _, box in shown]):
        box = united([shown[number][1] for number in numbers])
        places = tuple(shown[number][0] for number in numbers)
        yield ShownKind(places, fit_shown(box.widths, box.pulls, HEIGHT), box)
    if hidden := tuple(place for place, box in images if not box.shown):
        yield ShownKind(hidden, None, Measured({}, {}))
