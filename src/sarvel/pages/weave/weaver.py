"""Weaving: pages written with the markup for their images, or restored as their authors wrote them."""

from __future__ import annotations

import bisect
import re
from collections.abc import Container, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.html.master_attribute import MARK
from sarvel.core.html.tags import COMPONENT, line_and_column
from sarvel.core.markup.picture import Markup, write_markup
from sarvel.core.markup.preload import Preload, preloads
from sarvel.core.quoted import quoted
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page
from sarvel.pages.read.page_files import changes
from sarvel.pages.restore.blocks import Block, Span, blocks, replaced
from sarvel.pages.restore.component_tags import import_place
from sarvel.pages.restore.marks import DIGITS as MARK_DIGITS
from sarvel.pages.restore.preload_links import PreloadPlace
from sarvel.pages.restore.read_back import first_lost
from sarvel.pages.weave.component import component_tag
from sarvel.pages.weave.finished import finished
from sarvel.pages.weave.mention import Where, mention_woven
from sarvel.pages.weave.opening import opening, share_of_screens
from sarvel.pages.weave.output_address import Addresses
from sarvel.pages.weave.partials import partial_name
from sarvel.pages.weave.surroundings import UNKNOWN, Surroundings
from sarvel.pages.weave.write import has_words, render_block

_DAMAGED = Notice(
    Kind.IMAGE,
    "",
    "the markup around here is so damaged that the author's tag could not be restored",
    "close the open quote or tag; nothing of this page is woven",
)
_NO_XML = Notice(
    Kind.PAGE,
    "",
    "would no longer be well-formed XML; nothing of this page is woven",
    "look for a tag that is closed elsewhere",
)
_LEFT = Notice(
    Kind.IMAGE,
    "",
    "woven markup that cannot be read, and stays: it is in a comment, a script or a damaged tag",
    "mend that, or remove it",
)
_MARK = re.compile(rf"{MARK}[a-z-]*\s*=[^<>]{{0,500}}?#[0-9a-f]{{{MARK_DIGITS}}}\b", re.IGNORECASE)
_NO_LETTER = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")  # XML 1.0, section 2.2
_TWICE = Notice(Kind.IMAGE, "", "a second place for preload links", "one is enough, take this away")


@dataclass(frozen=True)
class Woven:
    """A page as weaving would leave it.

    Attributes:
        count: how many images of it are woven.
        faults: images that were not woven, with reason and place.
    """

    page: Page
    text: str
    count: int
    faults: tuple[Notice, ...]

    @property
    def before(self) -> bytes:
        """The bytes of the page when it was read."""
        return self.page.text.encoded(self.page.text.text)

    @property
    def content(self) -> bytes:
        """The bytes of the page after."""
        return self.page.text.encoded(self.text)

    def diff(self) -> str:
        """The changes of weaving, as a unified diff."""
        return changes(self.page.file.source, self.page.text.text, self.text)


