"""The folders that addresses of a site are seen from, and the ways in which its pages reach the files of pictures."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from sarvel.core.address.on_request import OnRequest
from sarvel.core.address.pattern import OfService, begin_of, wants_seal
from sarvel.core.html.base import base_path
from sarvel.encode.codecs import CODECS
from sarvel.pages.read.page_files import base_of
from sarvel.pages.read.project import Project, project_at
from sarvel.pages.read.roots import Roots
from sarvel.pages.weave.output_address import Addresses
from sarvel.plan.read import Plan
from sarvel.plan.seal_keys import keys_of

_IMPORTING = frozenset(
    {".js", ".jsx", ".tsx", ".vue", ".svelte", ".astro", ".mdx"}
)  # endings of pages that import files


def roots_of(page: Path | None, text: str, plan: Plan | None, project: Project | None = None) -> Roots:
    """Where the files of a page may lie.

    Args:
        page: the page's file; None for standard input.
        text: the page's text; "" for a stylesheet.
        plan: the plan, if there is one.
        project: where addresses lead, if there is no plan; None finds out.
    """
    folder = page.parent if page else Path()
    imports = text if page and page.suffix.lower() in _IMPORTING else ""
    project = project_of(plan) if plan else project or project_at(folder)
    roots = Roots(folder, project, base=base_path(text), text=imports)
    if plan is None:
        return roots
    if plan.output_url and plan.makes_files:
        return replace(roots, elsewhere=plan.address or "")
    elsewhere = begin_of(plan.address or "") if plan.delivery == "elsewhere" else ""
    address = "" if elsewhere else plan.address or ""
    on_request = plan.delivery == "request"
    return replace(roots, output=plan.output, address=address, on_request=on_request, elsewhere=elsewhere)


def project_of(plan: Plan) -> Project:
    """Where the addresses, calls and imports of a plan's pages lead."""
    sources = [base_of(plan.folder, pattern) for pattern in plan.page_patterns] if plan.woven else []
    return Project(plan.folder, tuple(dict.fromkeys([plan.root, plan.folder, *sources])), plan.base, plan.url)


def addresses_of(plan: Plan) -> Addresses:
    """The ways in which pages reach the files of pictures.

    Raises:
        PlanError: addresses are to be sealed, and there is no key, or its file may be read by others.
    """
    partial = plan.partials.call if plan.partials else None
    plain = Addresses(
        plan.output, plan.root, plan.address, plan.base, component=plan.component, partial=partial, site=plan.url
    )
    if plan.delivery == "request":
        keys = keys_of(plan)
        page, sheet = (OnRequest(one, keys, plan.by_accept) for one in (plain.prefix, ""))
        return replace(plain, made_elsewhere=(page, sheet))
    if plan.delivery == "elsewhere":
        pattern = plan.address or ""
        way = OfService(pattern, keys_of(plan) if wants_seal(pattern) else None, _expected)
        return replace(plain, made_elsewhere=(way, way))
    return plain


def _expected(format_: str, likeness: float) -> int:
    """The encoder's number with which a format commonly reaches a likeness."""
    return CODECS[format_].expected(likeness)
