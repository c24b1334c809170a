"""The state of a page's layout, as a digest: its elements and their styles, its stylesheets, and none of its words."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from pathlib import Path

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.document import read_document
from sarvel.errors import PageError
from sarvel.pages.read.asks import Page, read_page
from sarvel.pages.read.page_files import seen_from
from sarvel.pages.read.roots import file_of
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.roots import project_of, roots_of
from sarvel.pipeline.targets import pages_of
from sarvel.plan.read import Plan

_COUNTED = frozenset({"class", "id", "style", "width", "height", "media", "href", "hidden", "open"})
_DIGITS = 8  # hexadecimal: a change goes unseen once in four thousand millions


def layout_state(text: str, dialect: Dialect, sheets: Iterable[bytes]) -> str:
    """The state of a page, in hexadecimal.

    Args:
        text: the page as its author wrote it.
        sheets: the stylesheets that it links to.
    """
    told = hashlib.blake2b(digest_size=_DIGITS // 2)
    for tag in dialect.tags(text, None):
        said = sorted(f"{name}={value}" for name, value in tag.values().items() if name in _COUNTED)
        told.update("\0".join(["/" * tag.closing + tag.name, *said, "\n"]).encode("utf-8", "surrogatepass"))
    for _, css in read_document(text, dialect).styles:
        told.update(css.encode("utf-8", "surrogatepass"))
    for sheet in sheets:
        told.update(sheet)
    return told.hexdigest()


def state_of_page(plan: Plan, page: Page) -> str:
    """The state of a page of a plan."""
    text = unweave(page).text
    roots = roots_of(page.file.source, text, plan)
    files = (file_of(address, roots)[0] for address in read_document(text, page.file.dialect).sheets)
    theirs = [
        file for file in files if file and plan.output.absolute() not in file.absolute().parents
    ]  # ours is made again
    return layout_state(text, page.file.dialect, [file.read_bytes() for file in theirs])


def changed_since(plan: Plan) -> Mapping[Path, str]:
    """The pages of a plan whose layout is another than when slots were measured on them; which slots, and when, in words."""
    measured = {name: slot.measured for name, slot in plan.slots.items() if slot.measured}
    names = {page for one in measured.values() for page in one.pages}
    if not names:
        return {}
    found: dict[Path, str] = {}
    for file in pages_of(plan)[0]:
        name = seen_from(plan.folder, file.source)
        if name not in names:
            continue
        try:
            state = state_of_page(plan, read_page(file, plan.slots, project_of(plan), plan.masters_folder))
        except (PageError, OSError):
            continue
        stale = [(slot, one.on) for slot, one in measured.items() if one.pages.get(name, state) != state]
        if stale:
            found[file.target] = f"{', '.join(slot for slot, _ in stale)} (measured on {max(on for _, on in stale)})"
    return found
