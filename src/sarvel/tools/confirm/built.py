"""Before and after where an engine builds the pages: two folders, or two running sites, of the pages before and after weaving."""

from __future__ import annotations

import contextlib
import urllib.parse
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path

from sarvel.browser.links import linked_pages
from sarvel.browser.page_state import PageState, largest_on, set_by_scripts, shaped_state, state_on
from sarvel.browser.session import Session
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.core.amounts import counted
from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.html.dialect import HTML
from sarvel.core.layout.moved import changes_of
from sarvel.core.survey.looks import Look, looks_in
from sarvel.errors import PageError, PlanError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import SERVABLE, read_text
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import Plan
from sarvel.tools.confirm.devices import confirm_each, some_of_each
from sarvel.tools.confirm.outcome import Confirmed, ConfirmedSite, Times, fair_times, least_shifting, shape_of, strayed
from sarvel.tools.serving.served_folders import maker_of


@dataclass
class _Built:
    """A site as it was built, served by us or by a server that runs."""

    browser: Session
    server: SiteServer | None

    def state(self, path: str, device: Device) -> PageState:
        """A page on a device."""
        return state_on(self.browser, self.server, path, device)

    def largest(self, path: str, device: Device) -> float | None:
        """When a page's largest image is there on the slow network."""
        return largest_on(self.browser, self.server, path, device)


def confirm_built(
    plan: Plan, built: tuple[Path, Path], names: Sequence[str], devices: Sequence[Device], driver: str | None,
    listener: Listener, *, every: bool = False,
) -> ConfirmedSite:  # fmt: skip
    """Looks at pages that an engine built.

    Args:
        built: the folders of the site as built before weaving and after.
        names: pages to look at, as files of the second folder or paths in it; none for some of each kind.
        every: whether to look at all pages, however many are of a kind.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        PlanError: a folder is not there, or both hold no page of one name.
        BrowserError: no browser can be had.
    """
    result = ConfirmedSite()
    found = _pages(built, names, result)
    if not (names or every):
        found = some_of_each(found, lambda page: _looks(built[0] / page), result)
    pages = {"/" + urllib.parse.quote(page.as_posix()): built[1] / page for page in found}

    @contextlib.contextmanager
    def served(browser: Session) -> Iterator[tuple[_Built, _Built]]:
        servers = [SiteServer(Folders([folder], maker=maker_of(plan)), {}) for folder in built]
        try:
            before, after = (_Built(browser.at(one.address), one) for one in servers)
            yield before, after
        finally:
            for server in servers:
                server.close()

    return _confirm(plan, pages, served, devices, driver, listener, result)


def confirm_running(
    plan: Plan, sites: tuple[str, str], names: Sequence[str], devices: Sequence[Device], driver: str | None,
    listener: Listener,
) -> ConfirmedSite:  # fmt: skip
    """Looks at the pages of two sites that run on this machine.

    Args:
        sites: their addresses, of the one before weaving and the one after, without a slash at the end.
        names: paths of pages; none for / and the pages that it leads to.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        BrowserError: no browser can be had.
    """
    paths = ["/" + name.lstrip("/") for name in names] or linked_pages(sites[1], ["/"], driver)

    @contextlib.contextmanager
    def running(browser: Session) -> Iterator[tuple[_Built, _Built]]:
        yield _Built(browser.at(sites[0]), None), _Built(browser.at(sites[1]), None)

    return _confirm(plan, {path: Path(path) for path in paths}, running, devices, driver, listener, ConfirmedSite())


