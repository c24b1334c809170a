"""Styles of elements of a page, as far as stylesheets at hand tell: which rules mean an element, and which of them wins.

The tree of a page is html5lib's, selectors are matched by cssselect2; only places in the page's text are ours.
"""

from __future__ import annotations

import contextlib
import copy
import functools
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import TYPE_CHECKING, TypeAlias

from sarvel.core.css.device import Device
from sarvel.core.css.media import parse_media
from sarvel.core.css.sheet import Declaration, Sheet, declarations_of, read_sheet
from sarvel.core.html.document import Document, PictureElement, value_of
from sarvel.core.html.lone_element import TOO_DEEP, Names, lone, means, names_in, reaches
from sarvel.core.html.sheet_rules import BOX, Numbered, SheetRules, Weight, is_one_of, physical, rules_of
from sarvel.core.html.tags import Tag

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

    from cssselect2 import ElementWrapper

_PLACE = "data-sarvel-place"  # of tags, while a tree is made
_FONTS = re.compile(r"font|icon", re.IGNORECASE)  # an address of a sheet that only brings type, or icons as type
SheetLookup: TypeAlias = Callable[[str], Sheet | None]
"""Takes the address of a stylesheet; returns it, or None if it is not at hand."""


@dataclass(frozen=True)
class _Rule:
    """A declaration that means an element, and its rank in the cascade (CSS Cascading 4, section 6.1)."""

    declaration: Declaration
    rank: tuple[bool, bool, Weight, tuple[int, int]]


@dataclass(frozen=True)
class DeclaredBox:
    """An element as a device shows it.

    Attributes:
        name: its name, in lower case.
        alone: whether it is all that is in its parent.
    """

    name: str
    values: Mapping[str, str]
    alone: bool


@functools.lru_cache(maxsize=64)
def _under(sheet: Sheet | None, media: str | None) -> Sheet | None:
    """A stylesheet with the media queries of what links to it around its rules."""
    if sheet is None or not media or media.strip().lower() in ("all", "screen"):
        return sheet
    return replace(sheet, declarations=tuple(replace(one, media=(media, *one.media)) for one in sheet.declarations))


