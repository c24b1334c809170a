"""Files that were made with another effort than requested, and are kept instead."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.model import EFFORTS
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_efforts
from sarvel.files.output_folder import OutputFolder, sizes_of, weights_of
from sarvel.pipeline.settling import settled_edition
from sarvel.plan.read import Plan


def standing_efforts(plan: Plan, ledger: Ledger, *, less: bool) -> Iterator[Plan]:
    """The plan at other efforts whose files may be kept; an existing picture takes precedence over those of earlier ones.

    Args:
        plan: the plan, at the efforts that are asked for.
        ledger: what knows which efforts were ever made.
        less: whether files of less effort are acceptable, if the requested ones are missing.
    """
    made = known_efforts(ledger)
    if not made - {slot.effort for slot in plan.slots.values()}:
        return
    efforts = [effort for effort in EFFORTS if effort in made]
    if less:
        yield from map(plan.at_effort, efforts)
        yield plan
    yield from (plan.at_effort(effort, least=True) for effort in efforts)


def standing(edition: Edition, output: OutputFolder, ledger: Ledger) -> dict[tuple[str, str], Picture]:
    """The pictures all of whose files were made once, and that still are as far as they pay."""
    weights = weights_of(edition, output, ledger)
    there = sizes_of(edition, output)
    settled, _ = settled_edition(edition, output, ledger)
    return {
        pair: picture
        for pair, picture in edition.pictures.items()
        if all(one.name in weights for one in settled.pictures[pair].renditions())
        and all(one.name in there for one in settled.pictures[pair].renditions())
    }
