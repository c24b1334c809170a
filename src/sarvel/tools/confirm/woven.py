"""Before and after in a real browser: what weaving moved, which file each device fetched, how soon."""

from __future__ import annotations

import contextlib
import functools
import re
import urllib.parse
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.browser.page_state import PageState, largest_on, set_by_scripts, state_on, states_on
from sarvel.browser.session import Session
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.core.css.device import Device
from sarvel.core.css.sheet import naming_files
from sarvel.core.edition.compose import Edition
from sarvel.core.html.document import read_document
from sarvel.core.html.mentions import mention_of
from sarvel.core.html.tags import read_tag
from sarvel.core.layout.moved import changes_of
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.core.survey.looks import looks_in
from sarvel.errors import PageError, PlanError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page, read_page
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import SERVABLE, PageFile, read_text
from sarvel.pages.read.roots import file_of
from sarvel.pages.restore.blocks import Block, blocks, replaced
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.roots import project_of, roots_of
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import Plan
from sarvel.tools.confirm.devices import confirm_each, some_of_each
from sarvel.tools.confirm.made_first import make_first
from sarvel.tools.confirm.outcome import (
    GROWN,
    Confirmed,
    ConfirmedSite,
    Times,
    fair_times,
    least_shifting,
    shape_of,
    strayed,
)
from sarvel.tools.serving.served_folders import elsewhere, maker_of, with_stand_in

_LISTED = re.compile(r"""srcset|<picture|image-set|@media|\bmedia\s*=[^>]*(?:width|resolution)""", re.IGNORECASE)


@dataclass(frozen=True)
class _Pair:
    """A page before and after: their files, their paths, and the host that pictures are really at; "" for their own.

    Attributes:
        same: whether the page before fetches the same files on every device.
    """

    page: Page
    author: str
    before: str
    after: str
    origin: str
    same: bool

    def seen_after(self, error: str) -> str:
        """What the console said of the page before, with paths of the woven site."""
        parts = self.before.split("/")[:-1], self.after.split("/")[:-1]
        while parts[0] and parts[1] and parts[0][-1] == parts[1][-1]:
            for one in parts:
                one.pop()
        old, new = ("/".join(one) for one in parts)
        return error.replace(f"{old}/", f"{new}/") if old != new else error


def confirm(
    plan: Plan,
    names: Sequence[str],
    devices: Sequence[Device],
    driver: str | None,
    listener: Listener,
    *,
    every: bool = False,
) -> ConfirmedSite:
    """Looks at pages before and after.

    Args:
        names: its pages to look at, as their author or as woven; none for some of each kind.
        every: whether to look at all pages, however many are of a kind.
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        PlanError: no page can be shown by a browser.
        BrowserError: no browser can be had.
    """
    result = ConfirmedSite()
    with ledger_of(plan, lambda _: None, creates=False) as ledger:
        site = read_site(plan, ledger, as_it_stands=True)
    files = _chosen([page.file for page in site.pages], names, result)
    if not files:
        raise PlanError.at(
            plan.file, f"no page that a browser shows is among {', '.join(names) or 'its pages'}", "name one"
        )
    folders, texts = Folders(project_of(plan).tops, base=plan.base, maker=maker_of(plan)), dict[str, bytes]()
    pairs: list[_Pair] = []
    for file in files:
        pair = _pair(plan, file, folders, texts, result)
        if pair:
            pairs.append(pair)
    if not (names or every):
        pairs = some_of_each(pairs, lambda one: looks_in(one.author, one.page.file.dialect), result)
    _stand_in(plan, pairs, folders, texts)
    if folders.maker:
        make_first([(pair.page.file, pair.after) for pair in pairs], devices, folders.maker, listener)

    @contextlib.contextmanager
    def look(browser: Session) -> Iterator[Callable[[_Pair, Device], Confirmed]]:
        server = SiteServer(folders, texts)  # of its own: it counts the bytes that a page fetches
        try:
            looking = _Looking(browser.at(server.address), server, texts, site.edition, devices)
            yield looking.confirmed
        finally:
            server.close()

    confirm_each(pairs, devices, driver, result, listener, lambda pair: pair.page.file.target, look)
    return result