class PageStyles:
    """Styles of some elements of a page. Its tree and its stylesheets are read once something is asked."""

    def __init__(self, page: Document, tags: Iterable[Tag], sheets: SheetLookup) -> None:
        """Prepares to read.

        Args:
            tags: the elements that will be asked for.
        """
        self._page, self._tags, self._lookup = page, tuple(tags), sheets
        self._known: dict[Element, Sequence[_Rule]] = {}
        self._boxes: dict[tuple[int, frozenset[str]], Sequence[_Rule]] = {}
        self._winners: dict[object, tuple[set[str], dict[frozenset[str], Mapping[str, str]]]] = {}

    @functools.cached_property
    def _found(self) -> Sequence[tuple[str, Sheet | None]]:
        """The stylesheets of the page in order, each with its address."""
        page = self._page
        linked = [(link, value_of(link, "href") or "") for link in page.links if link.name == "link"]
        wanted = set(page.sheets)
        found = [
            (link.start, address, _under(self._lookup(address), value_of(link, "media")))
            for link, address in linked
            if address in wanted
        ]
        found += [(start, "", read_sheet(css)) for start, css in page.styles]
        return [(address, sheet) for _, address, sheet in sorted(found, key=lambda one: one[0])]

    @functools.cached_property
    def declarations(self) -> Sequence[Declaration]:
        """All declarations of all stylesheets at hand, in order."""
        return [one for _, sheet in self._found if sheet for one in sheet.declarations]

    @functools.cached_property
    def complete(self) -> bool:
        """Tells whether all stylesheets are at hand; sheets that only bring fonts or icons do not count.

        Of a part of a page, which names none, it is not known what the whole will have.
        """
        if not (self._page.whole or self._found):
            return False
        unknown = [address for address, sheet in self._found if sheet is None]
        unknown += [address for _, sheet in self._found if sheet for address in sheet.imports]
        return all(map(_FONTS.search, unknown)) and not self._page.code_in_head

    def values(self, tag: Tag, device: Device, properties: frozenset[str] = BOX) -> Mapping[str, str]:
        """The values that win on a device, of the properties of its box that a rule or its style attribute sets.

        It is the same object on all devices on which the same rules hold.

        Args:
            properties: the ones that are asked for: of few, the tree of the page tells more seldom.
        """
        return self._winning((tag.start, properties), self._box_rules(tag, properties), device)

    def may_set(self, tag: Tag, name: str) -> bool:
        """Tells whether some rule, under any condition, sets a property of its box."""
        return bool(self._box_rules(tag, frozenset({name})))

    def _box_rules(self, tag: Tag, properties: frozenset[str]) -> Sequence[_Rule]:
        """The rules for some properties of an element's box, the weakest first; the tree is read only if it matters."""
        known = self._boxes.get((tag.start, properties))
        if known is None:
            known = self._told_alone(tag, properties)
            if known is None:
                element = self._elements.get(tag.start)
                rules = self._rules_of(element) if element is not None else ()
                known = [rule for rule in rules if is_one_of(rule.declaration, properties)]
            self._boxes[tag.start, properties] = known
        return known

    def _told_alone(self, tag: Tag, properties: frozenset[str]) -> Sequence[_Rule] | None:
        """The same by the element alone; None if an ancestor may decide."""
        element = lone(tag.name, tag.values())
        found: list[_Rule] = []
        for place, rules in enumerate(self._sheets):
            alone = rules.told_alone(element, self._names, properties)
            if alone is None:
                return None
            found += (_rule(one, weight, place) for weight, one in alone)
        own = (one for one in _own(tag.values().get("style") or "") if is_one_of(one.declaration, properties))
        return sorted([*found, *own], key=lambda rule: rule.rank)

    @functools.cached_property
    def _names(self) -> Names:
        return names_in(self._page.text)

    @functools.cached_property
    def _sheets(self) -> Sequence[SheetRules]:
        """The rules of the stylesheets at hand, in order."""
        return [rules_of(sheet) for _, sheet in self._found if sheet]

    def around(self, tag: Tag, name: str) -> Mapping[str, str] | None:
        """The attributes of the nearest element of a name that an element is in; or None."""
        found = next((one for one in self._outwards(tag) if one.local_name == name), None)
        return dict(found.etree_element.attrib) if found is not None else None

    def outwards(self, tag: Tag, device: Device) -> Iterator[DeclaredBox]:
        """An element and its ancestors, from the innermost, as a device shows them."""
        for one in self._outwards(tag):
            alone = one.parent is None or (len(one.parent.etree_element) == 1 and not _has_text(one.parent))
            values = self._winning(one.etree_element, self._rules_of(one), device)
            yield DeclaredBox(one.local_name, values, alone=alone)

    def changed_by_picture(self, tag: Tag) -> str:
        """The selector of a rule that means other elements once an img is in a picture of its own; "" if none does."""
        return self._changes.get(tag.start, "")

    def missed_in_picture(self, picture: PictureElement) -> str:
        """The selector of a rule that would mean the img of a woven picture if it stood alone; "" if none would."""
        starts = (image.tag.start for image in picture.images)
        return next((self._missed[start] for start in starts if start in self._missed), "")

    def _outwards(self, tag: Tag) -> Iterator[ElementWrapper]:
        element = self._elements.get(tag.start)
        while element is not None:
            yield element
            element = element.parent

    def _winning(self, key: object, rules: Sequence[_Rule], device: Device) -> Mapping[str, str]:
        """The values that win on a device among the rules of something, by property; logical ones as physical."""
        if key not in self._winners:
            self._winners[key] = {query for rule in rules for query in rule.declaration.media}, {}
        asked, known = self._winners[key]
        held = frozenset(query for query in asked if parse_media(query).matches(device)) if asked else frozenset()
        if held not in known:
            known[held] = {
                physical(rule.declaration.name): rule.declaration.value
                for rule in rules
                if held.issuperset(rule.declaration.media)
            }
        return known[held]

    def _rules_of(self, element: ElementWrapper) -> Sequence[_Rule]:
        """The rules that mean an element, the weakest first."""
        known = self._known.get(element.etree_element)
        if known is None:
            known = self._known[element.etree_element] = self._matched(element)
        return known

    @functools.cached_property
    def _root(self) -> ElementWrapper:
        return _tree(self._page.text, self._tags)

    @functools.cached_property
    def _elements(self) -> Mapping[int, ElementWrapper]:
        return _by_place(self._root)

    def _matched(self, element: ElementWrapper) -> Sequence[_Rule]:
        found = [
            _rule(one, weight, place)
            for place, rules in enumerate(self._sheets)
            for css, weight in rules.meant(element, self._names).items()
            for one in rules.by_selector[css]
        ]
        found += _own(element.etree_element.attrib.get("style") or "")
        return sorted(found, key=lambda rule: rule.rank)

    @functools.cached_property
    def _changes(self) -> Mapping[int, str]:
        """Selectors that mean other elements once images are in pictures, by the image next before them, or else the first."""
        if not any(rules.by_place for rules in self._sheets):
            return {}
        plain, wrapped = (
            [one for one in root.iter_subtree() if one.local_name != "picture"]
            for root in (self._root, _in_pictures(self._root))
        )
        # Without :has(), only siblings of images and their descendants can match other selectors.
        everywhere = any(":has" in css for rules in self._sheets for css in rules.by_place)
        parents = {one.parent.etree_element for one in self._elements.values() if one.parent}
        near = {one for parent in parents for one in parent.iter()}
        found: dict[int, str] = {}
        last = self._tags[0].start if self._tags else 0
        for before, after in zip(plain, wrapped, strict=False):
            place = before.etree_element.attrib.get(_PLACE)
            last = int(place or last)
            is_near = everywhere or before.etree_element in near
            if is_near and last not in found and (changed := self._differently(before, after, is_image=bool(place))):
                found[last] = changed
        return found

    def _differently(self, before: ElementWrapper, after: ElementWrapper, *, is_image: bool) -> str:
        """The first selector that means only one of two elements; "" for none."""
        for rules in self._sheets:
            old, new = (
                dict.fromkeys(rules.meant_by_place(one, self._names, is_image=is_image)) for one in (before, after)
            )
            if changed := next((css for css in (*old, *new) if (css in old) != (css in new)), ""):
                return changed
        return ""

    @functools.cached_property
    def _missed(self) -> Mapping[int, str]:
        """Selectors that mean images of woven pictures only without the picture, by image."""
        woven = {one.images[0].tag.start: one for one in self._page.pictures if one.is_woven}
        elements = [lone(one.images[0].tag.name, one.images[0].tag.values()) for one in woven.values()]
        tests = [
            (css, reach.compiled)
            for rules in (self._sheets if woven else ())
            for css in rules.by_place
            for reach in reaches(css)
            if any(means(reach, element, self._names) == "perhaps" for element in elements)
        ]
        if not tests:
            return {}
        alone = _by_place(_tree(self._page.text, self._tags, pictures=woven))
        found: dict[int, str] = {}
        for place in woven.keys() & alone.keys() & self._elements.keys():
            with contextlib.suppress(*TOO_DEEP):
                missed = (css for css, one in tests if one.test(alone[place]) and not one.test(self._elements[place]))
                if css := next(missed, ""):
                    found[place] = css
        return found