def weave(
    page: Page,
    edition: Edition,
    addresses: Addresses,
    unmade: Container[tuple[str, str]],
    backgrounds: Mapping[str, str] | None,
    known: dict[tuple[Address, str, str], Markup],
    *,
    surroundings: Surroundings | None = None,
    leaves_alt: bool = False,
) -> Woven:
    """Puts the Edition's markup into a page. A tag that cannot be woven is not changed.

    Args:
        edition: composed from this and other pages.
        unmade: slot and master of pictures whose files are not all there: a page must not point at them.
        backgrounds: of placeholders, by key; None leaves them out of the markup.
        known: markup that was written before, by address, slot and master; more is put in.
        surroundings: of its images; None if nothing is known of the page's stylesheets.
        leaves_alt: whether images without words are woven all the same.
    """
    of_page = addresses.of_page(page.file.target, page.text.text, [block.src or "" for block in page.blocks])
    changes: list[tuple[Span, str]] = []
    faults: list[Notice] = []
    mentions: dict[Block, dict[str, tuple[Picture, Address]]] = {}
    first: list[Preload] = []
    opens = opening(page, edition)
    urgent = max(opens, key=lambda ask: share_of_screens(edition.pictures[ask.slot, ask.key or ""]), default=None)
    for ask in page.asks:
        picture = edition.pictures.get((ask.slot, ask.key or ""))
        if ask.fault or picture is None:
            faults += [ask.fault] if ask.fault else []  # a master that cannot be read has been told of already
            continue
        if problem := _unready(page, ask.block, picture, unmade, leaves_alt=leaves_alt):
            faults.append(problem.within(f"{page.file.source}:{ask.block.line}:{ask.block.column}"))
            continue
        address = (addresses.of_call(ask.said, ask.roots) if ask.said else None) or of_page
        if ask.block.mention:
            way = addresses.whole if ask.block.mention.use == "share" else address
            mentions.setdefault(ask.block, {})[ask.src or ""] = (picture, way)
            continue
        pair = (ask.slot, picture.master.key)
        if (address, *pair) not in known:
            known[address, *pair] = write_markup(picture, address, backgrounds)
        markup = known[address, *pair]
        markup = replace(markup.opening if ask in opens else markup, urgent=ask is urgent)
        call = _call(page, ask.block, picture, markup, addresses) if address == addresses.rooted else None
        around = surroundings.of(ask.block) if surroundings else UNKNOWN
        text = call or render_block(page.text.text, ask.block, markup, picture.alt, page.file.dialect, around)
        changes.append((ask.block, text))
        if ask is urgent:
            first = preloads(picture, address)
    changes += _mentions(page, mentions)
    count = len(changes)
    lost = _first_lost(page, changes)
    if lost:
        where = f"{page.file.source}:{lost.line}:{lost.column}"
        return Woven(page, page.text.text, 0, (*faults, _DAMAGED.within(where)))
    changes += [
        (one, one.woven(page.text.text, first, page.file.dialect)) for one in page.preload_places[:1] if not one.fault
    ]
    faults += _told(
        page, ((one, one.fault or (_TWICE if number else None)) for number, one in enumerate(page.preload_places))
    )
    text = _with_changes(page, changes, addresses)
    if page.file.dialect.name == "xhtml" and _is_xml(page.text.text) and not _is_xml(text):
        return Woven(page, page.text.text, 0, (*faults, _NO_XML.within(page.file.source)))
    return Woven(page, text, count, tuple(faults))


def _with_changes(page: Page, changes: list[tuple[Span, str]], addresses: Addresses) -> str:
    """The text of a page with its blocks replaced."""
    if not page.file.marked:
        changes = [(one, finished(new, page.file.dialect)) for one, new in changes]
    calls = any(f"<{COMPONENT}" in new for _, new in changes)
    text = replaced(page.text.text, changes)
    return _with_import(text, page, addresses.of_component(page.file.target) if calls else "")


def _call(page: Page, block: Block, picture: Picture, markup: Markup, addresses: Addresses) -> str | None:
    """The call of a component or partial that has the markup of an image; None where that cannot be."""
    dialect, partial = page.file.dialect, addresses.partial
    if addresses.component and dialect.camel:
        return component_tag(block, picture, markup, dialect)
    if partial and dialect.lines == "html":
        return partial.of(block.tag, block.alt, partial_name(picture.slot.name, picture.master.key, partial.ending))
    return None


def _with_import(text: str, page: Page, path: str = "") -> str:
    """The text with the line that imports the component; without it, if no tag calls that any more.

    Args:
        path: of the component, as the page imports it; "" removes the import.
    """
    dialect = page.file.dialect
    if not dialect.camel or COMPONENT not in text or (not path and f"<{COMPONENT}" in text):
        return text
    place = import_place(text, dialect)
    return replaced(text, [(place, place.woven(text, path, dialect) if path else "")])


def _is_xml(text: str) -> bool:
    """Tells whether a page is well-formed XML; entities that only its document type names are taken as known."""
    from xml.parsers.expat import ExpatError, ParserCreate

    parser = ParserCreate()
    parser.UseForeignDTD(True)
    try:
        parser.Parse(text, True)
    except ExpatError:
        return False
    return True


