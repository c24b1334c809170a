"""`sarvel weave`: writes the markup into the pages, shows it, or takes it back."""

from __future__ import annotations

import argparse
import os
import stat
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.cli.beside import texts_beside
from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.core.html.markup import Markup
from sarvel.errors import OutputError, PageError, PlanError
from sarvel.pages.files import PageFile
from sarvel.pages.weave import Page, Woven, unweave, weave
from sarvel.press.files import holds, sweep, write_whole
from sarvel.press.machine import alone_in
from sarvel.press.render import placeholders_to_do, render
from sarvel.press.work import Made

_TRIES = 5  # of weaving a page that someone else writes, before it is left alone
_LATE = "was written while this run was at work, and its files are not made yet; run again"


@dataclass(frozen=True)
class Pages:
    """What became of the pages.

    Attributes:
        written: targets whose bytes changed.
        unchanged: how many were right already.
        images: how many images are woven, or given back.
        faults: what could not be, each with its place.
    """

    written: tuple[Path, ...]
    unchanged: int
    images: int
    faults: tuple[str, ...]


def run(options: argparse.Namespace) -> int:
    """Weaves; exit code 1 if a page needs the user."""
    speaker = Speaker.of(options)
    plan = plan_of(options)
    with ledger_of(plan, writes=not options.diff) as ledger:
        site = _only(read_site(plan, ledger), options.pages)
        return _run(site if options.undo else with_placeholders(site, speaker), options, speaker)


def _run(site: Site, options: argparse.Namespace, speaker: Speaker) -> int:
    if options.undo:
        site = replace(site, pages=tuple(replace(page, place=_in_place(page.place)) for page in site.pages))
    weaver = unweave if options.undo else weaver_of(site)
    results = [weaver(page) for page in site.pages]
    if options.diff:
        speaker.diff("".join(woven.diff() for woven in results))
        pages = Pages(
            (), 0, sum(woven.count for woven in results), tuple(fault for woven in results for fault in woven.faults)
        )
    else:
        pages = write_all(results, weaver, site, speaker, beside=not options.undo)
        speaker.result(told(pages, "given back" if options.undo else "woven"))
    faults = [*(() if options.undo else site.faults), *pages.faults]
    speaker.trouble(faults)
    diffs = {str(woven.page.place.file): woven.diff() for woven in results} if options.diff else None
    speaker.document(pages=as_json(pages), faults=faults, **({"diff": diffs} if diffs is not None else {}))
    return 1 if faults else 0


def weaver_of(site: Site) -> Callable[[Page], Woven]:
    """What leaves a page of a site as weaving does; pages that were read again since may ask for more than was made."""
    unmade = site.unmade()
    backgrounds = None if site.plan.stylesheet else site.placeholders
    known: dict[tuple[str, str], Markup] = {}
    asked = {(ask.slot, ask.key) for page in site.pages for ask in page.asks}

    def woven(page: Page) -> Woven:
        result = weave(page, site.edition, site.plan.address, unmade, backgrounds, known)
        late = [ask for ask in page.asks if not (ask.fault or (ask.slot, ask.key) in asked)]
        told = [f"{page.place.file}:{ask.block.line}:{ask.block.column}: {_LATE}" for ask in late]
        return replace(result, faults=(*result.faults, *told)) if told else result

    return woven


def with_placeholders(site: Site, speaker: Speaker) -> Site:
    """The site with the placeholders of all its pictures made; rendering makes them, so that commonly none is missing."""
    todo = placeholders_to_do(site.edition, site.plan.masters_folder, site.plan.output, site.ledger)
    with speaker.progress("placeholders", len(todo.works)) as advance:

        def done(made: Made) -> None:
            site.ledger.remember([], made.findings)
            advance(1, made.key)

        render(todo, site.plan.output, 1, done)
    return site.afresh()


def write_all(
    results: Sequence[Woven], weaver: Callable[[Page], Woven], site: Site, speaker: Speaker, *, beside: bool = True
) -> Pages:
    """Writes pages, and what belongs beside them, while no other run does; what one that was killed left is swept out."""
    folder = site.plan.folder
    with alone_in(folder, lambda: speaker.notes([f"{folder}: another run is writing pages; waiting for it"])):
        places = [*(woven.page.place for woven in results), *site.others]
        for near in {place.target.parent for place in places} if beside else {place.file.parent for place in places}:
            sweep(near)
        others = site.others if beside else ()
        pages = write_pages(results, others, lambda place: weaver(site.read_again(place)), speaker)
        return with_others(pages, site) if beside else pages


