"""Targets: the places that a run writes to, compared before anything is written.

Never onto a master, the plan, the audience or the author's page of another name; never outside the plan's folder, unless the
plan names the place in `site.outside`; and no two things to one place.
"""

from __future__ import annotations

import functools
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path, PurePath

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.core.html.dialect import dialect_of
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.errors import PlanError
from sarvel.files.atomic import PART
from sarvel.files.folder_lock import NAME as LOCK
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.files.places import is_within, real_places
from sarvel.files.reports import is_for_people
from sarvel.notices import Kind, Notice
from sarvel.pages.read.page_files import PageFile, base_of, find_pages
from sarvel.pages.read.scan import is_image
from sarvel.pages.weave.component import COMPONENT_BEGINS
from sarvel.pages.weave.partials import MACRO_BEGINS, MANIFEST_BEGINS
from sarvel.plan.json_schema import FILE_NAME as SCHEMA
from sarvel.plan.read import Plan
from sarvel.plan.seal_keys import FILE_NAME as KEYS
from sarvel.plan.seal_keys import key_file

_NO_PAGE = "it is left alone; put the page itself there, or remove the link"
_OUT = "it is left alone; put the file itself there, or name the place that it leads to in site.outside of the plan"


def pages_of(plan: Plan) -> tuple[list[PageFile], list[PageFile], list[Notice]]:
    """The pages of a plan, other files to copy to the woven folder, and links that lead out of the plan's folder, in words.

    Raises:
        PlanError: the plan writes where it may not, or its pages cannot be found.
    """
    _check_folders(plan)
    _check_reach(plan)
    left_out = _LeftOut(plan)
    files, others = find_pages(
        plan.folder, plan.page_patterns, plan.woven, plan.dialects, plan.content, left_out, plan.where
    )
    kept: list[list[PageFile]] = [[], []]
    faults: list[Notice] = []
    inside = _Inside(plan.folder, *plan.outside)
    for some, into in zip((files, others), kept, strict=True):
        for file in some:
            is_linked = _is_linked(file.source, plan.folder)
            if is_linked and not inside(file.source):
                faults.append(
                    Notice(Kind.PAGE, str(file.source), f"is a link that leads out of {plan.folder.absolute()}", _OUT)
                )
            elif is_linked and file.target == file.source and not _is_page(file.source.resolve(), plan, left_out):
                faults.append(
                    Notice(
                        Kind.PAGE, str(file.source), f"is a link to {file.source.resolve()}, which is no page", _NO_PAGE
                    )
                )
            elif not inside(file.target):
                raise PlanError.at(
                    plan.where("site", "pages"),
                    f"{file.source} lies outside of the plan's folder, and would be woven in place",
                    f'name site.woven, or allow it: outside = ["{os.path.relpath(file.source.parent, plan.folder)}"]',
                )
            else:
                into.append(file)
    return kept[0], kept[1], faults


def check_targets(
    plan: Plan, pages: Sequence[PageFile], others: Sequence[PageFile], made: Iterable[tuple[Path, str, str]]
) -> None:
    """Compares all places that a run may write to.

    Args:
        others: files to copy next to woven pages.
        made: other outputs: folder, name, and their description in messages.

    Raises:
        PlanError: something would be written onto something else.
    """
    inputs = {
        _real(plan.file): "the plan",
        _real(plan.folder / FILE_NAME): "the ledger",
        _real(key_file(plan)): "the key file",
    }
    inputs |= {_real(file): "a table of the plan" for file in plan.tables}
    inputs |= {_real(file.source): "a page" for file in (*pages, *others)}
    taken = {_real(plan.output): ("the output folder", "")}
    if plan.woven:
        taken[_real(plan.woven)] = ("the folder of woven pages", "")
    real_folder = functools.cache(os.path.realpath)  # thousands of files lie in one folder
    named = [
        (_real(plan.output / STYLESHEET), STYLESHEET, ""),
        # A link in the place of one of these is replaced, not followed.
        *((os.path.normcase(f"{real_folder(folder)}{os.sep}{name}"), what, "") for folder, name, what in made),
        *((_real(file.target), str(file.source), _real(file.source)) for file in (*pages, *others)),
        *((_real(file), key, "") for key, file in _single_files(plan)),
    ]
    problems: list[Notice] = []
    for place, what, itself in named:
        other, its_source = taken.setdefault(place, (what, itself))
        is_twice = other != what and not (itself and itself == its_source)  # two links to one page are one page
        if problem := other if is_twice else inputs.get(place, "") if place != itself else "":
            problems.append(
                Notice(
                    Kind.PLAN,
                    str(plan.file),
                    f"{what} would be written onto {problem}, {os.path.relpath(place)}",
                    "write another place for one of them",
                )
            )
    strange = (
        []
        if problems
        else [(key, file) for key, file in _single_files(plan) if file.exists() and not is_side_file(file)]
    )
    problems += [
        Notice(
            Kind.PLAN,
            plan.where(*key.split(".")),
            f"{file} is there already, and Sarvel did not write it",
            "name another file, or move it",
        )
        for key, file in strange
    ]
    if problems:
        raise PlanError(*problems)


