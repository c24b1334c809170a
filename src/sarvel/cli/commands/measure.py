"""`sarvel measure`: how wide a real browser shows the images of each slot, as lines for the plan."""

from __future__ import annotations

import argparse
import datetime
from collections.abc import Mapping

from sarvel.cli.plans import plan_of
from sarvel.cli.saving import rewritten
from sarvel.cli.ui.console import Console
from sarvel.cli.ui.styles import GOOD, WARNING
from sarvel.core.amounts import counted, listed
from sarvel.core.layout.fitted import Fitted
from sarvel.core.quoted import quoted
from sarvel.notices import Kind, Notice
from sarvel.plan.draft import shown_in_toml
from sarvel.plan.read import Plan
from sarvel.plan.save import with_measured
from sarvel.tools.measure.slots import MeasuredPlan, ShownKind, SlotMeasured, measure_plan

_WORST = 3  # places that are named of many
_SEEN = 0.1  # share of a first screen from which on an image is worth being fetched first


def run(options: argparse.Namespace) -> int:
    """Measures; exit code 1 if the plan says otherwise, images of one slot differ, or a page could not be measured."""
    console = Console.of(options)
    plan = plan_of(options)
    measured = measure_plan(plan, options.pages, options.driver, console, every=options.all)
    for slot in measured.slots:
        _tell(console, slot, plan)
    if options.save:
        _save(plan, measured)
    _sum_up(console, measured, saved=options.save)
    console.trouble(measured.faults)
    console.notes(measured.notes)
    console.document(slots=[_as_json(one) for one in measured.slots], faults=measured.faults, notes=measured.notes)
    otherwise = any(len(one.kinds) > 1 or not (one.agrees or options.save) for one in measured.slots)
    return console.code(failed=bool(measured.faults) or (console.strict and bool(otherwise)))


def _tell(console: Console, one: SlotMeasured, plan: Plan) -> None:
    """Prints a slot as the plan would state it."""
    first, *others = one.kinds
    count = sum(len(kind.places) for kind in one.kinds)
    told = f"    # {counted(count, 'image')} on {counted(len(one.states), 'page')}"
    console.line((f"[slots.{one.slot.name}]", "bold"), (told, "dim"))
    if first.fitted is None:
        console.line(("# nothing shows them at any width", "dim"))
    else:
        error = f"    # to {first.fitted.error:.2f} px; "
        console.line(f"sizes = {_shown(first.fitted, plan)}", (error, "dim"), _verdict(one))
    if first.fitted and one.slot.loading == "lazy" and max(one.first) >= _SEEN:
        shares = zip(one.first, ("phone", "desktop"), strict=True)
        seen = " and ".join(f"{100 * share:.0f} % of a {name}'s" for share, name in shares if share)
        console.line('loading = "eager"', (f"    # the plan says lazy; one fills {seen} first screen", WARNING))
    for number, kind in enumerate(others, 2):
        _tell_apart(console, one, kind, number, plan)
    console.line("")


def _verdict(one: SlotMeasured) -> tuple[str, str]:
    return ("the plan says the same", GOOD) if one.agrees else (f"the plan is {_off(one)}", WARNING)


def _off(one: SlotMeasured) -> str:
    return f"up to {one.off:.1f} px off, at {one.off_at} px"


def _tell_apart(console: Console, one: SlotMeasured, kind: ShownKind, number: int, plan: Plan) -> None:
    """Prints images that are shown otherwise than most of their slot, and a slot for them."""
    places = listed(kind.places, _WORST)
    if kind.fitted is None:
        console.line((f"# nothing shows {places}", "dim"))
        return
    name = f"{one.slot.name}-{number}"
    console.line((f"# not as wide as the others: {places}; write data-sarvel={quoted(name)} there, and", WARNING))
    console.line((f"# [slots.{name}]", WARNING))
    console.line((f"# sizes = {_shown(kind.fitted, plan)}", WARNING))


def _shown(fitted: Fitted, plan: Plan) -> str:
    return shown_in_toml(fitted, plan.breakpoints)


def _sum_up(console: Console, measured: MeasuredPlan, *, saved: bool) -> None:
    off = [one for one in measured.slots if not one.agrees]
    apart = sum(len(one.kinds) > 1 for one in measured.slots)
    told = [f"{counted(len(measured.slots), 'slot')} on {counted(measured.pages, 'page')} measured"]
    told += (
        [f"{len(off)} not what the plan {'said; written into it' if saved else 'says; --save writes it'}"]
        if off
        else []
    )
    told += [f"{apart} with images of different widths"] if apart else []
    console.result("; ".join(told))
    if console.quiet and not saved:
        cure = "run sarvel measure --save"
        console.trouble(
            Notice(Kind.MEASURE, f"slots.{one.slot.name}", f"the plan is {_off(one)}", cure, "warning") for one in off
        )


def _save(plan: Plan, measured: MeasuredPlan) -> None:
    """Writes the measurements into the plan; widths that agree are not changed."""
    today = datetime.datetime.now(tz=datetime.UTC).date().isoformat()

    def saved(text: str) -> str:
        for one in measured.slots:
            if one.fitted is None:
                continue
            shown = None if one.agrees else _shown(one.fitted, plan)
            text = with_measured(text, one.slot.name, shown, _record(today, one.states))
        return text

    rewritten(plan.file, saved)


def _record(today: str, states: Mapping[str, str]) -> str:
    pages = ", ".join(f"{quoted(page)} = {quoted(state)}" for page, state in states.items())
    return f"{{ on = {today}, pages = {{ {pages} }} }}"


def _as_json(one: SlotMeasured) -> dict[str, object]:
    return {
        "slot": one.slot.name,
        "agrees": one.agrees,
        "off": round(one.off, 3),
        "off_at": one.off_at,
        "first_screen": {"phone": round(one.first[0], 4), "desktop": round(one.first[1], 4)},
        "fits": one.fits,
        "kinds": [
            {
                "places": kind.places,
                "sizes": [{"from": start, "width": css} for start, css in kind.fitted.steps] if kind.fitted else None,
                "error": round(kind.fitted.error, 3) if kind.fitted else None,
                "widths": {
                    str(at): None if width is None else round(width, 3) for at, width in sorted(kind.box.widths.items())
                },
            }
            for kind in one.kinds
        ],
    }