def _chosen(files: Sequence[PageFile], names: Sequence[str], result: ConfirmedSite) -> list[PageFile]:
    if not names:
        shown = [file for file in files if file.source.suffix.lower() in SERVABLE]
        if len(shown) < len(files):
            result.notes.append(
                Notice(
                    Kind.LEFT_OUT,
                    "",
                    f"{len(files) - len(shown)} of the plan's pages are no HTML and cannot be shown as they are",
                    severity="note",
                )
            )
        return shown
    chosen = []
    for name in names:
        place = Path(name).resolve()
        found = next((file for file in files if place in (file.source.resolve(), file.target.resolve())), None)
        if found is None:
            what = "is no page of the plan" if is_file(Path(name)) else "there is no such page"
            result.faults.append(Notice(Kind.PAGE, str(name), f"{what}", "name one that site.pages means"))
        else:
            chosen.append(found)
    return chosen


def _pair(plan: Plan, file: PageFile, folders: Folders, texts: dict[str, bytes], result: ConfirmedSite) -> _Pair | None:
    """A page before and after; its author's text is served next to the woven one."""
    if not is_file(file.target):
        result.faults.append(Notice(Kind.PAGE, str(file.target), "is not there", "run sarvel build first"))
        return None
    try:
        page = read_page(file, plan.slots, project_of(plan), plan.masters_folder)
    except PageError as error:
        result.faults += error.notices
        return None
    author = unweave(page).text
    paths = folders.path(file.source), folders.path(file.target)
    if not paths[0] or not paths[1]:
        result.faults.append(Notice(Kind.PAGE, str(file.source), "lies outside the served folders"))
        return None
    folder, _, name = paths[0].rpartition("/")
    before = f"{folder}/.author.{name}"
    texts[urllib.parse.unquote(before)] = page.text.encoded(author)
    roots = roots_of(file.source, author, plan)
    sheets = (file_of(address, roots)[0] for address in read_document(author, file.dialect).sheets)
    same = not (_LISTED.search(author) or any(sheet and _chooses_files(sheet) for sheet in sheets))
    return _Pair(page, author, before, paths[1], elsewhere(plan), same)


@functools.lru_cache(maxsize=256)
def _chooses_files(sheet: Path) -> bool:
    """Tells whether a device may decide which files a stylesheet fetches: by media rules, image sets, or imported sheets."""
    css = sheet.read_bytes().decode("utf-8-sig", "replace")
    urls = ((one, url) for one in naming_files(css) for url in one.urls if not url.url.startswith("data:"))
    return "@import" in css.lower() or any(one.media or url.chosen for one, url in urls)


def _stand_in(plan: Plan, pairs: Sequence[_Pair], folders: Folders, texts: dict[str, bytes]) -> None:
    """Has pictures of a service on another host asked of our own server."""
    sheet = plan.output / STYLESHEET
    files = {pair.after: pair.page.file.target for pair in pairs}
    for path, file in {**files, folders.path(sheet) or "": sheet}.items():
        if path and is_file(file):
            content = file.read_bytes()
            if (local := with_stand_in(content, plan)) != content:
                texts[urllib.parse.unquote(path)] = local


