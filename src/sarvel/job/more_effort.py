"""Files that were made with more effort than is asked for now: they stand for those that would be made."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.edition.settle import settle
from sarvel.core.model import EFFORTS, Effort
from sarvel.plan.read import Plan
from sarvel.press.ledger import Ledger
from sarvel.press.ledger_entries import known_efforts
from sarvel.press.output_folder import standing, weights_of


def with_more_effort(plan: Plan, edition: Edition, composed: Callable[[Plan], Edition], ledger: Ledger) -> Edition:
    """The Edition with pictures of more effort, where all their files stand already.

    Args:
        plan: the plan, at the efforts that are asked for.
        edition: what it comes to.
        composed: works out what a plan at other efforts comes to.
        ledger: what knows which efforts were ever made.
    """
    asked = min((EFFORTS.index(slot.effort) for slot in plan.slots.values()), default=0)
    more: list[Effort] = [effort for effort in EFFORTS[asked + 1 :] if effort in known_efforts(ledger)]
    if not more:
        return edition
    there = standing(plan.output)
    pictures = dict(edition.pictures)
    for effort in more:
        other = composed(plan.at_effort(effort, least=True))
        pictures |= _standing(other, weights_of(other, plan.output, ledger), there)
    return Edition(pictures)


def _standing(edition: Edition, weights: Mapping[str, int], there: Mapping[str, int]) -> dict[tuple[str, str], Picture]:
    """The pictures all of whose files were made once, and that still stand as far as they pay."""
    settled, _ = settle(edition, weights)
    return {
        pair: picture
        for pair, picture in edition.pictures.items()
        if all(one.name in weights for one in picture.renditions())
        and all(one.name in there for one in settled.pictures[pair].renditions())
    }
