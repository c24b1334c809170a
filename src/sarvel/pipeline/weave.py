"""Weaving a site: pages and side files, each written only over the content that was read."""

from __future__ import annotations

import functools
import os
from collections.abc import Callable, Container, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.core.address.address import Address
from sarvel.core.check.context import LinkedFile
from sarvel.core.css.sheet import Sheet
from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.html.page_styles import SheetLookup
from sarvel.core.html.tags import COMPONENT
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.core.markup.picture import Markup
from sarvel.errors import OutputError, PageError, PlanError, cure_of
from sarvel.files.atomic import holds, leads_out, sweep, write_whole
from sarvel.files.folder_lock import alone_in
from sarvel.files.ledger import Ledger
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page
from sarvel.pages.read.linked_files import LinkedFiles, Looked
from sarvel.pages.read.page_files import PageFile
from sarvel.pages.weave.surroundings import KnownRules, Surroundings
from sarvel.pages.weave.weaver import Woven, unweave, weave
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.page_writes import refuse_others, write_page
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.roots import addresses_of, roots_of
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.site import RequestedImages, Site, read_again
from sarvel.pipeline.targets import is_side_file
from sarvel.pipeline.written import WrittenFiles
from sarvel.plan.read import Plan

_TRIES = 5  # of weaving a page that someone else writes, before it is left alone
_LATE = Notice(Kind.NOT_MADE, "", "was written while this run was at work, and its files are not made yet", "run again")

Weaver = Callable[[Page], Woven]
"""Takes a page; returns it as weaving, or giving back, leaves it."""
IsOurs = Callable[[Path], bool]
"""Tells whether an earlier run wrote a file."""


@dataclass(frozen=True)
class WrittenPages:
    """The result of writing the pages and side files of a site.

    Attributes:
        written: targets whose bytes changed.
        images: how many images are woven, or restored.
        faults: work that was not done, each with its place.
    """

    written: tuple[Path, ...]
    unchanged: tuple[Path, ...]
    images: int
    faults: tuple[Notice, ...]


def weaver_of(site: Site, refused: Container[str] = ()) -> Weaver:
    """The weaver for the pages of a site; a page that was read again may ask for more than was made, and is reported.

    Args:
        refused: masters that could not be rendered in this run, which has reported them.
    """
    unmade = site.unmade(site.there())
    edition = Edition(
        {pair: one for pair, one in site.edition.pictures.items() if pair not in unmade or not _is_of(one, refused)}
    )
    backgrounds = None if site.plan.stylesheet else site.placeholders
    known: dict[tuple[Address, str, str], Markup] = {}
    addresses = addresses_of(site.plan)
    asked = {(ask.slot, ask.key) for page in site.pages for ask in page.asks}
    sheets_of, rules = sheets_finder(site.plan), KnownRules()

    def woven(page: Page) -> Woven:
        around = Surroundings(page, sheets_of(page), rules)
        result = weave(
            page, edition, addresses, unmade, backgrounds, known, surroundings=around, leaves_alt=site.plan.leaves_alt
        )
        late = [ask for ask in page.asks if not (ask.fault or (ask.slot, ask.key) in asked)]
        told = [_LATE.within(f"{page.file.source}:{ask.block.line}:{ask.block.column}") for ask in late]
        return replace(result, faults=(*result.faults, *told)) if told else result

    return woven


def sheets_finder(plan: Plan) -> Callable[[Page], SheetLookup]:
    """What finds the stylesheets of each page of a plan; the one that Sarvel writes says nothing that matters here."""
    looked = Looked(lambda _: LinkedFile())
    nothing = Sheet((), ())

    def of_page(page: Page) -> SheetLookup:
        files = LinkedFiles(roots_of(page.file.source, page.text.text, plan), looked)
        return lambda address: nothing if address.rpartition("/")[2] == STYLESHEET else files.sheet(address)

    return of_page


def _is_of(picture: Picture, masters: Container[str]) -> bool:
    return any(crop.source.key in masters for crop in picture.crops)


def only_pages(asked: RequestedImages, names: Sequence[str]) -> RequestedImages:
    """What just the pages named ask for; all if none is.

    Raises:
        PlanError: a name is no page of the plan.
    """
    if not names:
        return asked
    by_place = {page.file.source.resolve(): page for page in asked.pages}
    chosen = []
    for name in names:
        page = by_place.get(Path(name).resolve())
        if page is None:
            raise PlanError.at(name, "is no page of the plan", f"name it under site.pages in {asked.plan.file}")
        chosen.append(page)
    return replace(asked, pages=tuple(chosen), others=())


def in_place(asked: RequestedImages) -> RequestedImages:
    """The same with its pages woven, or restored, where their authors keep them."""
    pages = (replace(page, file=replace(page.file, target=page.file.source, top=None)) for page in asked.pages)
    return replace(asked, pages=tuple(pages))


def without_marks(asked: RequestedImages) -> RequestedImages:
    """The same with pages that cannot be woven again or taken back."""
    return replace(asked, pages=tuple(replace(page, file=replace(page.file, marked=False)) for page in asked.pages))


def unweave_plan(asked: RequestedImages, ledger: Ledger, listener: Listener, *, whole: bool) -> WrittenPages:
    """Gives pages their authors' tags back, where their authors keep them.

    Args:
        whole: whether these are all pages of the plan; then the component is removed if no page calls it any more.
    """
    asked = in_place(asked)
    result = write_site(asked, ((unweave(page), unweave) for page in asked.pages), ledger, listener)
    component = asked.plan.component
    called = any(COMPONENT in unweave(page).text for page in asked.pages if COMPONENT in page.text.text)
    if whole and component and not called and is_side_file(component):
        component.unlink()
        return replace(result, written=(*result.written, component))
    return result