def _mentions(
    page: Page, mentions: Mapping[Block, Mapping[str, tuple[Picture, Address]]]
) -> Iterator[tuple[Span, str]]:
    """The blocks of mentions that change, each with its new text; see `mention_woven`."""
    has_home = any(_is_home_icon(block) for block in page.blocks)
    for block, pictures in mentions.items():
        where = Where(page.file.dialect, page.text.text[: block.start], has_home)
        if block.mention and (new := mention_woven(block.mention, pictures, where)) != block.tag:
            yield block, new


def _is_home_icon(block: Block) -> bool:
    """Tells whether a block is an icon for home screens that its author has written."""
    return bool(block.mention and block.mention.use == "icon" and "apple-touch-icon" in block.tag)


def _first_lost(page: Page, changes: list[tuple[Span, str]]) -> Block | None:
    """The first block that could not be restored; None if all can, or nothing changes."""
    text, file = page.text.text, page.file
    if all(text[one.start : one.end] == new for one, new in changes):
        return None
    return first_lost(text, page.blocks, replaced(text, changes), file.dialect, mapped=page.mapped)


def _unready(
    page: Page, block: Block, picture: Picture, unmade: Container[tuple[str, str]], *, leaves_alt: bool
) -> Notice | None:
    key = picture.master.key
    if block.mention is None and picture.alt is None and not leaves_alt and not has_words(block):
        what = "has no alt" if block.alt is None else f"its alt is a file name, '{block.alt.strip()}'"
        where = f"write it here or in the plan under [masters.{quoted(key)}]"
        return Notice(Kind.NO_ALT, "", what, f'{where}, alt = "" if it is decoration; or alt = "leave" under [site]')
    if (picture.slot.name, key) in unmade:
        what = f"the files of {key} for {picture.slot.name} are not made"
        return Notice(Kind.NOT_MADE, "", what, "run `sarvel render` first")
    if (
        page.file.dialect.name == "xhtml"
        and picture.alt
        and not has_words(block)
        and (found := _NO_LETTER.search(picture.alt))
    ):
        what = f"its alt, under [masters.{quoted(key)}] in the plan, holds {found.group()!r}, which XML cannot"
        return Notice(Kind.IMAGE, "", what, "take it out")
    return None


def unweave(page: Page) -> Woven:
    """The page with its author's tags back."""
    text = page.text.text
    found = (
        page.blocks if page.mapped else tuple(blocks(text, page.file.dialect, mapped=True))
    )  # the plan may ask for less now
    images = [(one, one.tag) for one in found if not one.fault and text[one.start : one.end] != one.tag]
    links = [(one, one.tag) for one in page.preload_places if text[one.start : one.end] != one.tag and not one.fault]
    faults = [
        *_broken(page, found),
        *_told(page, ((one, one.fault) for one in page.preload_places)),
        *_left(page, found),
    ]
    restored = _with_import(replaced(text, [*images, *links]), page)
    return Woven(page, restored, len(images), tuple(faults))


def _left(page: Page, blocks_: Iterable[Block]) -> Iterator[Notice]:
    """Faults of woven markup that is in no block that can be read."""
    text, found = page.text.text, sorted((block.start, block.end) for block in blocks_)
    for mark in _MARK.finditer(text):
        at = bisect.bisect_right(found, (mark.start(), len(text))) - 1
        if at < 0 or mark.start() >= found[at][1]:
            line, column = line_and_column(text, mark.start())
            yield _LEFT.within(f"{page.file.source}:{line}:{column}")


def _broken(page: Page, blocks_: Iterable[Block]) -> Iterator[Notice]:
    """Faults of images that are woven and cannot be restored."""
    text = page.text.text
    return (
        one.fault.within(f"{page.file.source}:{one.line}:{one.column}")
        for one in blocks_
        if one.fault and MARK in text[one.start : one.end]
    )


def _told(page: Page, places: Iterable[tuple[PreloadPlace, Notice | None]]) -> Iterator[Notice]:
    """Faults of places for preload links, each with its place in front."""
    return (fault.within(f"{page.file.source}:{place.line}:{place.column}") for place, fault in places if fault)
