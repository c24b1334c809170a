"""Weaving: pages read for what they ask, and written with what the Edition answers."""

from __future__ import annotations

import functools
import re
from collections.abc import Container, Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.edition import Edition, Picture
from sarvel.core.html.code import holds_code
from sarvel.core.html.dialect import Dialect
from sarvel.core.html.images import names_a_file
from sarvel.core.html.markup import Markup, write_markup
from sarvel.core.html.preload import preloads
from sarvel.core.html.tags import read_tag
from sarvel.core.plan import Slot
from sarvel.pages.at_hand import is_file
from sarvel.pages.blocks import Block, Place, blocks, first_lost, replaced
from sarvel.pages.files import PageFile, Text, master_named, read_page
from sarvel.pages.head import Head, heads
from sarvel.pages.written import woven

_BOUND_SRC = re.compile(r"\s(?::|v-bind:)src\s*=", re.IGNORECASE)
_DAMAGED = (
    "the markup around here is so damaged that the author's tag could not be given back; close what is open, a quote "
    "or a tag; nothing of this page is woven"
)
_TWICE = "a second place for preload links; one is enough, take this away"


@dataclass(frozen=True)
class Ask:
    """One image that a page asks for.

    Attributes:
        block: where, and in which words.
        slot: the slot that it is for.
        key: the master that it means; None if it names none.
        fault: why it cannot be woven, with its place in front; "" if it can.
    """

    block: Block
    slot: str
    key: str | None
    fault: str


@dataclass(frozen=True)
class Page:
    """A page, read.

    Attributes:
        place: its file and where it goes.
        text: its text.
        asks: the images that it asks for, in order.
        blocks: all images that could be asked for.
        heads: where it wants preload links.
        mapped: whether images that name no slot may be asked for, too.
    """

    place: PageFile
    text: Text
    asks: tuple[Ask, ...]
    blocks: tuple[Block, ...] = ()
    heads: tuple[Head, ...] = ()
    mapped: bool = False


@dataclass(frozen=True)
class Woven:
    """A page as weaving would leave it.

    Attributes:
        page: the page before.
        text: its text after.
        count: how many images of it are woven.
        faults: what could not be woven and why, each with its place.
    """

    page: Page
    text: str
    count: int
    faults: tuple[str, ...]

    @property
    def before(self) -> bytes:
        """The bytes of the page when it was read."""
        return self.page.text.encoded(self.page.text.text)

    @property
    def content(self) -> bytes:
        """The bytes of the page after."""
        return self.page.text.encoded(self.text)

    def diff(self) -> str:
        """What weaving changes, as a unified diff."""
        import difflib  # noqa: PLC0415 - only --diff needs it

        name = str(self.page.place.file)
        before, after = (text.splitlines(keepends=True) for text in (self.page.text.text, self.text))
        return "".join(
            line if line.endswith("\n") else line + "\n" for line in difflib.unified_diff(before, after, name, name)
        )


def read_asks(place: PageFile, slots: Mapping[str, Slot], plan_folder: Path, masters_folder: Path) -> Page:
    """Reads a page and what it asks for.

    Args:
        place: the page.
        slots: the plan's slots, by name.
        plan_folder: the folder of the plan.
        masters_folder: the folder of masters.

    Raises:
        PageError: it cannot be read.
    """
    text = read_page(place.file)
    asks = []
    named = functools.cache(lambda src: master_named(src, place.file, plan_folder, masters_folder))
    mapped = place.slot is not None or any(slot.takes for slot in slots.values())
    found = tuple(blocks(text.text, place.dialect, mapped=mapped))
    for block in found:
        theirs = (_taken(block, slots, place.dialect) or place.slot) if block.slot is None else block.slot
        key = named(block.src) if block.src else None
        if block.slot is None and not block.fault and (theirs is None or not _is_master(block, key, masters_folder)):
            continue  # an image from elsewhere, which nobody asked us to look after
        slot = theirs or ""
        problem = block.fault or _problem(block, slot, key, slots)
        fault = f"{place.file}:{block.line}:{block.column}: {problem}" if problem else ""
        asks.append(Ask(block, slot, key, fault))
    return Page(place, text, tuple(asks), found, tuple(heads(text.text, place.dialect)), mapped)


def _taken(block: Block, slots: Mapping[str, Slot], dialect: Dialect) -> str | None:
    """The first slot that takes an image which names none."""
    taking = [slot for slot in slots.values() if slot.takes]
    tag = read_tag(block.image, 0, dialect.code) if taking and not block.fault else None
    return next((slot.name for slot in taking if tag and any(one.matches(tag) for one in slot.takes)), None)


