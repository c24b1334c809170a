"""Reading [slots] and [masters]: each into what the core computes with, or the problem that is in its way."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from sarvel.core.crop.place import Box
from sarvel.core.html.selector import Selector, SelectorError, parse_selector
from sarvel.core.model import FINISHES, ONE_FILE, ONLY_CROP, CropOverride, CropRule, Finish, Master, Measurement, Slot
from sarvel.plan import schema
from sarvel.plan.key_lines import KeyPath
from sarvel.plan.messages import Problem, nearest
from sarvel.plan.slot_layout import read_crops, read_ratio, read_shown

_RUNGS = 5  # where a plan gives no number of widths
_AUTO = re.compile(r"\s*auto\s*(?:,|$)", re.IGNORECASE)


def slots_of(parsed: schema.PlanFile) -> Iterator[tuple[str, Slot] | Problem]:
    """The slots of a plan, by name; and their problems, and those of breakpoints."""
    first = min(parsed.breakpoints, key=lambda name: parsed.breakpoints[name])
    if parsed.breakpoints[first] != 0:
        yield Problem(
            ("breakpoints", first),
            f"the narrowest breakpoint begins at {parsed.breakpoints[first]:g}",
            "begin one at 0",
        )
    for starts in set(parsed.breakpoints.values()):
        alike = [name for name, start in parsed.breakpoints.items() if start == starts]
        if len(alike) > 1:
            yield Problem(
                ("breakpoints", alike[1]), f"begins at {starts:g}, as {alike[0]} does", "take one of them away"
            )
    for name, slot in parsed.slots.items():
        try:
            yield name, _slot(name, slot, parsed)
        except Problem as problem:
            owner = name.removesuffix("-link")
            links = parsed.slots[owner].links if owner != name and owner in parsed.slots else None
            is_own = links is not None and schema.is_width(links) and problem.path[-1] == "sizes"
            yield Problem(("slots", owner, "links"), problem.text, problem.cure) if is_own else problem


def _slot(name: str, slot: schema.SlotTable, parsed: schema.PlanFile) -> Slot:
    path = ("slots", name)
    shown = read_shown(slot.sizes, parsed.breakpoints, (*path, "sizes"))
    if "{density}" in slot.name and shown.constant() is None:
        key = "sizes" if slot.name == parsed.defaults.name else "name"
        raise Problem((*path, key), "{density} in file names needs one constant shown width")
    crops = read_crops(slot, parsed.breakpoints, (*path, "crops"))
    _check_one_file(name, slot, crops, parsed)
    return Slot(
        name=name,
        shown=shown,
        name_files=slot.name,
        crops=crops,
        loading=slot.loading or "lazy",
        opens_eager=slot.loading is None,
        formats=tuple(dict.fromkeys(slot.formats)),
        finish=_finish(slot, parsed.defaults.quality),
        effort=slot.effort,
        densities=slot.densities,
        rungs=slot.widths if isinstance(slot.widths, int) else _RUNGS,
        excess=_share(slot.widths) if isinstance(slot.widths, str) else None,
        soft=min(_share(slot.soft), 0.99),
        widths=slot.widths if isinstance(slot.widths, tuple) else None,
        widest=slot.widest,
        masters=slot.masters,
        use=slot.use,
        links=_links(name, slot.links, parsed),
        selectors=_selectors(slot, (*path, "selectors")),
        placeholder=slot.placeholder.lower(),
        reserve=slot.reserve or "",
        auto_sizes=slot.auto_sizes or _says_auto(slot.sizes),
        measured=Measurement(said.on.isoformat(), MappingProxyType(said.pages)) if (said := slot.measured) else None,
    )


def _check_one_file(name: str, slot: schema.SlotTable, crops: Sequence[CropRule], parsed: schema.PlanFile) -> None:
    """Raises a Problem if a place that names one file would have a choice of files, or an image for sharing no whole address."""
    path = ("slots", name)
    if slot.use not in ONE_FILE:
        return
    if slot.use == "share" and not parsed.site.url:
        text = "is for sharing, which needs the address that the site is published at"
        raise Problem((*path, "use"), text, 'write url = "https://…" under [site]')
    for key, count in (("formats", len(slot.formats)), ("crops", len(crops))):
        if count > 1:
            raise Problem((*path, key), f"has {count}, and a place of this use names one file", "write one")


def _links(name: str, said: str | None, parsed: schema.PlanFile) -> str:
    """The slot for links around a slot's images."""
    if said is None:
        return ""
    if schema.is_width(said):
        return f"{name}-link"
    if said not in parsed.slots or parsed.slots[said].use != "link":
        links = [one for one, slot in parsed.slots.items() if slot.use == "link"]
        text = f"'{said}' is neither a width nor a slot for links"
        cure = ", or ".join(['write a width such as "1600px"', *links])
        raise Problem(("slots", name, "links"), text, cure)
    return said