def check_output(plan: Plan, file: Path, read: Iterable[Path]) -> None:
    """Checks that a file named as an output is no input of the plan.

    Args:
        read: the files that the Edition depends on.

    Raises:
        PlanError: it is one.
    """
    inputs = {_real(one) for one in (plan.folder / FILE_NAME, *read)}
    if _real(file) in inputs or _is_among_masters(plan, file):
        raise PlanError.at(
            "", f"--output {file}: is read by the plan, and nothing is written onto it", "name another file"
        )


def _single_files(plan: Plan) -> Iterator[tuple[str, Path]]:
    if plan.manifest:
        yield "site.manifest", plan.manifest
    if plan.component:
        yield "site.component", plan.component
    if plan.partials and plan.partials.macro:
        yield "partials.macro", plan.partials.macro


def side_places(plan: Plan) -> list[Path]:
    """The places of a plan's side files, as far as its keys name them."""
    partials = sorted(plan.partials.folder.rglob("*")) if plan.partials else []
    return [plan.output / STYLESHEET, *(file for _, file in _single_files(plan)), *partials]


def is_side_file(file: Path) -> bool:
    """Tells whether a file is a manifest, a macro or a component that an earlier run wrote."""
    try:
        if not file.is_file():
            return False
        with file.open("rb") as stream:
            return stream.read(100).startswith(
                tuple(map(str.encode, (COMPONENT_BEGINS, MACRO_BEGINS, MANIFEST_BEGINS)))
            )
    except OSError:
        return False


def _folders(plan: Plan) -> Iterator[tuple[tuple[str, str], Path]]:
    """Places that are written to, by the key of the plan that names them."""
    yield ("site", "output"), plan.output
    yield ("site", "delivery"), plan.folder / CACHE_NAME
    if plan.woven:
        yield ("site", "woven"), plan.woven
    if plan.partials:
        yield ("partials", "folder"), plan.partials.folder
    yield from ((tuple(key.split(".")), file) for key, file in _single_files(plan))  # type: ignore[misc] # two parts each


def _check_folders(plan: Plan) -> None:
    """Nothing is written outside of the plan's folder, nor among the masters.

    Raises:
        PlanError: it would be; a line for each.
    """
    inside, allowed = _Inside(plan.folder, *plan.outside), _Inside(*plan.outside)
    problems: list[Notice] = []
    masters = os.path.realpath(plan.masters_folder)
    for key, place in _folders(plan):
        where, real = plan.where(*key), Path(os.path.realpath(place))
        if not inside(place):
            problems.append(
                Notice(
                    Kind.PLAN,
                    where,
                    f"{place} lies outside of the plan's folder",
                    "write a place within it, or allow that one: "
                    f'outside = ["{os.path.relpath(place, plan.folder)}"] under [site]',
                )
            )
        elif real == Path(masters) or _is_among_masters(plan, place):
            problems.append(
                Notice(
                    Kind.PLAN,
                    where,
                    f"{place} lies in the masters folder, where nothing is ever written",
                    "write another place",
                )
            )
        elif _is_linked(place, plan.folder) and not allowed(place):
            itself = os.path.relpath(real, os.path.realpath(plan.folder))
            problems.append(
                Notice(
                    Kind.PLAN,
                    where,
                    f"{place} is or lies behind a link, which nothing is written through",
                    f"write {itself}",
                )
            )
    if problems:
        raise PlanError(*problems)