def _confirm(
    plan: Plan, pages: Mapping[str, Path], sites: Callable[[Session], AbstractContextManager[tuple[_Built, _Built]]],
    devices: Sequence[Device], driver: str | None, listener: Listener, result: ConfirmedSite,
) -> ConfirmedSite:  # fmt: skip
    """Looks at pages of two sites.

    Args:
        pages: names of pages, by path.
        sites: gives the two sites to a browser.
    """
    with ledger_of(plan, lambda _: None, creates=False) as ledger:
        pictures = read_site(plan, ledger, as_it_stands=True).edition.pictures.values()
    by_file: dict[str, list[Picture]] = {}
    for picture in pictures:
        for name in {one.name for one in picture.renditions()}:
            by_file.setdefault(name, []).append(picture)

    @contextlib.contextmanager
    def look(browser: Session) -> Iterator[Callable[[str, Device], Confirmed]]:
        with sites(browser) as (before, after):
            yield lambda path, device: _one(
                before, after, path, pages[path], device, by_file, slow=device == devices[0]
            )

    confirm_each(list(pages), devices, driver, result, listener, pages.__getitem__, look)
    return result


def _pages(built: tuple[Path, Path], names: Sequence[str], result: ConfirmedSite) -> list[Path]:
    """Pages that both folders hold, as paths in them."""
    for folder in built:
        if not folder.is_dir():
            raise PlanError.at(folder, "there is no such folder", "build the site into it, and name it again")
    before, after = built
    found = [_within(after, Path(name)) for name in names] or sorted(
        one.relative_to(after) for one in after.rglob("*") if one.suffix.lower() in SERVABLE
    )
    pages = [page for page in found if is_file(before / page) and is_file(after / page)]
    for page in found if names else ():
        if page not in pages:
            result.faults.append(
                Notice(Kind.PAGE, str(page), f"is not in both {before} and {after}", "name a page that both hold")
            )
    if not names and len(pages) < len(found):
        left_out = len(found) - len(pages)
        result.notes.append(
            Notice(
                Kind.LEFT_OUT,
                "",
                f"{counted(left_out, 'page')} of {after} not in {before}, and left out",
                severity="note",
            )
        )
    if not pages and not result.faults:
        raise PlanError.at(after, f"no page in it is also in {before}", "build the same site into both")
    return pages


def _looks(page: Path) -> set[Look]:
    """The looks of a page's images; one that cannot be read is like no other."""
    try:
        return looks_in(read_text(page).text, HTML)
    except PageError:
        return {(str(page),)}


def _within(folder: Path, page: Path) -> Path:
    place, top = page.resolve(), folder.resolve()
    return place.relative_to(top) if place.is_relative_to(top) else page


def _one(
    before: _Built, after: _Built, path: str, page: Path, device: Device,
    by_file: Mapping[str, Sequence[Picture]], *, slow: bool,
) -> Confirmed:  # fmt: skip
    """One page on one device: woven; before; and before with images of the shapes of the plan's crops."""
    new = after.state(path, device)
    markup = str(after.browser.run("return document.documentElement.outerHTML"))
    set_ = set_by_scripts(after.browser) if slow else []
    old = before.state(path, device)
    new = new.beside(old)
    shapes = []
    for place, image in enumerate(new.images):
        name = urllib.parse.unquote(image.url.rpartition("/")[2]) if image.woven else ""
        picture = next((one for one in by_file.get(name, ()) if _has(one.crop_on(device), name)), None)
        shape = shape_of(picture, device) if picture else None
        if shape:
            shapes.append((place, f"data:image/svg+xml,{urllib.parse.quote(shape[1])}"))
    others, fetched = strayed(markup, after.browser.address + path, new, device)
    reference = shaped_state(before.browser, old, shapes) if shapes else old
    shift, new = least_shifting(old, new, lambda: (before.state(path, device), after.state(path, device)))
    new = new.beside(old)
    loaded = {image.number for image in old.images if image.natural}
    said = set(old.errors)
    times: Times = (None, None)
    if slow:
        times = fair_times(lambda: (before.largest(path, device), after.largest(path, device)))
    return Confirmed(
        page,
        device,
        old,
        new,
        changes_of(reference.boxes, new.boxes),
        new.height - reference.height,
        [image.named for image in new.images if image.url and not image.natural and image.number in loaded],
        [error for error in new.errors if error not in said],
        others,
        fetched,
        shift,
        times,
        new.woven_at(set_),
    )


def _has(crop: Crop, name: str) -> bool:
    return any(one.name == name for ladder in crop.renditions.values() for one in ladder)
