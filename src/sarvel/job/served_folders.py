"""The folders that a preview serves."""

from __future__ import annotations

from pathlib import Path

from sarvel.browser.site_server import Folders
from sarvel.job.targets import pages_of
from sarvel.plan.read import Plan


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
    return Folders(list(dict.fromkeys(tops)), mounts)


def _tops(plan: Plan) -> list[Path]:
    """The folders in which the authors' pages lie, the outermost of each first."""
    folders = sorted({file.source.parent for file in pages_of(plan)[0]}, key=lambda one: len(one.parts))
    return [one for i, one in enumerate(folders) if not any(other in one.parents for other in folders[:i])]
