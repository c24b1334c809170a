"""`sarvel plan`: what will be made and why, before anything is made."""

from __future__ import annotations

import argparse
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from sarvel.cli.quality import as_json, quality_table
from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker, console_width
from sarvel.core.edition import Cut, Edition, Picture
from sarvel.core.plan import ONLY_CUT, Slot
from sarvel.errors import PlanError
from sarvel.plan.messages import nearest
from sarvel.plan.read import Plan
from sarvel.press.findings import numbers_found
from sarvel.press.numbers import Numbers

if TYPE_CHECKING:
    from rich.table import Table

_SMALL = 0.1  # excess that nobody need think about
_MANY = 6  # widths that a line of 120 columns has room for
_ROOMY = 104  # columns of a terminal from which the crop and the even spread are shown too


def run(options: argparse.Namespace) -> int:
    """Shows the plan; exit code 1 if it loses a subject or something cannot be read."""
    speaker = Speaker.of(options)
    plan = plan_of(options)
    slots = [_slot(plan, name) for name in options.slots or plan.slots]
    with ledger_of(plan, writes=False) as ledger:
        return _run(read_site(plan, ledger), slots, options, speaker)


def _run(site: Site, slots: list[Slot], options: argparse.Namespace, speaker: Speaker) -> int:
    plan = site.plan
    shown = [picture for picture in site.edition.pictures.values() if picture.slot in slots]
    numbers = numbers_found(site.ledger, site.edition) if options.quality else None
    for slot in slots:
        _tell(speaker, slot, [picture for picture in shown if picture.slot == slot], numbers)
    files = sum(1 for picture in shown for _ in picture.renditions())
    speaker.result(f"{files} files of {len({picture.master.key for picture in shown})} masters")
    warnings, notes = (
        _once(plan, (picture.warnings for picture in shown)),
        _once(plan, (picture.notes for picture in shown)),
    )
    speaker.trouble([*site.faults, *warnings])
    speaker.notes(notes)
    speaker.document(
        slots=[_as_json(slot, site.edition, numbers_found(site.ledger, site.edition)) for slot in slots],
        faults=site.faults,
        warnings=warnings,
        notes=notes,
    )
    return 1 if site.faults or warnings else 0


def _slot(plan: Plan, name: str) -> Slot:
    if name not in plan.slots:
        raise PlanError(f"{plan.file}: no slot '{name}'; {nearest(name, plan.slots)}")
    return plan.slots[name]


def _once(plan: Plan, messages: Iterable[Sequence[str]]) -> list[str]:
    return list(dict.fromkeys(f"{plan.file}: {message}" for some in messages for message in some))


def _tell(speaker: Speaker, slot: Slot, pictures: list[Picture], numbers: Mapping[str, Numbers] | None) -> None:
    if speaker.json or speaker.quiet:
        return
    from rich.text import Text  # noqa: PLC0415 - slow to load, and --json needs none

    densities = " ".join(f"{density:g}" for density in slot.densities)
    speaker.rich(
        Text.assemble(
            (slot.name, "bold"),
            f"  load {slot.load} · {' '.join(slot.formats)} · finish {_finish(slot)} · densities {densities}",
        )
    )
    constant = slot.shown.constant()
    said = f"{constant:g} px wide everywhere: density descriptors" if constant is not None else _sizes(slot)
    speaker.rich(Text.assemble(("  sizes  ", "dim"), said))
    if pictures:
        speaker.rich(_table(pictures) if numbers is None else quality_table(pictures, numbers))
    else:
        speaker.rich(Text("  no page asks for it\n", style="dim"))


def _finish(slot: Slot) -> str:
    by_hand = "".join(f", {name} {number} by hand" for name, number in slot.finish.quality.items())
    return f"{slot.finish.name} (likeness {slot.finish.likeness:g}{by_hand})"


def _sizes(slot: Slot) -> str:
    return slot.shown.sizes(lazy=slot.load == "later")