def _by_place(root: ElementWrapper) -> Mapping[int, ElementWrapper]:
    """The elements of a tree whose tags have their place."""
    return {
        int(one.etree_element.attrib[_PLACE]): one for one in root.iter_subtree() if _PLACE in one.etree_element.attrib
    }


def _tree(
    text: str, tags: Sequence[Tag], *, pictures: Mapping[int, PictureElement] = MappingProxyType({})
) -> ElementWrapper:
    """The tree of a page, each of some tags with its place.

    Args:
        pictures: those to leave out, by where their img begins; end tags that belong to none change no tree.
    """
    import html5lib
    from cssselect2 import ElementWrapper

    parts, at = [], 0
    for tag in tags:
        name_end = tag.start + 1 + len(tag.name)
        before = pictures[tag.start].tag.start if tag.start in pictures else tag.start
        parts += [text[at:before], text[tag.start : name_end], f' {_PLACE}="{tag.start}"', text[name_end : tag.end]]
        at = tag.end
    tree = html5lib.parse("".join([*parts, text[at:]]), namespaceHTMLElements=False)
    return ElementWrapper.from_html_root(tree)


def _in_pictures(root: ElementWrapper) -> ElementWrapper:
    """The same tree with each image that has a place in a picture of its own."""
    from xml.etree.ElementTree import Element

    from cssselect2 import ElementWrapper

    tree = copy.deepcopy(root.etree_element)
    for around in list(tree.iter()):
        for number, one in enumerate(around):
            if _PLACE in one.attrib and not len(one):
                picture = Element("picture")
                picture.append(one)
                picture.tail, one.tail = one.tail, None
                around[number] = picture
    return ElementWrapper.from_html_root(tree)


def _rule(one: Numbered, weight: Weight, place: int) -> _Rule:
    """A rule.

    Args:
        place: which of the page's stylesheets it is in.
    """
    number, declaration = one
    return _Rule(declaration, (declaration.important, False, weight, (place, number)))


def _own(style: str) -> list[_Rule]:
    """The declarations of a style attribute, with their ranks."""
    return [
        _Rule(one, (one.important, True, (0, 0, 0), (0, number))) for number, one in enumerate(declarations_of(style))
    ]


def _has_text(element: ElementWrapper) -> bool:
    """Tells whether there is text among the children of an element."""
    inner = element.etree_element
    return any((text or "").strip() for text in (inner.text, *(one.tail for one in inner)))
