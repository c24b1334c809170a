"""A forecast of a plan: files, time and bytes, before anything is made."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

from sarvel.core.edition.compose import Edition
from sarvel.core.edition.expected import expected_bytes
from sarvel.files.ledger import Ledger
from sarvel.files.output_folder import weights_of
from sarvel.pipeline.make_files import estimate
from sarvel.pipeline.page_sums import PageSums, pairs_shown_on, sum_pages, weigh
from sarvel.pipeline.site import Site
from sarvel.pipeline.todo import Todo, work_to_do


@dataclass(frozen=True)
class Forecast:
    """A forecast.

    Attributes:
        seconds: that making the missing ones may take.
        by_run: whether that follows an earlier run, not by the pixels alone.
        sums: what pages will fetch, in bytes.
        guessed: whether some of that is guessed, for files that were never made.
        weights: bytes of files, by name: known, or guessed.
    """

    to_make: int
    kept: int
    seconds: float
    by_run: bool
    sums: PageSums
    guessed: bool
    weights: Mapping[str, int] = field(repr=False, default_factory=dict)


def forecast(site: Site, ledger: Ledger, slots: Collection[str], workers: int | None = None) -> Forecast:
    """Predicts the files, time and bytes of the pictures of some slots.

    Raises:
        OutputError: the folder of renditions cannot be read.
    """
    plan = site.plan
    edition = Edition({pair: one for pair, one in site.edition.pictures.items() if pair[0] in slots})
    nothing = Todo([], {}, 0)
    todo = work_to_do(edition, site.masters.file, site.output, ledger) if plan.makes_files else nothing
    seconds, by_run = estimate(todo, ledger, workers)
    known = weights_of(edition, site.output, ledger)
    expected = {
        one.name: round(expected_bytes(one.format, one.size, crop.met.slot.finish, drawn=crop.drawn))
        for _, crop in edition.crops()
        for ladder in crop.renditions.values()
        for one in ladder
    }
    on_pages = [
        some for page in site.pages if (some := {pair for pair in pairs_shown_on(page) if pair in edition.pictures})
    ]
    weights = expected | known
    sums = sum_pages(on_pages, weigh(edition.pictures.values(), weights))
    return Forecast(todo.count, todo.kept, seconds, by_run, sums, not expected.keys() <= known.keys(), weights)
