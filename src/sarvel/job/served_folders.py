"""The folders that a preview serves."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from sarvel.browser.site_server import Folders
from sarvel.core.address.pattern import origin_of
from sarvel.job.made_when_asked import MadeWhenAsked
from sarvel.job.targets import pages_of
from sarvel.plan.read import Plan
from sarvel.plan.seal_keys import key_file


def folders_of(plan: Plan, *, before: bool) -> Folders:
    """The folders of a site as a browser sees them: woven pages before the authors' own, or the other way round.

    Args:
        plan: the plan.
        before: whether the authors' pages are wanted.
    """
    woven = [plan.root, *([plan.woven] if plan.woven else [])]
    authors = [*_tops(plan), plan.folder]
    tops = [*authors, *woven] if before else [*woven, *authors]
    mounts = {}
    if plan.address and plan.address.startswith("/"):
        mounts[f"{plan.address.rstrip('/')}/"] = plan.output
    return Folders(list(dict.fromkeys(tops)), mounts, maker_of(plan), [key_file(plan)])


def with_stand_in(text: bytes, plan: Plan | None) -> bytes:
    """A page or stylesheet whose pictures of a service on another host are asked of the one that serves it."""
    origin = elsewhere(plan) if plan else ""
    return text.replace(origin.encode(), b"") if origin else text


def elsewhere(plan: Plan) -> str:
    """Scheme and host of the service that makes the plan's files; "" if none does, or the pages' own host."""
    return origin_of(plan.address or "") if plan.delivery == "elsewhere" else ""


def maker_of(plan: Plan) -> Callable[[str], Path | None] | None:
    """What makes the files of a plan that stand in no folder; None if all do."""
    return None if plan.makes_files else MadeWhenAsked(plan).file


def _tops(plan: Plan) -> list[Path]:
    """The folders in which the authors' pages lie, the outermost of each first."""
    folders = sorted({file.source.parent for file in pages_of(plan)[0]}, key=lambda one: len(one.parts))
    return [one for i, one in enumerate(folders) if not any(other in one.parents for other in folders[:i])]