def weave_plan(parts: Parts, listener: Listener, refused: Container[str] = ()) -> WrittenPages:
    """Weaves the pages of a plan, and writes what belongs next to them.

    Args:
        refused: masters that could not be rendered in this run, which has reported them.
    """
    return write_site(parts.asked, woven_pages(parts, refused), parts.ledger, listener, parts)


def woven_pages(parts: Parts, refused: Container[str] = ()) -> Iterator[tuple[Woven, Weaver]]:
    """The pages of a plan, woven and not written, each with its weaver; as weave_plan."""
    for site in parts.by_pages():
        weaver = weaver_of(site, refused)
        yield from ((weaver(page), weaver) for page in site.pages)


def write_site(
    asked: RequestedImages,
    results: Iterable[tuple[Woven, Weaver]],
    ledger: Ledger,
    listener: Listener,
    beside: Parts | None = None,
) -> WrittenPages:
    """Writes pages, and what belongs next to them, while no other run does; what killed runs left is removed.

    Args:
        results: the pages, each with the weaver for when it was changed since it was read.
        beside: the site of side files; None writes none.
    """
    folder = asked.plan.folder
    waiting = Notice(Kind.WAITING, str(folder), "another run is writing pages; waiting for it", severity="note")
    with alone_in(folder, lambda: listener.notes([waiting])):
        others = asked.others if beside else ()
        pages = [page.file for page in asked.pages]
        files = [*pages, *others]
        for near in {file.target.parent for file in files if not leads_out(file.target, file.top)}:
            sweep(near)
        ours = WrittenFiles(asked.plan, ledger, [file.target for file in pages if file.top])
        ours.add(file.target for file in files if file.top and not os.path.lexists(file.target))
        writing = _Writing(asked, listener, ours.has)
        for woven, weaver in results:
            writing.page(woven, weaver)
        for file in others:
            writing.copy(file)
        if beside:
            writing.side_files(beside)
        written = writing.result()
        authors = {file.source for file in files}
        ours.add(place for place in (*written.written, *written.unchanged) if place not in authors)
        return written


@dataclass
class _Writing:
    """The writing of a site's files: what changed, whole or not at all, with the owner and permissions that a file had.

    Attributes:
        is_ours: whether an earlier run wrote a file.
    """

    asked: RequestedImages
    listener: Listener
    is_ours: IsOurs
    _written: list[Path] = field(default_factory=list)
    _unchanged: list[Path] = field(default_factory=list)
    _images: int = 0
    _faults: list[Notice] = field(default_factory=list)
    _unwritten: list[Notice] = field(default_factory=list)

    def result(self) -> WrittenPages:
        """The results so far."""
        faults = (*self._faults, *self._unwritten)
        return WrittenPages(tuple(self._written), tuple(self._unchanged), self._images, faults)

    def page(self, woven: Woven, weaver: Weaver) -> None:
        """Writes a page."""

        def write() -> bool:
            final, is_written = _write_page(woven, lambda file: weaver(read_again(plan, file)), self.is_ours)
            self._images += final.count
            self._faults += final.faults
            return is_written

        plan = self.asked.plan
        self._write(woven.page.file.target, write)

    def copy(self, file: PageFile) -> None:
        """Writes a copy of a file that belongs next to pages."""
        self._write(file.target, lambda: _copy(file, self.is_ours))

    def side_files(self, parts: Parts) -> None:
        """Writes the stylesheet, the manifest, partials and the macro."""
        for file, content in side_files(parts).items():
            self._write(file, functools.partial(self._beside, file, content))

    def _write(self, target: Path, write: Callable[[], bool]) -> None:
        try:
            is_written = write()
        except (OutputError, PageError) as error:
            self._unwritten += error.notices
            return
        (self._written if is_written else self._unchanged).append(target)
        if is_written:
            self.listener.step(f"{target}: written")

    def _beside(self, file: Path, content: bytes) -> bool:
        """Writes a side file; one in the folder of renditions goes to storage with them.

        Raises:
            OutputError: it cannot be written, or is not ours to write.
        """
        if holds(file, content)():
            return False
        refuse_others(file, self.is_ours)
        if file.parent == self.asked.output.folder:
            self.asked.output.publish(file.name, content)
            return True
        partials = self.asked.plan.partials
        is_partial = partials and partials.folder in file.parents
        write_whole(file, content, top=partials.folder if partials and is_partial else None)
        return True


def _write_page(woven: Woven, again: Callable[[PageFile], Woven], is_ours: IsOurs) -> tuple[Woven, bool]:
    """Writes a page only over the content that was read: an editor may save it at any moment.

    Returns:
        The page as it was woven in the end, and whether anything had to be written.

    Raises:
        OutputError: it cannot be written.
        PageError: it cannot be read, or changes each time that it is to be written.
    """
    for _ in range(_TRIES):
        file, before = woven.page.file, woven.before
        still = holds(file.source, before)
        if still() and holds(file.target, woven.content)():
            return woven, False
        if still() and write_page(file, woven.content, still, is_ours):
            return woven, True
        woven = again(woven.page.file)
    raise PageError.at(
        woven.page.file.source,
        "was changed by someone else each time that it was to be written, and stays as it is",
        "run again when no other program writes it",
    )


def _copy(file: PageFile, is_ours: IsOurs) -> bool:
    """Copies what belongs next to woven pages; returns whether that was needed.

    Raises:
        OutputError: it cannot be written.
        PageError: it cannot be read.
    """
    try:
        content = file.source.read_bytes()
    except OSError as error:
        raise PageError.at(
            file.source, f"cannot be read ({error.strerror}), and is not copied", cure_of(error)
        ) from error
    return not holds(file.target, content)() and write_page(file, content, is_ours=is_ours)
