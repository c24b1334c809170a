"""Side files: the stylesheet, the manifest, the component, partials and the macro."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

from sarvel.core.edition.compose import Picture
from sarvel.core.markup.backgrounds import STYLESHEET, background_rules
from sarvel.core.markup.picture import style_rules
from sarvel.pages.read.data_files import NamedValue
from sarvel.pages.read.local_files import is_file
from sarvel.pipeline.page_sums import Pair
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.site import partial_file
from sarvel.plan.read import Plan


def side_files(parts: Parts) -> dict[Path, bytes]:
    """The contents of all side files that the plan wants, by file. They name all pictures, and are worked out of all at once.

    Raises:
        OutputError: the folder of renditions cannot be read.
    """
    plan = parts.asked.plan
    has_styles = plan.stylesheet or any(slot.use == "background" for slot in plan.slots.values())
    if not (has_styles or plan.manifest or plan.partials or plan.component):
        return {}
    by_pair: dict[Pair, Picture] = {}
    unmade: set[Pair] = set()
    there: dict[str, int] = {}
    placeholders: dict[str, str] = {}
    for site in parts.by_masters():
        there |= site.there()
        placeholders |= site.placeholders
        by_pair |= site.edition.pictures
        unmade |= site.unmade(there)
    pictures = [by_pair[pair] for pair in parts.asked.wanted if pair in by_pair]
    made = [by_pair[pair] for pair in parts.asked.wanted if pair in by_pair and pair not in unmade]
    files: dict[Path, str] = {}
    if has_styles:
        files[plan.output / STYLESHEET] = _styles(plan, pictures, made, placeholders)
    if plan.manifest:
        from sarvel.pages.weave.manifest import manifest  # few plans ask for it

        values = {one.said: one.key for one in parts.asked.values}
        files[plan.manifest] = manifest(made, addresses_of(plan).rooted, placeholders, there, values)
    images = [picture for picture in made if picture.slot.use == "picture"]
    if plan.component:
        files[plan.component] = _component(plan, plan.component, images, placeholders)
    files |= _partials(plan, images, placeholders, parts.asked.values)
    return {file: text.encode("utf-8", "backslashreplace") for file, text in files.items()}


def _styles(plan: Plan, pictures: list[Picture], made: list[Picture], placeholders: Mapping[str, str]) -> str:
    """The stylesheet next to the renditions, with backgrounds, and placeholders if the plan wants them there."""
    address = addresses_of(plan).beside
    images = (picture for picture in pictures if picture.slot.use == "picture")
    rules = style_rules(images, placeholders, address) if plan.stylesheet else ""
    return background_rules(made, plan.starts, address) + rules


def _component(plan: Plan, file: Path, made: list[Picture], placeholders: Mapping[str, str]) -> str:
    """The component that woven scripts call; as it is there, if it says the same."""
    from sarvel.pages.weave.component import component, in_form_of

    backgrounds = None if plan.stylesheet else placeholders
    text = component(made, addresses_of(plan).rooted, backgrounds, typed=file.suffix == ".tsx")
    return in_form_of(text, file.read_text("utf-8", "replace")) if is_file(file) else text


def _partials(
    plan: Plan, made: list[Picture], placeholders: Mapping[str, str], values: Iterable[NamedValue]
) -> Iterator[tuple[Path, str]]:
    """The partials, and the macro. A picture that data files name has one for each way in which they write it, too."""
    from sarvel.pages.weave.partials import macro, partial

    said = plan.partials
    if said is None:
        return
    backgrounds = None if plan.stylesheet else placeholders
    names: dict[Pair, set[str]] = {}
    for value in values:
        names.setdefault((value.slot, value.key), set()).add(value.said)
    for picture in made:
        rooted, called = addresses_of(plan).rooted, said.call is not None
        text = partial(picture, rooted, backgrounds, said.ending, said.alt, plan.dialects, called=called)
        pair = (picture.slot.name, picture.master.key)
        for name in sorted({picture.master.key, *names.get(pair, ())}):
            yield partial_file(said, picture, name), text
    if said.macro:
        yield said.macro, macro(made, addresses_of(plan).rooted, backgrounds, said.macro.suffix)
