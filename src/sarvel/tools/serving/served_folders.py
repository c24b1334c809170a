"""The folders that a preview serves."""

from __future__ import annotations

import urllib.parse
from collections.abc import Callable, Sequence
from pathlib import Path

from sarvel.browser.site_server import Folders
from sarvel.core.address.pattern import origin_of, path_and_query
from sarvel.errors import OutputError
from sarvel.pages.read.page_files import PageFile
from sarvel.pipeline.made_when_asked import MadeWhenAsked
from sarvel.pipeline.plan_folders import output_of_plan
from sarvel.pipeline.targets import pages_of
from sarvel.plan.read import Plan
from sarvel.tools.serving.published import Published


def folders_of(plan: Plan, *, before: bool) -> Folders:
    """The folders of a site as a browser sees them: woven pages before the authors' own, or the other way round.

    Args:
        before: whether the authors' pages are wanted.
    """
    pages = pages_of(plan)[0]
    woven = [plan.root, *([plan.woven] if plan.woven else [])]
    authors = [*_tops(pages), plan.folder]
    tops = [*authors, *woven] if before else [*woven, *authors]
    mounts = {}
    if plan.address and plan.address.startswith("/"):
        mounts[f"{plan.address.rstrip('/')}/"] = plan.output
    return Folders(list(dict.fromkeys(tops)), mounts, maker_of(plan), Published(plan, pages, tops), plan.base)


def with_stand_in(text: bytes, plan: Plan | None) -> bytes:
    """A page or stylesheet whose pictures of a service on another host are asked of the one that serves it."""
    origin = elsewhere(plan) if plan else ""
    return text.replace(origin.encode(), b"") if origin else text


def elsewhere(plan: Plan) -> str:
    """Scheme and host that the plan's files are at; "" if that is the pages' own host, or no one here could answer for it."""
    return origin_of(plan.address or "") if plan.delivery == "elsewhere" or plan.output_url else ""


def maker_of(plan: Plan) -> Callable[[str], Path | None] | None:
    """What makes or fetches the files of a plan that are in no folder; None if all do."""
    if plan.makes_files:
        return _from_store(plan) if plan.output_url else None
    return MadeWhenAsked(plan).file


def _from_store(plan: Plan) -> Callable[[str], Path | None]:
    """What fetches renditions from object storage by their addresses."""
    output, begin = output_of_plan(plan), f"{path_and_query(plan.address or '').rstrip('/')}/"

    def file(target: str) -> Path | None:
        path = urllib.parse.unquote(path_and_query(target))
        try:
            name = path.removeprefix(begin) if path.startswith(begin) else ""
            return output.file(name) if output.sizes([name]) else None
        except OutputError:
            return None

    return file


def _tops(pages: Sequence[PageFile]) -> list[Path]:
    """The folders in which the authors' pages lie, the outermost of each first."""
    folders = sorted({file.source.parent for file in pages}, key=lambda one: len(one.parts))
    return [one for i, one in enumerate(folders) if not any(other in one.parents for other in folders[:i])]