def _table(pictures: list[Picture]) -> Table:
    from rich import box  # noqa: PLC0415 - as above
    from rich.table import Table  # noqa: PLC0415 - as above
    from rich.text import Text  # noqa: PLC0415 - as above

    roomy = console_width() >= _ROOMY
    table = Table(box=box.SIMPLE_HEAD, padding=(0, 1, 0, 0), pad_edge=False)
    table.add_column("master", overflow="ellipsis", no_wrap=True, max_width=26)
    table.add_column("cut", no_wrap=True)
    several = any(len(picture.cuts) > 1 for picture in pictures)
    if roomy and several:
        table.add_column("viewports", no_wrap=True)
    if roomy:
        table.add_column("crop, px", no_wrap=True)
    table.add_column("widths, px", no_wrap=roomy)
    table.add_column("files", no_wrap=True, justify="right")
    table.add_column("excess", no_wrap=True, justify="right")
    if roomy:
        table.add_column("even", no_wrap=True, justify="right", style="dim")
    table.add_column("one\nfile", no_wrap=True, justify="right", style="dim")
    for picture in pictures:
        for i, cut in enumerate(picture.cuts):
            crop = f"{cut.box.width:.0f}×{cut.box.height:.0f} at {cut.box.left:.0f}, {cut.box.top:.0f}"
            guessed = " ?" if cut.guessed is not None else ""
            files = sum(len(ladder) for ladder in cut.renditions.values())
            table.add_row(
                "" if i else picture.master.key + (" (drawn)" if cut.drawn else ""),
                (cut.rule.name or ONLY_CUT) + guessed,
                *([str(cut.viewports)] if roomy and several else []),
                *([crop] if roomy else []),
                _widths(cut),
                str(files),
                Text(_percent(cut.ladder.excess), style="green" if cut.ladder.excess <= _SMALL else "yellow"),
                *([_percent(cut.ladder.even)] if roomy else []),
                _percent(cut.ladder.one_for_all),
            )
    return table


def _widths(cut: Cut) -> str:
    """A ladder in a line: all of a short one, the ends of a long one."""
    widths = [str(width) for width in cut.ladder.widths]
    if len(widths) > _MANY:
        widths = [*widths[:3], f"… {len(widths)} in all …", widths[-1]]
    return " ".join(widths) + (" soft" if cut.soft else "")


def _percent(share: float) -> str:
    return f"{share:.1%}" if 0 < share < 0.0995 else f"{share:.0%}"


def _as_json(slot: Slot, edition: Edition, numbers: Mapping[str, Numbers]) -> dict[str, object]:
    return {
        "slot": slot.name,
        "load": slot.load,
        "formats": list(slot.formats),
        "finish": slot.finish.name,
        "likeness": slot.finish.likeness,
        "densities": list(slot.densities),
        "sizes": "" if slot.shown.constant() is not None else _sizes(slot),
        "pictures": [
            {"master": picture.master.key, "width": picture.master.width, "height": picture.master.height}
            | {"cuts": [_cut_as_json(cut, numbers) for cut in picture.cuts]}
            for picture in edition.pictures.values()
            if picture.slot == slot
        ],
    }


def _cut_as_json(cut: Cut, numbers: Mapping[str, Numbers]) -> dict[str, object]:
    met = sum(visits.share for visits in cut.visits)
    return {
        "cut": cut.rule.name,
        "media": cut.rule.media.css,
        "viewports": str(cut.viewports),
        "guessed": cut.guessed,
        "drawn": cut.drawn,
        "formats": {name: as_json(ladder[0].encoding, numbers) for name, ladder in cut.renditions.items()},
        "box": [cut.box.left, cut.box.top, cut.box.right, cut.box.bottom],
        "widths": list(cut.ladder.widths),
        "files": sum(len(ladder) for ladder in cut.renditions.values()),
        "sizes": cut.sizes,
        "excess": round(cut.ladder.excess, 6),
        "even_spread": round(cut.ladder.even, 6),
        "one_for_all": round(cut.ladder.one_for_all, 6),
        "soft": [str(visits.device) for visits in cut.soft],
        "soft_share": round(sum(visits.share for visits in cut.soft) / met, 6),
    }
