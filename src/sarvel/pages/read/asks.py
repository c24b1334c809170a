"""Asks: images of a page that name a slot, or that the plan has a slot for."""

from __future__ import annotations

import difflib
import functools
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.base import base_path
from sarvel.core.html.dialect import DIALECTS, Dialect
from sarvel.core.html.mentions import Use
from sarvel.core.html.selector import Selector
from sarvel.core.html.tags import Tag, read_tag
from sarvel.core.html.template_code import holds_code
from sarvel.core.model import Slot
from sarvel.notices import Kind, Notice
from sarvel.pages.read.expression import UNTOLD, UNTOLD_CURE, Expression, expression
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import PageFile, PageText, master_named, read_text
from sarvel.pages.read.project import Project
from sarvel.pages.read.setters import LAZY, Setter, setters
from sarvel.pages.restore.blocks import Block, blocks
from sarvel.pages.restore.preload_links import PreloadPlace, preload_places

_BOUND_SRC = re.compile(r"\s(?::|v-bind:)src\s*=|\s\{src\}", re.IGNORECASE)


_HEAD = 2000  # letters in which a page says that it is XML
# HTML that is also XML stays well-formed, under any file name.
_XHTML = re.compile(
    r"""\A\s*<\?xml\b|<html\b[^<>]*\sxmlns\s*=\s*["']http://www\.w3\.org/1999/xhtml["']""", re.IGNORECASE
)
_BY_NAME = {"picture", "background"}  # uses for which an element names a slot, or a selector matches it
_ICON = ".ico"  # holds all its sizes already
_DRAWINGS = (".svg", ".svgz")  # in vectors: sharp at any width from one file


@dataclass(frozen=True)
class Ask:
    """One image that a page asks for.

    Attributes:
        block: where, and in which words.
        slot: the slot that it is for.
        key: the master that it means; None if it names none.
        fault: why it cannot be woven; None if it can.
        src: what names the master, as its author wrote it.
        said: the words that name the master; None if they name none.
        roots: the folders that these may see files from, the likeliest first.
    """

    block: Block
    slot: str
    key: str | None
    fault: Notice | None
    src: str | None = None
    said: Expression | None = None
    roots: tuple[Path, ...] = ()


@dataclass(frozen=True)
class Page:
    """A page, read.

    Attributes:
        file: the author's file, and its target.
        asks: the images that it asks for, in order.
        blocks: all images that could be asked for.
        mapped: whether images that name no slot may be asked for, too.
        notes: images that are left to scripts.
        drawings: masters in vectors, which stay as they are.
    """

    file: PageFile
    text: PageText
    asks: tuple[Ask, ...]
    blocks: tuple[Block, ...] = ()
    preload_places: tuple[PreloadPlace, ...] = ()
    mapped: bool = False
    notes: tuple[Notice, ...] = ()
    drawings: tuple[str, ...] = ()

    @functools.cached_property
    def ancestors(self) -> Mapping[int, tuple[Tag, ...]]:
        """The start tags that are open at each of its blocks, from the outside inwards, by where the block begins."""
        return ancestors_of(self.text.text, self.file.dialect, [block.start for block in self.blocks])


def read_page(file: PageFile, slots: Mapping[str, Slot], project: Project, masters_folder: Path) -> Page:
    """Reads a page and the images that it asks for.

    Args:
        slots: the plan's slots, by name.

    Raises:
        PageError: it cannot be read.
    """
    return page_of(file, read_text(file.source), slots, project, masters_folder)