def _is_master(block: Block, key: str | None, masters_folder: Path) -> bool:
    """Whether an image that names no slot points into the masters folder, or at what is there seen from within it."""
    return key is not None and (key != block.src or is_file(masters_folder / key))


def _problem(block: Block, slot: str, key: str | None, slots: Container[str]) -> str:
    if slot not in slots:
        return f"no slot '{slot}' in the plan; write [slots.{slot or 'NAME'}] there, or mend data-sarvel here"
    if holds_code(block.src or "") or (block.src is None and _BOUND_SRC.search(block.tag)):
        return "only the template engine knows its master; include a partial here (see [partials] in the plan)"
    if key is None:
        return "names no master; write src with the path of a file in the masters folder"
    return ""


def weave(
    page: Page,
    edition: Edition,
    address: str,
    unmade: Container[tuple[str, str]],
    backgrounds: Mapping[str, str] | None,
    known: dict[tuple[str, str], Markup],
) -> Woven:
    """Puts the Edition's markup into a page. What cannot be woven stays as it is.

    Args:
        page: the page.
        edition: what was composed from this and other pages.
        address: how pages reach the folder of renditions.
        unmade: slot and master of pictures whose files are not all there: a page must not point at them.
        backgrounds: of placeholders, by key; None leaves them out of the markup.
        known: markup that was written before, by slot and master; more is put in.
    """
    changes: list[tuple[Place, str]] = []
    faults: list[str] = []
    first: dict[tuple[str, str], Picture] = {}
    for ask in page.asks:
        picture = edition.pictures.get((ask.slot, ask.key or ""))
        if ask.fault or picture is None:
            faults += [ask.fault] if ask.fault else []  # a master that cannot be read has been told of already
            continue
        if problem := _unready(ask.block, picture, unmade):
            faults.append(f"{page.place.file}:{ask.block.line}:{ask.block.column}: {problem}")
            continue
        pair = (ask.slot, picture.master.key)
        if pair not in known:
            known[pair] = write_markup(picture, address, backgrounds)
        changes.append((ask.block, woven(page.text.text, ask.block, known[pair], picture.alt, page.place.dialect)))
        if picture.slot.load == "first":
            first[pair] = picture
    count = len(changes)
    lost = _first_lost(page, changes)
    if lost:
        where = f"{page.place.file}:{lost.line}:{lost.column}"
        return Woven(page, page.text.text, 0, (*faults, f"{where}: {_DAMAGED}"))
    links = [link for picture in first.values() for link in preloads(picture, address)]
    changes += [(one, one.woven(page.text.text, links, page.place.dialect)) for one in page.heads[:1] if not one.fault]
    faults += _told(page, ((one, one.fault or (_TWICE if number else "")) for number, one in enumerate(page.heads)))
    return Woven(page, replaced(page.text.text, changes), count, tuple(faults))


def _first_lost(page: Page, changes: list[tuple[Place, str]]) -> Block | None:
    """The first block that could not be given back; nobody need look where nothing changes."""
    text, place = page.text.text, page.place
    if all(text[one.start : one.end] == new for one, new in changes):
        return None
    return first_lost(text, page.blocks, replaced(text, changes), place.dialect, mapped=page.mapped)


def _unready(block: Block, picture: Picture, unmade: Container[tuple[str, str]]) -> str:
    key = picture.master.key
    if block.alt is not None and names_a_file(block.alt, block.src or ""):
        return f"its alt is a file name, '{block.alt.strip()}'; say what the picture shows, or alt=\"\" if it is decoration"
    if block.alt is None and picture.alt is None:
        return f'has no alt; write it here or in the plan under [masters."{key}"], alt = "" if it is decoration'
    if (picture.slot.name, key) in unmade:
        return f"the files of {key} for {picture.slot.name} are not made; run `sarvel render` first"
    return ""


def unweave(page: Page) -> Woven:
    """The page with its author's tags back."""
    text = page.text.text
    blocks_ = [(ask.block, ask.block.tag) for ask in page.asks if not ask.block.fault]
    images = [(block, tag) for block, tag in blocks_ if text[block.start : block.end] != tag]
    links = [(one, one.tag) for one in page.heads if text[one.start : one.end] != one.tag and not one.fault]
    return Woven(
        page,
        replaced(text, [*images, *links]),
        len(images),
        (*_broken(page), *_told(page, ((one, one.fault) for one in page.heads))),
    )


def _broken(page: Page) -> Iterator[str]:
    return (ask.fault for ask in page.asks if ask.block.fault)


def _told(page: Page, heads: Iterable[tuple[Head, str]]) -> Iterator[str]:
    """Faults of places for preload links, each with its place in front."""
    return (f"{page.place.file}:{head.line}:{head.column}: {fault}" for head, fault in heads if fault)
