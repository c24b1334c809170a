"""Weaving a site: pages and side files written, each over what was read of it and over nothing else."""

from __future__ import annotations

import os
from collections.abc import Callable, Container, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.markup.picture import Markup
from sarvel.errors import OutputError, PageError, PlanError, cure_of
from sarvel.files.atomic import holds, leads_out, sweep, write_whole
from sarvel.files.folder_lock import alone_in
from sarvel.files.ledger import Ledger
from sarvel.pages.read.asks import Page
from sarvel.pages.read.page_files import PageFile
from sarvel.pages.weave.weaver import Woven, weave
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.page_writes import refuse_others, write_page
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.side_files import side_files
from sarvel.pipeline.site import Site, read_again
from sarvel.pipeline.written import WrittenFiles

_TRIES = 5  # of weaving a page that someone else writes, before it is left alone
_LATE = "was written while this run was at work, and its files are not made yet; run again"

Weaver = Callable[[Page], Woven]
"""Takes a page; returns it as weaving, or giving back, leaves it."""
IsOurs = Callable[[Path], bool]
"""Tells whether an earlier run wrote a file."""


@dataclass(frozen=True)
class WrittenPages:
    """The result of writing the pages and side files of a site.

    Attributes:
        written: targets whose bytes changed.
        unchanged: targets that were right already.
        images: how many images are woven, or given back.
        faults: what could not be, each with its place.
    """

    written: tuple[Path, ...]
    unchanged: tuple[Path, ...]
    images: int
    faults: tuple[str, ...]


def weaver_of(site: Site, refused: Container[str] = ()) -> Weaver:
    """The weaver for the pages of a site; a page that was read again may ask for more than was made, and is told of.

    Args:
        site: the site.
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

    def woven(page: Page) -> Woven:
        result = weave(page, edition, addresses, unmade, backgrounds, known, leaves_alt=site.plan.leaves_alt)
        late = [ask for ask in page.asks if not (ask.fault or (ask.slot, ask.key) in asked)]
        told = [f"{page.file.source}:{ask.block.line}:{ask.block.column}: {_LATE}" for ask in late]
        return replace(result, faults=(*result.faults, *told)) if told else result

    return woven


def _is_of(picture: Picture, masters: Container[str]) -> bool:
    return any(cut.source.key in masters for cut in picture.cuts)


def only_pages(site: Site, names: Sequence[str]) -> Site:
    """The site with just the pages named; all if none is.

    Raises:
        PlanError: a name is no page of the plan.
    """
    if not names:
        return site
    by_place = {page.file.source.resolve(): page for page in site.pages}
    chosen = []
    for name in names:
        page = by_place.get(Path(name).resolve())
        if page is None:
            raise PlanError(f"{name}: is no page of the plan; name it under site.pages in {site.plan.file}")
        chosen.append(page)
    return replace(site, pages=tuple(chosen), others=())


def in_place(site: Site) -> Site:
    """The site with its pages woven, or given back, where their authors keep them."""
    pages = (replace(page, file=replace(page.file, target=page.file.source, top=None)) for page in site.pages)
    return replace(site, pages=tuple(pages))


def write_site(
    results: Sequence[Woven], weaver: Weaver, site: Site, ledger: Ledger, listener: Listener, *, beside: bool = True
) -> WrittenPages:
    """Writes pages, and what belongs beside them, while no other run does; what killed runs left is removed.

    Args:
        results: the pages.
        weaver: for pages that were changed since they were read.
        site: the site.
        ledger: knows what earlier runs wrote.
        listener: who hears of it.
        beside: whether what belongs beside pages is written, too.
    """
    folder = site.plan.folder
    with alone_in(folder, lambda: listener.notes([f"{folder}: another run is writing pages; waiting for it"])):
        others = site.others if beside else ()
        files = [*(woven.page.file for woven in results), *others]
        for near in {file.target.parent for file in files if not leads_out(file.target, file.top)}:
            sweep(near)
        ours = WrittenFiles(site.plan, ledger, [one.page.file.target for one in results if one.page.file.top])
        ours.add(file.target for file in files if file.top and not os.path.lexists(file.target))
        pages = write_pages(results, others, lambda file: weaver(read_again(site.plan, file)), listener, ours.has)
        pages = with_side_files(pages, site, ours.has) if beside else pages
        authors = {file.source for file in files}
        ours.add(place for place in (*pages.written, *pages.unchanged) if place not in authors)
        return pages


def write_pages(
    results: Sequence[Woven],
    others: Sequence[PageFile],
    again: Callable[[PageFile], Woven],
    listener: Listener,
    is_ours: IsOurs,
) -> WrittenPages:
    """Writes what changed, whole or not at all, with the owner and permissions that the file had.

    Args:
        results: the pages.
        others: files to copy beside them.
        again: reads a page that was changed since it was read, and weaves it.
        listener: who hears of each step.
        is_ours: whether an earlier run wrote a file.
    """
    written: list[Path] = []
    unchanged: list[Path] = []
    final: list[Woven] = []
    faults: list[str] = []
    files = [woven.page.file for woven in results]
    for number, file in enumerate((*files, *others)):
        try:
            if number < len(results):
                woven, is_written = _write_page(results[number], again, is_ours)
                final.append(woven)
            else:
                is_written = _copy(file, is_ours)
        except (OutputError, PageError) as error:
            faults.append(str(error))
            continue
        (written if is_written else unchanged).append(file.target)
        if is_written:
            listener.step(f"{file.target}: written")
    faults = [*(fault for woven in final for fault in woven.faults), *faults]
    return WrittenPages(tuple(written), tuple(unchanged), sum(woven.count for woven in final), tuple(faults))


def _write_page(woven: Woven, again: Callable[[PageFile], Woven], is_ours: IsOurs) -> tuple[Woven, bool]:
    """Writes a page over what was read of it, and over nothing else: an editor may save it at any moment.

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
    raise PageError(
        f"{woven.page.file.source}: was changed by someone else each time that it was to be written, and stays as it is; "
        "run again when nobody writes it"
    )