def page_of(file: PageFile, text: PageText, slots: Mapping[str, Slot], project: Project, masters_folder: Path) -> Page:
    """A page with some text, and the images that it asks for; like `read_page`."""
    if file.dialect.name in ("html", "php") and _XHTML.search(text.text, 0, _HEAD):
        file = replace(file, dialect=DIALECTS["xhtml"])
    mapped = file.slot is not None or any(slot.selectors or slot.use not in _BY_NAME for slot in slots.values())
    found = tuple(blocks(text.text, file.dialect, mapped=mapped))
    reading = _Reading(file, text.text, found, slots, project, masters_folder)
    for block in found:
        if _use(block) != "link":
            reading.ask(block)
    for block in found:  # the images in them are known now
        if _use(block) == "link":
            reading.ask(block)
    asks = sorted(reading.asks, key=lambda ask: ask.block.start)
    places = tuple(preload_places(text.text, file.dialect))
    drawings = tuple(dict.fromkeys(reading.drawings))
    return Page(file, text, tuple(asks), found, places, mapped, tuple(reading.notes), drawings)


class _Reading:
    """The reading of a page's asks, a block at a time.

    Attributes:
        asks: the asks so far.
        drawings: masters in vectors that were named so far.
        notes: images that are left to scripts.
    """

    def __init__(
        self,
        file: PageFile,
        text: str,
        found: Sequence[Block],
        slots: Mapping[str, Slot],
        project: Project,
        masters_folder: Path,
    ) -> None:
        self.asks: list[Ask] = []
        self.drawings: list[str] = []
        self.notes: list[Notice] = []
        self._file, self._text, self._slots = file, text, slots
        self._project, self._masters = project, masters_folder
        based = _based(text, file.source, project.tops)
        self._named = functools.cache(lambda said: master_named(said, file.source, project, masters_folder, based))
        self._scripts = setters(file.source, text, project) if found and "<script" in text else []
        self._around = _around(text, file.dialect, found, slots, self._scripts)

    def ask(self, block: Block) -> None:
        """Adds what a block asks for."""
        for src in block.mention.urls if block.mention else (block.src,):
            self._ask(block, src)

    def _ask(self, block: Block, src: str | None) -> None:
        theirs = self._slot(block) if block.slot is None else block.slot
        said = expression(self._project.from_root(src), self._text) if src else None
        said = self._project.seen(said, self._file.source.parent) if said else None
        key = self._named(said) if said else None
        if key and block.slot is None and said and said.form != "address" and not is_file(self._masters / key):
            return  # a template's call may amount to any address, and no one asked us to look after this one
        if block.slot is None and not block.fault and (theirs is None or not _is_master(src, key, self._masters)):
            return  # an image from elsewhere, which no one asked us to look after
        if key and key.lower().endswith((*_DRAWINGS, _ICON)) and not block.fault:
            self.drawings += [] if key.lower().endswith(_ICON) else [key]
            return
        place = f"{self._file.source}:{block.line}:{block.column}"
        slot = theirs or ""
        taken = _by_script(block, self._scripts, self._file.dialect, self._around.get(block.start, ()))
        if taken and block.slot is None and not block.fault:
            self.notes.append(replace(taken.within(place), severity="note"))
            return
        problem = block.fault or taken or _problem(block, src, slot, key, self._slots)
        fault = problem.within(place) if problem else None
        is_call = said and said.form == "call" and key
        roots = self._project.roots_for(said, self._masters / key) if is_call and said and key else ()
        self.asks.append(Ask(block, slot, key, fault, src, said, roots))

    def _slot(self, block: Block) -> str | None:
        """The slot of a block that names none: of a link that of the image in it, if that has one; else one that takes it."""
        if block.mention:
            start, end = block.mention.around
            inside = (ask for ask in self.asks if start <= ask.block.start < end)
            slot = next((self._slots[ask.slot] for ask in inside if ask.slot in self._slots), None)
            if slot and slot.links:
                return slot.links
        mapped_to = self._file.slot if block.mention is None and not block.picture else None
        return _taken(block, self._slots, self._file.dialect, self._around.get(block.start, ())) or mapped_to


def _use(block: Block) -> Use:
    return block.mention.use if block.mention else "picture"


