"""Settling by the ledger: which formats pay, and at which widths."""

from __future__ import annotations

from sarvel.core.edition.compose import Edition
from sarvel.core.edition.settle import LeftOut, settle
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_unpaid
from sarvel.files.output_folder import OutputFolder, weights_of
from sarvel.notices import Kind


def settled_edition(edition: Edition, output: OutputFolder, ledger: Ledger) -> tuple[Edition, tuple[LeftOut, ...]]:
    """The Edition without the formats that are known not to pay; and the formats and widths left out."""
    left_out: tuple[LeftOut, ...] = ()
    pictures, open_ = dict(edition.pictures), edition
    while open_.pictures:
        found, more = settle(open_, weights_of(open_, output, ledger), known_unpaid(ledger, open_))
        left_out += more
        pictures |= found.pictures
        if all(one.kind is not Kind.UNPAID for one in more):
            break
        # A picture that stayed as it was stays so.
        open_ = Edition({pair: one for pair, one in found.pictures.items() if one is not open_.pictures[pair]})
    return Edition(pictures), left_out