def _write_beside(file: Path, content: bytes, site: Site, is_ours: IsOurs) -> None:
    """Writes a side file; one among the renditions goes where they go.

    Raises:
        OutputError: it cannot be written, or is not ours to write.
    """
    refuse_others(file, is_ours)
    if file.parent == site.output.folder:
        site.output.publish(file.name, content)
    else:
        partials = site.plan.partials
        is_partial = partials and partials.folder in file.parents
        write_whole(file, content, top=partials.folder if partials and is_partial else None)


def _copy(file: PageFile, is_ours: IsOurs) -> bool:
    """Copies what belongs beside woven pages; returns whether that was needed.

    Raises:
        OutputError: it cannot be written.
        PageError: it cannot be read.
    """
    try:
        content = file.source.read_bytes()
    except OSError as error:
        raise PageError(
            f"{file.source}: cannot be read ({error.strerror}), and is not copied; {cure_of(error)}"
        ) from error
    return not holds(file.target, content)() and write_page(file, content, is_ours=is_ours)


def with_side_files(pages: WrittenPages, site: Site, is_ours: IsOurs) -> WrittenPages:
    """Writes the side files, and adds them to the result of the pages."""
    written, unchanged, faults = list(pages.written), list(pages.unchanged), list(pages.faults)
    for file, text in side_files(site, site.there()).items():
        content = text.encode("utf-8", "backslashreplace")
        if holds(file, content)():
            unchanged.append(file)
            continue
        try:
            _write_beside(file, content, site, is_ours)
        except OutputError as error:
            faults.append(str(error))
        else:
            written.append(file)
    return replace(pages, written=tuple(written), unchanged=tuple(unchanged), faults=tuple(faults))