def _check_reach(plan: Plan) -> None:
    """Pages and masters are looked for in the folders of a site, not on the whole disk.

    Raises:
        PlanError: a place holds the plan's folder from further above than the plan allows.
    """
    allowed = _Inside(*plan.outside)
    above = {os.path.realpath(folder) for folder in plan.folder.absolute().parents}
    above |= {os.path.realpath(Path.home()), os.path.realpath(os.sep)} - {os.path.realpath(plan.folder)}
    places = [*((("site", "pages"), base_of(plan.folder, one)) for one in plan.page_patterns)]
    places += [] if plan.masters_url else [(("site", "masters"), plan.masters_folder)]
    problems: list[Notice] = []
    for key, place in places:
        real = os.path.realpath(place)
        if real in above and not (allowed(place) and real != os.path.realpath(os.sep)):
            allow = f'; or allow it: outside = ["{os.path.relpath(place, plan.folder)}"] under [site]'
            more = "" if real == os.path.realpath(os.sep) else allow
            problems.append(
                Notice(
                    Kind.PLAN,
                    str(plan.where(*key)),
                    f"{place} holds more than a site",
                    f"write a folder within it{more}",
                )
            )
    if problems:
        raise PlanError(*problems)


def _is_among_masters(plan: Plan, place: Path) -> bool:
    """Tells whether a place lies in a folder of masters alone: one that holds the plan too is the site's own."""
    masters, folder = Path(os.path.realpath(plan.masters_folder)), Path(os.path.realpath(plan.folder))
    return masters not in (folder, *folder.parents) and masters in Path(os.path.realpath(place)).parents


class _LeftOut:
    """Files that are no pages and are not copied next to them, though they lie in the same folder.

    These are outputs of a run, reports and proofs, the plan and its inputs, and masters. Files that the plan names as its pages
    itself stays one.
    """

    def __init__(self, plan: Plan) -> None:
        named = [plan.folder / pattern for pattern in plan.page_patterns]
        written = [plan.woven, plan.output, plan.partials.folder if plan.partials else None]
        self._folders = [plan.folder / CACHE_NAME]
        self._folders += [one for one in written if one and not any(one in (top, *top.parents) for top in named)]
        self._files = {
            plan.file,
            *plan.tables,
            key_file(plan),
            *(file for _, file in _single_files(plan) if is_side_file(file)),
        }
        self._masters = plan.masters_folder

    def __call__(self, file: Path) -> bool:
        return (
            file.name.startswith((PART, LOCK, FILE_NAME, KEYS, SCHEMA))
            or file in self._files
            or any(folder in file.parents for folder in self._folders)
            or (is_image(file) and self._masters in file.parents)
            or (file.suffix in (".html", ".png") and is_for_people(file))
        )


class _Inside:
    """Tells whether a place lies within some folders, links followed."""

    def __init__(self, *tops: Path) -> None:
        self._tops = real_places(tops)

    def __call__(self, place: Path) -> bool:
        return is_within(os.path.realpath(place), self._tops)


def _is_page(file: Path, plan: Plan, left_out: Callable[[Path], bool]) -> bool:
    """Tells whether what a link leads to may be woven: a page by its name, in no hidden folder, and none of our own files."""
    seen = PurePath(os.path.relpath(file, os.path.realpath(plan.folder)))
    hidden = any(part.startswith(".") and part != ".." for part in seen.parts)
    here = plan.folder / seen
    return dialect_of(file.name, plan.dialects) is not None and not (
        hidden or left_out(here) or _is_among_masters(plan, file)
    )


def _is_linked(file: Path, folder: Path) -> bool:
    """Tells whether a file, or a folder of it below another, is a link."""
    return os.path.realpath(file) != os.path.normpath(Path(os.path.realpath(folder), os.path.relpath(file, folder)))


def _real(place: Path) -> str:
    """A path with links followed, in the form in which systems that ignore letter case compare it."""
    return os.path.normcase(os.path.realpath(place))
