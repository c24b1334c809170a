"""Asks: images of a page that name a slot, or that the plan has a slot for."""

from __future__ import annotations

import difflib
import functools
import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.base import base_path
from sarvel.core.html.dialect import DIALECTS, Dialect
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
_DRAWINGS = (".svg", ".svgz")  # in vectors: sharp at any width from one file


@dataclass(frozen=True)
class Ask:
    """One image that a page asks for.

    Attributes:
        block: where, and in which words.
        slot: the slot that it is for.
        key: the master that it means; None if it names none.
        fault: why it cannot be woven; None if it can.
        said: the words that name the master; None if they name none.
        roots: the folders that these may see files from, the likeliest first.
    """

    block: Block
    slot: str
    key: str | None
    fault: Notice | None
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
    """

    file: PageFile
    text: PageText
    asks: tuple[Ask, ...]
    blocks: tuple[Block, ...] = ()
    preload_places: tuple[PreloadPlace, ...] = ()
    mapped: bool = False
    notes: tuple[Notice, ...] = ()

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
    asks: list[Ask] = []
    notes: list[Notice] = []
    based = _based(text.text, file.source, project.tops)
    named = functools.cache(lambda said: master_named(said, file.source, project, masters_folder, based))
    mapped = file.slot is not None or any(slot.selectors for slot in slots.values())
    found = tuple(blocks(text.text, file.dialect, mapped=mapped))
    scripts = setters(file.source, text.text, project) if found and "<script" in text.text else []
    around = _around(text.text, file.dialect, found, slots, scripts)
    for block in found:
        mapped_to = file.slot if block.style is None else None
        theirs = (
            (_taken(block, slots, file.dialect, around.get(block.start, ())) or mapped_to)
            if block.slot is None
            else block.slot
        )
        said = expression(block.src, text.text) if block.src else None
        said = project.seen(said, file.source.parent) if said else None
        key = named(said) if said else None
        if key and block.slot is None and said and said.form != "address" and not is_file(masters_folder / key):
            continue  # a template's call may amount to any address, and no one asked us to look after this one
        if block.slot is None and not block.fault and (theirs is None or not _is_master(block, key, masters_folder)):
            continue  # an image from elsewhere, which no one asked us to look after
        if key and key.lower().endswith(_DRAWINGS) and not block.fault:
            continue
        slot = theirs or ""
        taken = _by_script(block, scripts, file.dialect, around.get(block.start, ()))
        if taken and block.slot is None and not block.fault:
            notes.append(replace(taken.within(f"{file.source}:{block.line}:{block.column}"), severity="note"))
            continue
        problem = block.fault or taken or _problem(block, slot, key, slots)
        fault = problem.within(f"{file.source}:{block.line}:{block.column}") if problem else None
        roots = project.roots_for(said, masters_folder / key) if said and said.form == "call" and key else ()
        asks.append(Ask(block, slot, key, fault, said, roots))
    return Page(file, text, tuple(asks), found, tuple(preload_places(text.text, file.dialect)), mapped, tuple(notes))


def _by_script(block: Block, scripts: Sequence[Setter], dialect: Dialect, ancestors: Sequence[Tag]) -> Notice | None:
    """Why an image is left to a script of its page; None if it is not."""
    tag = read_tag(block.image, 0, dialect.code) if block.style is None and not block.fault else None
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
    """The first slot that takes an image which names none."""
    taking = [slot for slot in slots.values() if slot.selectors and slot.background == (block.style is not None)]
    tag = read_tag(block.image, 0, dialect.code) if taking and not block.fault else None
    return next(
        (slot.name for slot in taking if tag and any(one.matches(tag, ancestors) for one in slot.selectors)), None
    )


def _is_master(block: Block, key: str | None, masters_folder: Path) -> bool:
    """Tells whether an image that names no slot points into the masters folder, or to a file seen from within it."""
    return key is not None and (key != block.src or is_file(masters_folder / key))


def _problem(block: Block, slot: str, key: str | None, slots: Collection[str]) -> Notice | None:
    if slot not in slots:
        if not slot:
            return Notice(Kind.IMAGE, "", "names no slot", f"write one in data-sarvel: {', '.join(slots)}")
        near = difflib.get_close_matches(slot, slots, n=1)
        meant = f"did you mean {near[0]}? Else " if near else ""
        cure = f"{meant}write [slots.{slot}] there, or mend data-sarvel here"
        return Notice(Kind.IMAGE, "", f"no slot '{slot}' in the plan", cure)
    if key is None and (holds_code(block.src or "") or (block.src is None and _BOUND_SRC.search(block.tag))):
        return Notice(Kind.IMAGE, "", UNTOLD, UNTOLD_CURE)
    if key is None:
        return Notice(Kind.IMAGE, "", "names no master", "write src with the path of a file in the masters folder")
    return None
