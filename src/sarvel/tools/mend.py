"""Mends what check finds, where it is sure how, and proves each mend by checking the page again."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.check.rule import Finding
from sarvel.core.html.dialect import HTML, dialect_of
from sarvel.core.html.document import read_document
from sarvel.core.html.pieces import Edit, edited, overlap
from sarvel.errors import OutputError, PageError
from sarvel.files.atomic import holds
from sarvel.files.writers import wait_until_still
from sarvel.notices import Notice
from sarvel.pages.read.page_files import PageFile, changes, read_text
from sarvel.pipeline.checker import Checker
from sarvel.pipeline.page_writes import write_page
from sarvel.plan.read import Plan
from sarvel.rules import RULES

_MISSING = ("file-missing", "ending-wrong")
_TRIES = 5  # to write a page that another program keeps changing

_Check = Callable[[str], Sequence[Finding]]


@dataclass(frozen=True)
class MendedPage:
    """A page, and what mending makes of it.

    Attributes:
        after: its text, mended.
        mended: the findings that are gone, with places in the text as it was when each was mended.
    """

    file: Path
    before: str
    after: str
    mended: tuple[Finding, ...]
    left: tuple[Finding, ...]

    def diff(self) -> str:
        """The changes, as a unified diff."""
        return changes(self.file, self.before, self.after)


@dataclass(frozen=True)
class Mended:
    """The result of mending.

    Attributes:
        pages: those in which something was found.
        faults: pages that could not be read or written, and why.
    """

    pages: tuple[MendedPage, ...]
    faults: tuple[Notice, ...]


def mend_files(files: Iterable[Path], plan: Plan | None, *, writes: bool) -> Mended:
    """Mends pages one by one.

    Args:
        plan: slots, audience and allowed rules; or None.
        writes: whether mended pages are written.
    """
    checker = Checker(plan)
    pages: list[MendedPage] = []
    faults: list[Notice] = []
    for file in files:
        try:
            page = _mend_file(file, checker, plan, writes=writes)
        except (PageError, OutputError) as error:
            faults += error.notices
            continue
        if page.mended or page.left:
            pages.append(page)
    return Mended(tuple(pages), tuple(faults))


def _mend_file(file: Path, checker: Checker, plan: Plan | None, *, writes: bool) -> MendedPage:
    """A fixed page, written only over the content that was read.

    Raises:
        PageError: it cannot be read, or changes each time that it is to be written.
        OutputError: it cannot be written.
    """
    dialect = dialect_of(file.name, plan.dialects if plan else {}) or HTML
    if writes and file.is_symlink():
        raise PageError.at(
            file, "is a link, which nothing is written through", f"name the page itself, {file.resolve()}"
        )
    for _ in range(_TRIES):
        wait_until_still(file)
        read = read_text(file)
        before = read.text
        after, mended, left = mend(before, lambda text: checker.checked(file, text)[0].findings)
        page = MendedPage(file, before, after, tuple(mended), tuple(left))
        if not writes or after == before:
            return page
        still = holds(file, read.encoded(before))
        if still() and write_page(PageFile(file, file, dialect), read.encoded(after), still):
            return page
    raise PageError.at(file, "was changed by someone else each time that it was to be written, and stays as it is")


def mend(text: str, check: _Check) -> tuple[str, list[Finding], list[Finding]]:
    """Fixes a page where that is safe.

    Args:
        check: finds the faults of a text.

    Returns:
        The fixed text, the findings that it resolves, and the remaining ones.
    """
    found, gone = list(check(text)), []
    seen = {text}
    while True:
        for some in _groups(_apart(text, found)):
            new = edited(text, (edit for one in some for edit in one.edits))
            if new in seen:
                continue
            seen.add(new)
            after = list(check(new))
            if _is_better(some, text, found, new, after):
                text, found = new, after
                gone += some
                break
        else:
            return text, gone, found


def _groups(sure: list[Finding]) -> Iterator[list[Finding]]:
    """All at once, then halves, and halves of these, to each alone: few that do no good are soon told from the others."""
    groups = [sure]
    while groups:
        yield from groups
        groups = [half for one in groups if len(one) > 1 for half in (one[: len(one) // 2], one[len(one) // 2 :])]


def _apart(text: str, found: Iterable[Finding]) -> list[Finding]:
    """Findings whose edits are sure and do not overlap, in order of gravity; what sarvel has woven is left to weave."""
    woven = _woven_spans(text)
    chosen: list[Edit] = []
    some = []
    for one in found:
        fresh = [edit for edit in one.edits if edit not in chosen]
        clash = any(overlap(edit, other) for edit in fresh for other in chosen)
        inside = any(start <= edit.start < end for edit in one.edits for start, end in woven)
        if one.edits and not clash and not inside:
            some.append(one)
            chosen += fresh
    return some


def _woven_spans(text: str) -> list[tuple[int, int]]:
    """Start and end offsets of what sarvel has woven: its tags, and pictures that hold one."""
    if "data-woven" not in text:
        return []
    page = read_document(text)
    spans = page.woven
    spans += [(tag.start, tag.end) for tag in (*page.links, *page.styled) if tag.get("data-sarvel")]
    return spans


def _is_better(
    mended: Sequence[Finding], text: str, before: Sequence[Finding], new: str, after: Sequence[Finding]
) -> bool:
    """Tells whether the fault is gone, and no broken thing was added that cannot be fixed too."""
    was, is_ = (Counter(one.rule for one in found) for found in (before, after))
    gone = Counter(one.rule for one in mended)
    lasting, left = _lasting(text, before), _lasting(new, after)
    return all(is_[rule] <= was[rule] - count for rule, count in gone.items()) and not left - lasting


def _lasting(text: str, found: Sequence[Finding]) -> Counter[str]:
    """Broken rules that nothing mends. A tag whose files are missing counts once: it is no more broken by one more."""
    grave = [one for one in found if not one.edits and RULES[one.rule].severity == "broken"]
    missing = {text.rfind("<", 0, one.start) for one in grave if one.rule in _MISSING}
    return Counter(one.rule for one in grave if one.rule not in _MISSING) + Counter(
        dict.fromkeys(_MISSING[:1], len(missing))
    )