def _by_script(block: Block, scripts: Sequence[Setter], dialect: Dialect, ancestors: Sequence[Tag]) -> Notice | None:
    """Why an image is left to a script of its page; None if it is not."""
    tag = read_tag(block.image, 0, dialect.code) if block.mention is None and not block.fault else None
    if tag is None:
        return None
    if block.slot is None and (lazy := next((name for name in LAZY if tag.get(name)), "")):
        return Notice(
            Kind.IMAGE, "", f"is left to the script that reads its {lazy}", "write data-sarvel on it to have it woven"
        )
    found = next((one for one in scripts if one.means(tag, ancestors)), None)
    what = f"is left alone: {found.place} sets its src, which does nothing to an image with srcset" if found else ""
    return Notice(Kind.IMAGE, "", what, "have the script set srcset, too") if found else None


def _based(text: str, page: Path, tops: Sequence[Path]) -> list[Path]:
    """The folders that relative addresses of a page may be seen from, as its base element has it."""
    base = base_path(text)
    if base is None:
        return []
    folder = base.rpartition("/")[0]
    return [top / folder.lstrip("/") for top in tops] if base.startswith("/") else [page.parent / folder]


def _around(
    text: str, dialect: Dialect, found: Sequence[Block], slots: Mapping[str, Slot], scripts: Sequence[Setter]
) -> Mapping[int, tuple[Tag, ...]]:
    """What images that name no slot are in, by their start, if a slot asks for it."""
    asked = any(selector.around for slot in slots.values() for selector in slot.selectors)
    scripted = any(selector.around for one in scripts for selector in one.selectors)
    wanted = [one.start for one in found if scripted or one.slot is None]
    return ancestors_of(text, dialect, wanted) if asked or scripted else {}


def _taken(block: Block, slots: Mapping[str, Slot], dialect: Dialect, ancestors: Sequence[Tag]) -> str | None:
    """The first slot that takes an image which names none: one with a selector of it, else one that takes all of its use."""
    own = [slot for slot in slots.values() if slot.use == _use(block)]
    selecting = [slot for slot in own if slot.selectors]
    tag = read_tag(block.image, 0, dialect.code) if selecting and not block.fault else None
    picture = read_tag(block.picture, 0, dialect.code) if block.picture else None
    around = (*ancestors, *([picture] if picture else []))
    found = next(
        (
            slot
            for slot in selecting
            if tag
            and any(one.matches(tag, around) and (not picture or _is_for_pictures(one)) for one in slot.selectors)
        ),
        None,
    )
    linked = {slot.links for slot in slots.values()}
    general = (one for one in own if not one.selectors and one.use not in _BY_NAME and one.name not in linked)
    found = found or next(general, None)
    return found.name if found else None


def _is_for_pictures(selector: Selector) -> bool:
    """Tells whether a selector means images in pictures by hand, whose art direction else is the author's."""
    return any(one.type == "picture" for one in selector.around)


def _is_master(src: str | None, key: str | None, masters_folder: Path) -> bool:
    """Tells whether an image that names no slot points into the masters folder, or to a file seen from within it."""
    return key is not None and (key != src or is_file(masters_folder / key))


def _problem(block: Block, src: str | None, slot: str, key: str | None, slots: Mapping[str, Slot]) -> Notice | None:
    if slot not in slots:
        if not slot:
            return Notice(Kind.IMAGE, "", "names no slot", f"write one in data-sarvel: {', '.join(slots)}")
        near = difflib.get_close_matches(slot, slots, n=1)
        meant = f"did you mean {near[0]}? Else " if near else ""
        cure = f"{meant}write [slots.{slot}] there, or mend data-sarvel here"
        return Notice(Kind.IMAGE, "", f"no slot '{slot}' in the plan", cure)
    if slots[slot].use != _use(block) and not {slots[slot].use, _use(block)} <= _BY_NAME:
        what = f'names slot {slot}, which is for use = "{slots[slot].use}"'
        return Notice(Kind.IMAGE, "", what, f'name a slot with use = "{_use(block)}"')
    if key is None and (holds_code(src or "") or (src is None and _BOUND_SRC.search(block.tag))):
        return Notice(Kind.IMAGE, "", UNTOLD, UNTOLD_CURE)
    if key is None:
        return Notice(Kind.IMAGE, "", "names no master", "write src with the path of a file in the masters folder")
    return None