def _share(said: str) -> float:
    """A percentage as a share."""
    return float(said.strip().rstrip("%")) / 100


def _says_auto(shown: object) -> bool:
    """Tells whether a shown width is a `sizes` value that lets browsers measure the image."""
    said = shown.get(schema.EVERY_BAND, "") if isinstance(shown, Mapping) else ""
    return bool(_AUTO.match(said))


def _selectors(slot: schema.SlotTable, path: KeyPath) -> tuple[Selector, ...]:
    try:
        selectors = tuple(map(parse_selector, slot.selectors))
    except SelectorError as error:
        raise Problem(path, str(error)) from error
    for one in selectors:
        if one.type not in ("", "img") and slot.use == "picture":
            raise Problem(
                path, f"'{one.css}' is no selector of an img", "write img, or say under `use` what the images are for"
            )
    return selectors


def _finish(slot: schema.SlotTable, default: Any) -> Finish:  # noqa: ANN401 - as the schema has it
    """The finish of a slot; formats without an encoder number of their own have the quality of [defaults]."""
    numbers = slot.quality if isinstance(slot.quality, Mapping) else {}
    said = slot.quality if not numbers else "standard" if isinstance(default, Mapping) else default
    return Finish(
        name=said if isinstance(said, str) else f"{said:g}",
        likeness=FINISHES[said] if isinstance(said, str) else float(said),
        quality=numbers,
        gamut=slot.gamut,
        metadata=slot.metadata,
        interlace=slot.interlace,
    )


def masters_of(parsed: schema.PlanFile, slots: Mapping[str, Slot]) -> Iterator[tuple[str, Master] | Problem]:
    """The plan's settings of masters, by key; and their problems."""
    for key, master in parsed.masters.items():
        try:
            crops = {
                (slot, crop): _override(slot, crop, said, slots, ("masters", key, "crops", slot, crop))
                for slot, by_crop in master.crops.items()
                for crop, said in by_crop.items()
                if slot in slots or slot not in parsed.slots  # problems of a slot are reported already
            }
        except Problem as problem:
            yield problem
            continue
        find = master.subject == schema.FIND
        boxes = () if find or master.subject is None else tuple(Box(*box) for box in master.subject)
        yield (
            key,
            Master(
                master.alt,
                boxes,
                find,
                MappingProxyType(crops),
                None if master.kind is None else master.kind == "graphic",
            ),
        )


def _override(
    slot: str, crop: str, said: schema.MasterCropTable, slots: Mapping[str, Slot], path: KeyPath
) -> CropOverride:
    if slot not in slots:
        raise Problem(path[:-1], f"no slot '{slot}'", nearest(slot, slots))
    names = [rule.name or ONLY_CROP for rule in slots[slot].crops]
    if crop not in names:
        raise Problem(path, f"no crop '{crop}' in slot {slot}", nearest(crop, names))
    ratio = read_ratio(said.ratio, (*path, "ratio")) or 0.0 if said.ratio else None
    return CropOverride(
        box=Box(*said.box) if said.box else None,
        master=said.from_,
        ratio=ratio,
        zoom=said.zoom,
        subject_at=(said.subject_at[0], said.subject_at[1]) if said.subject_at else None,
    )
