"""The folders that addresses of a site are seen from, and the ways in which its pages reach renditions."""

from __future__ import annotations

from pathlib import Path

from sarvel.core.html.base import base_path
from sarvel.pages.local_files import Roots
from sarvel.pages.output_address import Addresses
from sarvel.plan.read import Plan


def roots_of(page: Path | None, text: str, plan: Plan | None) -> Roots:
    """The folders in which the files of a page may lie.

    Args:
        page: the page's file; None for standard input.
        text: the page's text; "" for a stylesheet.
        plan: the plan, if there is one.
    """
    folder = page.parent if page else Path()
    if plan is None:
        return Roots(folder, base=base_path(text))
    return Roots(folder, plan.output, plan.address or "", plan.root, base_path(text))


def tops_of(plan: Plan) -> list[Path]:
    """The folders that an address from the root may be seen from, the likeliest first."""
    return list(dict.fromkeys([plan.root, plan.folder]))


def addresses_of(plan: Plan) -> Addresses:
    """The ways in which pages reach renditions."""
    return Addresses(plan.output, plan.root, plan.address)