def write_pages(
    results: Sequence[Woven], others: Sequence[PageFile], again: Callable[[PageFile], Woven], speaker: Speaker
) -> Pages:
    """Writes what changed, whole or not at all, with the owner and permissions that the file had.

    Args:
        results: the pages.
        others: files to copy beside them.
        again: reads a page that was changed since it was read, and weaves it.
        speaker: what tells each step.
    """
    written: list[Path] = []
    final: list[Woven] = []
    faults: list[str] = []
    places = [woven.page.place for woven in results]
    for number, place in enumerate((*places, *others)):
        try:
            if number < len(results):
                woven, is_written = _write_page(results[number], again)
                final.append(woven)
            else:
                is_written = _copy(place)
        except (OutputError, PageError) as error:
            faults.append(str(error))
            continue
        if is_written:
            written.append(place.target)
            speaker.step(f"{place.target}: written")
    faults = [*(fault for woven in final for fault in woven.faults), *faults]
    return Pages(
        tuple(written), len(results) + len(others) - len(written), sum(woven.count for woven in final), tuple(faults)
    )


def _write_page(woven: Woven, again: Callable[[PageFile], Woven]) -> tuple[Woven, bool]:
    """Writes a page over what was read of it, and over nothing else: an editor may save it at any moment.

    Returns:
        The page as it was woven in the end, and whether anything had to be written.

    Raises:
        OutputError: it cannot be written.
        PageError: it cannot be read, or changes each time that it is to be written.
    """
    for _ in range(_TRIES):
        place, before = woven.page.place, woven.before
        still = holds(place.file, before)
        if still() and holds(place.target, woven.content)():
            return woven, False
        if still() and _write(place, woven.content, still):
            return woven, True
        woven = again(woven.page.place)
    raise PageError(
        f"{woven.page.place.file}: was changed by someone else each time that it was to be written, and stays as it is; "
        "run again when nobody writes it"
    )


def _copy(place: PageFile) -> bool:
    """Copies what belongs beside woven pages; whether that was needed.

    Raises:
        OutputError: it cannot be written.
        PageError: it cannot be read.
    """
    try:
        content = place.file.read_bytes()
    except OSError as error:
        raise PageError(
            f"{place.file}: cannot be read ({error.strerror}), and is not copied; check its permissions"
        ) from error
    return not holds(place.target, content)() and _write(place, content)


def with_others(pages: Pages, site: Site) -> Pages:
    """What became of the pages and of what is written beside them: the stylesheet, the manifest, partials."""
    written, unchanged, faults = list(pages.written), pages.unchanged, list(pages.faults)
    for file, text in texts_beside(site).items():
        content = text.encode("utf-8", "backslashreplace")
        if holds(file, content)():
            unchanged += 1
        else:
            try:
                write_whole(file, content)
            except OutputError as error:
                faults.append(str(error))
                continue
            written.append(file)
    return replace(pages, written=tuple(written), unchanged=unchanged, faults=tuple(faults))


def _write(place: PageFile, content: bytes, still: Callable[[], bool] = lambda: True) -> bool:
    like = place.file.stat()
    if place.target != place.file:
        like = os.stat_result((like.st_mode | stat.S_IWUSR, *like[1:]))  # a copy is ours to write again
    elif not like.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        raise OutputError(
            f"{place.target}: is read-only and stays as it is; let it be written, or name a folder as site.woven"
        )
    return write_whole(place.target, content, like, still)


def told(pages: Pages, verb: str) -> str:
    """What became of the pages, in a sentence."""
    return f"{pages.images} images {verb}; {len(pages.written)} pages and files written, {pages.unchanged} left as they were"


def as_json(pages: Pages) -> dict[str, object]:
    """What became of the pages."""
    return {"written": [str(path) for path in pages.written], "unchanged": pages.unchanged, "images": pages.images}


def _only(site: Site, names: list[str]) -> Site:
    """The site with just the pages named, all if none is."""
    if not names:
        return site
    by_place = {page.place.file.resolve(): page for page in site.pages}
    chosen = []
    for name in names:
        page = by_place.get(Path(name).resolve())
        if page is None:
            raise PlanError(f"{name}: is no page of the plan; name it under site.pages in {site.plan.file}")
        chosen.append(page)
    return replace(site, pages=tuple(chosen), others=())


def _in_place(place: PageFile) -> PageFile:
    return replace(place, target=place.file)
