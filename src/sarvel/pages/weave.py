"""Weaving: pages read for what they ask, and written with what the Edition answers."""

from __future__ import annotations

import functools
from collections.abc import Container, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.edition import Edition, Picture
from sarvel.core.html.markup import write_markup
from sarvel.pages.blocks import Block, blocks, replaced, woven
from sarvel.pages.files import PageFile, Text, master_named, read_page


@dataclass(frozen=True)
class Ask:
    """One image that a page asks for.

    Attributes:
        block: where, and in which words.
        key: the master that it means; None if it names none.
        fault: why it cannot be woven, with its place in front; "" if it can.
    """

    block: Block
    key: str | None
    fault: str


@dataclass(frozen=True)
class Page:
    """A page, read.

    Attributes:
        place: its file and where it goes.
        text: its text.
        asks: the images that it asks for, in order.
    """

    place: PageFile
    text: Text
    asks: tuple[Ask, ...]


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


def read_asks(place: PageFile, slots: Container[str], plan_folder: Path, masters_folder: Path) -> Page:
    """Reads a page and what it asks for.

    Args:
        place: the page.
        slots: names of the plan's slots.
        plan_folder: the folder of the plan.
        masters_folder: the folder of masters.

    Raises:
        PageError: it cannot be read.
    """
    text = read_page(place.file)
    asks = []
    named = functools.cache(lambda src: master_named(src, place.file, plan_folder, masters_folder))
    for block in blocks(text.text):
        key = named(block.src) if block.src else None
        problem = block.fault or _problem(block, key, slots)
        fault = f"{place.file}:{block.line}:{block.column}: {problem}" if problem else ""
        asks.append(Ask(block, key, fault))
    return Page(place, text, tuple(asks))


def _problem(block: Block, key: str | None, slots: Container[str]) -> str:
    if block.slot not in slots:
        return (
            f"no slot '{block.slot}' in the plan; write [slots.{block.slot or 'NAME'}] there, or mend data-sarvel here"
        )
    if key is None:
        return "names no master; write src with the path of a file in the masters folder"
    return ""


def weave(
    page: Page,
    edition: Edition,
    address: str,
    unmade: Container[tuple[str, str]],
    backgrounds: Mapping[str, str] | None,
) -> Woven:
    """Puts the Edition's markup into a page. What cannot be woven stays as it is.

    Args:
        page: the page.
        edition: what was composed from this and other pages.
        address: how pages reach the folder of renditions.
        unmade: slot and master of pictures whose files are not all there: a page must not point at them.
        backgrounds: of placeholders, by key; None leaves them out of the markup.
    """
    changes: list[tuple[Block, str]] = []
    faults: list[str] = []
    for ask in page.asks:
        picture = edition.pictures.get((ask.block.slot, ask.key or ""))
        if ask.fault or picture is None:
            faults += [ask.fault] if ask.fault else []  # a master that cannot be read has been told of already
            continue
        if problem := _unready(ask.block, picture, unmade):
            faults.append(f"{page.place.file}:{ask.block.line}:{ask.block.column}: {problem}")
            continue
        markup = write_markup(picture, address, backgrounds)
        changes.append((ask.block, woven(page.text.text, ask.block, markup, picture.alt)))
    return Woven(page, replaced(page.text.text, changes), len(changes), tuple(faults))


def _unready(block: Block, picture: Picture, unmade: Container[tuple[str, str]]) -> str:
    key = picture.master.key
    if not block.alt and picture.alt is None:
        return f'has no alt; write it here or in the plan under [masters."{key}"], alt = "" if it is decoration'
    if (picture.slot.name, key) in unmade:
        return f"the files of {key} for {picture.slot.name} are not made; run `sarvel render` first"
    return ""


def unweave(page: Page) -> Woven:
    """The page with its author's tags back."""
    changes = [(ask.block, ask.block.tag) for ask in page.asks if not ask.block.fault]
    kept = [(block, tag) for block, tag in changes if page.text.text[block.start : block.end] != tag]
    return Woven(page, replaced(page.text.text, kept), len(kept), tuple(_broken(page)))


def _broken(page: Page) -> Iterator[str]:
    return (ask.fault for ask in page.asks if ask.block.fault)