@dataclass
class _Looking:
    """What looks at pages with a browser.

    Attributes:
        texts: contents to serve in place of files, by path; more is added.
        before: the pages as their authors wrote them, on each device, if they fetch the same on all.
    """

    browser: Session
    server: SiteServer
    texts: dict[str, bytes]
    edition: Edition
    devices: Sequence[Device]
    before: dict[str, dict[Device, PageState]] = field(default_factory=dict)

    def confirmed(self, pair: _Pair, device: Device) -> Confirmed:
        """A page on a device: as its author wrote it, with the crops that the plan asks for, and as woven."""
        if pair.same and pair.before not in self.before:
            states = states_on(self.browser, self.server, pair.before, self.devices)
            self.before[pair.before] = dict(zip(self.devices, states, strict=True))
        shaped = _shaped(pair, device, self.edition, self.texts)
        before = self.before[pair.before][device] if pair.same else self._opened(pair.before, device)
        reference = before
        if shaped is not None:
            folder, _, name = pair.before.rpartition("/")
            path = f"{folder}/.shaped{name}"
            self.texts[urllib.parse.unquote(path)] = pair.page.text.encoded(shaped)
            reference = self._opened(path, device)
        after = self._opened(pair.after, device)
        changes, grown = changes_of(reference.boxes, after.boxes), after.height - reference.height
        if reference is before and pair.same and (changes is None or changes or abs(grown) > GROWN):
            # Scripts may have laid it out by the viewport on which it came.
            before = reference = self._opened(pair.before, device)
            after = self._opened(pair.after, device)
            changes, grown = changes_of(reference.boxes, after.boxes), after.height - reference.height
        shift, after = least_shifting(
            reference, after, lambda: (self._opened(pair.before, device), self._opened(pair.after, device))
        )
        after = after.beside(before)
        loaded = {image.number for image in before.images if image.natural}
        broken = [image.named for image in after.images if not image.natural and image.url and image.number in loaded]
        text, at = read_text(pair.page.file.target).text, self.server.address + pair.after
        others, fetched = strayed(text, at, after, device, origin=pair.origin, dialect=pair.page.file.dialect)
        slow = device == self.devices[0]
        unheeded = after.woven_at(set_by_scripts(self.browser)) if slow else []
        times = fair_times(lambda: self._times(pair, device)) if slow else (None, None)
        old = {pair.seen_after(error.replace(pair.before, "")) for error in [*before.errors, *reference.errors]}
        errors = [error for error in after.errors if error.replace(pair.after, "") not in old]
        return Confirmed(
            pair.page.file.target, device, before, after, changes, grown, broken, errors, others, fetched, shift, times,
            unheeded,
        )  # fmt: skip

    def _opened(self, path: str, device: Device) -> PageState:
        return state_on(self.browser, self.server, path, device)

    def _times(self, pair: _Pair, device: Device) -> Times:
        before, after = (largest_on(self.browser, self.server, path, device) for path in (pair.before, pair.after))
        return before, after


def _shaped(pair: _Pair, device: Device, edition: Edition, texts: dict[str, bytes]) -> str | None:
    """The author's page with images of the shapes that the plan's crops have on a device; None if it asks for no other shape."""
    placed = list(blocks(pair.author, pair.page.file.dialect, mapped=pair.page.mapped))
    own = {id(block): one for block, one in zip(pair.page.blocks, placed, strict=False)}
    changes = []
    for ask in pair.page.asks:
        picture = edition.pictures.get((ask.slot, ask.key or ""))
        if picture is None or ask.fault or not _is_box(ask.block) or id(ask.block) not in own:
            continue
        shape = shape_of(picture, device)
        if shape is None:
            continue
        address, texts[shape[0]] = shape
        changes.append((own[id(ask.block)], _with_file(ask.block, address)))
    return replaced(pair.author, changes) if changes else None


def _is_box(block: Block) -> bool:
    """Tells whether the shape of a block's file may decide on that of a box."""
    return block.mention is None or block.mention.use == "single"


def _with_file(block: Block, address: str) -> str:
    """A block as its author wrote it, with another file; of a picture by hand the img alone."""
    tag = read_tag(block.tag, 0) if block.mention else None
    said = mention_of(tag) if tag else None
    if said:
        return f'{block.tag[: said.start]}{said.name}="{address}"{block.tag[said.end :]}'
    if block.picture:
        return f"{block.picture}{_with_src(block.image, address)}</picture>"
    return _with_src(block.tag, address)


def _with_src(tag_text: str, address: str) -> str:
    """An author's tag with another file, and no list."""
    tag = read_tag(tag_text, 0)
    if tag is None:
        return tag_text
    for one in reversed(tag.attributes):
        if one.name.lower() in ("src", "srcset", "sizes"):
            new = f'src="{address}"' if one.name.lower() == "src" else ""
            tag_text = tag_text[: one.start] + new + tag_text[one.end :]
    return tag_text
