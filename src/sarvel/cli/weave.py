"""`sarvel weave`: writes the markup into the pages, shows it, or takes it back."""

from __future__ import annotations

import argparse
import stat
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.cli.beside import texts_beside
from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.core.html.markup import Markup
from sarvel.errors import OutputError, PlanError
from sarvel.pages.files import PageFile
from sarvel.pages.weave import Woven, unweave, weave
from sarvel.press.files import write_whole
from sarvel.press.render import placeholders_to_do, render
from sarvel.press.work import Made


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
    results = [unweave(page) for page in site.pages] if options.undo else woven_pages(site)
    if options.undo:
        results = [replace(woven, page=replace(woven.page, place=_in_place(woven.page.place))) for woven in results]
    if options.diff:
        speaker.diff("".join(woven.diff() for woven in results))
        pages = Pages(
            (), 0, sum(woven.count for woven in results), tuple(fault for woven in results for fault in woven.faults)
        )
    else:
        pages = write_pages(results, () if options.undo else site.others, speaker)
        pages = pages if options.undo else with_others(pages, site)
        speaker.result(told(pages, "given back" if options.undo else "woven"))
    faults = [*(() if options.undo else site.faults), *pages.faults]
    speaker.trouble(faults)
    diffs = {str(woven.page.place.file): woven.diff() for woven in results} if options.diff else None
    speaker.document(pages=as_json(pages), faults=faults, **({"diff": diffs} if diffs is not None else {}))
    return 1 if faults else 0


def woven_pages(site: Site) -> list[Woven]:
    """All pages of a site as weaving leaves them."""
    unmade = site.unmade()
    backgrounds = None if site.plan.stylesheet else site.placeholders
    known: dict[tuple[str, str], Markup] = {}
    return [weave(page, site.edition, site.plan.address, unmade, backgrounds, known) for page in site.pages]


def with_placeholders(site: Site, speaker: Speaker) -> Site:
    """The site with the placeholders of all its pictures made; rendering makes them, so that commonly none is missing."""
    todo = placeholders_to_do(site.edition, site.plan.masters_folder, site.plan.output, site.ledger)
    with speaker.progress("placeholders", len(todo.works)) as advance:

        def done(made: Made) -> None:
            site.ledger.remember([], made.findings)
            advance(1, made.key)

        render(todo, site.plan.output, 1, done)
    return site.afresh()


def write_pages(results: Sequence[Woven], others: Sequence[PageFile], speaker: Speaker) -> Pages:
    """Writes what changed, whole or not at all, with the permissions that the file had."""
    written: list[Path] = []
    faults = [fault for woven in results for fault in woven.faults]
    contents = [(woven.page.place, woven.content) for woven in results]
    contents += [(other, other.file.read_bytes()) for other in others]
    for place, content in contents:
        if place.target.is_file() and place.target.read_bytes() == content:
            continue
        try:
            _write(place, content)
        except OutputError as error:
            faults.append(str(error))
            continue
        written.append(place.target)
        speaker.step(f"{place.target}: written")
    return Pages(tuple(written), len(contents) - len(written), sum(woven.count for woven in results), tuple(faults))


def with_others(pages: Pages, site: Site) -> Pages:
    """What became of the pages and of what is written beside them: the stylesheet, the manifest, partials."""
    written, unchanged = list(pages.written), pages.unchanged
    for file, text in texts_beside(site).items():
        content = text.encode()
        if file.is_file() and file.read_bytes() == content:
            unchanged += 1
        else:
            write_whole(file, content)
            written.append(file)
    return replace(pages, written=tuple(written), unchanged=unchanged)


def _write(place: PageFile, content: bytes) -> None:
    mode = stat.S_IMODE(place.file.stat().st_mode)
    if place.target != place.file:
        mode |= stat.S_IWUSR  # a copy is ours to write again
    elif not mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH):
        raise OutputError(
            f"{place.target}: is read-only and stays as it is; let it be written, or name a folder as site.woven"
        )
    write_whole(place.target, content, mode)


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
