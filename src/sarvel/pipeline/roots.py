"""The folders that addresses of a site are seen from, and the ways in which its pages reach the files of pictures."""

from __future__ import annotations

from pathlib import Path

from sarvel.core.address.on_request import OnRequest
from sarvel.core.address.pattern import OfService, begin_of, wants_seal
from sarvel.core.html.base import base_path
from sarvel.encode.codecs import CODECS
from sarvel.pages.read.local_files import Roots
from sarvel.pages.weave.output_address import Addresses
from sarvel.plan.read import Plan
from sarvel.plan.seal_keys import keys_of


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
    elsewhere = begin_of(plan.address or "") if plan.delivery == "elsewhere" else ""
    if plan.output_url and plan.makes_files:
        return Roots(folder, None, "", plan.root, base_path(text), elsewhere=plan.address or "")
    address = "" if elsewhere else plan.address or ""
    on_request = plan.delivery == "request"
    return Roots(folder, plan.output, address, plan.root, base_path(text), on_request, elsewhere)


def tops_of(plan: Plan) -> list[Path]:
    """The folders that an address from the root may be seen from, the likeliest first."""
    return list(dict.fromkeys([plan.root, plan.folder]))


def addresses_of(plan: Plan) -> Addresses:
    """The ways in which pages reach the files of pictures.

    Raises:
        PlanError: addresses are to be sealed, and there is no key, or its file may be read by others.
    """
    if plan.delivery == "request":
        keys, prefix = keys_of(plan), Addresses(plan.output, plan.root, plan.address).prefix
        ways = tuple(OnRequest(one, keys, plan.by_accept) for one in (prefix, ""))
        return Addresses(plan.output, plan.root, plan.address, (ways[0], ways[1]))
    if plan.delivery == "elsewhere":
        pattern = plan.address or ""
        way = OfService(pattern, keys_of(plan) if wants_seal(pattern) else None, _expected)
        return Addresses(plan.output, plan.root, plan.address, (way, way))
    return Addresses(plan.output, plan.root, plan.address)


def _expected(format_: str, likeness: float) -> int:
    """The encoder's number with which a format commonly reaches a likeness."""
    return CODECS[format_].expected(likeness)
