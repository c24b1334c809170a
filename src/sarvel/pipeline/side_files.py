"""Side files: what is written beside the pages. The stylesheet, the manifest, partials and the macro."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path

from sarvel.core.markup.backgrounds import STYLESHEET, background_rules
from sarvel.core.markup.picture import style_rules
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.site import Site, partial_file


def side_files(site: Site, there: Mapping[str, int]) -> dict[Path, str]:
    """The texts of all side files that the plan wants, by file.

    Args:
        site: the site.
        there: the files in the folder of renditions: bytes by name.
    """
    return dict([*_stylesheet(site, there), *_manifest(site, there), *_partials(site, there)])


def _stylesheet(site: Site, there: Mapping[str, int]) -> Iterator[tuple[Path, str]]:
    """Beside the renditions, if the plan has placeholders in it or backgrounds."""
    plan = site.plan
    pictures = list(site.edition.pictures.values())
    if plan.stylesheet or any(slot.behind for slot in plan.slots.values()):
        address = addresses_of(plan).beside
        placeholders = style_rules(pictures, site.placeholders, address) if plan.stylesheet else ""
        yield plan.output / STYLESHEET, background_rules(site.made(there), plan.starts, address) + placeholders


def _manifest(site: Site, there: Mapping[str, int]) -> Iterator[tuple[Path, str]]:
    from sarvel.pages.weave.manifest import manifest  # few plans ask for it

    if site.plan.manifest:
        text = manifest(site.made(there), addresses_of(site.plan).rooted, site.placeholders, there)
        yield site.plan.manifest, text


def _partials(site: Site, there: Mapping[str, int]) -> Iterator[tuple[Path, str]]:
    from sarvel.pages.weave.partials import macro, partial

    plan, said = site.plan, site.plan.partials
    if said is None:
        return
    backgrounds = None if plan.stylesheet else site.placeholders
    made = site.made(there)
    for picture in made:
        text = partial(picture, addresses_of(plan).rooted, backgrounds, said.ending, said.alt, plan.dialects)
        yield partial_file(said, picture), text
    if said.macro:
        yield said.macro, macro(made, addresses_of(plan).rooted, backgrounds, said.macro.suffix)
