"""What is written beside the pages: the stylesheet, the manifest, partials and the macro."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from sarvel.cli.site import Site, partial_file
from sarvel.core.html.behind import STYLESHEET, background_rules
from sarvel.core.html.markup import placeholder_rules
from sarvel.press.render import standing


def texts_beside(site: Site) -> dict[Path, str]:
    """All that the plan wants written beside the pages, by file."""
    return dict([*_stylesheet(site), *_manifest(site), *_partials(site)])


def _stylesheet(site: Site) -> Iterator[tuple[Path, str]]:
    """Beside the renditions, if the plan has placeholders in it or backgrounds."""
    plan = site.plan
    pictures = list(site.edition.pictures.values())
    if plan.stylesheet or any(slot.behind for slot in plan.slots.values()):
        placeholders = placeholder_rules(pictures, site.placeholders) if plan.stylesheet else ""
        yield plan.output / STYLESHEET, background_rules(site.made(), plan.starts) + placeholders


def _manifest(site: Site) -> Iterator[tuple[Path, str]]:
    from sarvel.pages.manifest import manifest  # noqa: PLC0415 - few plans ask for it

    if site.plan.manifest:
        text = manifest(site.made(), site.plan.address, site.placeholders, standing(site.plan.output))
        yield site.plan.manifest, text


def _partials(site: Site) -> Iterator[tuple[Path, str]]:
    from sarvel.pages.partials import macro, partial  # noqa: PLC0415 - as above

    plan, said = site.plan, site.plan.partials
    if said is None:
        return
    backgrounds = None if plan.stylesheet else site.placeholders
    for picture in site.made():
        text = partial(picture, plan.address, backgrounds, said.ending, said.alt, plan.dialects)
        yield partial_file(said, picture), text
    if said.macro:
        yield said.macro, macro(site.made(), plan.address, backgrounds, said.macro.suffix)
