"""The context of a check: files that a page names, its stylesheets, its audience, the plan's slots."""

from __future__ import annotations

from collections.abc import Callable, Collection, Hashable, Mapping
from dataclasses import dataclass, field
from typing import TypeAlias

from sarvel.core.css.device import Device
from sarvel.core.css.sheet import Sheet
from sarvel.core.layout.audience import BUILT_IN, Visits, busiest
from sarvel.core.model import Slot


@dataclass(frozen=True)
class LinkedFile:
    """A file that an address leads to.

    Attributes:
        width: px; 0 if it is missing or no image that can be read.
        height: px; 0 too.
        type: its media type, going by its content; "" too.
        missing: whether it ought to be at hand and is not.
        real_name: its name, if that differs in letter case from the address; else "".
        near: of a missing file, one that has the same name and another ending, or none; else "".
        weight: bytes; 0 if it is missing.
        base: of a missing file that lies next to its page, the base of the page that leads elsewhere; else "".
    """

    width: int = 0
    height: int = 0
    type: str = ""
    missing: bool = False
    real_name: str = ""
    near: str = ""
    weight: int = 0
    base: str = ""


FileLookup: TypeAlias = Callable[[str], LinkedFile | None]
"""Takes an address; returns its file, or None for external and template URLs."""


def no_file(_address: str) -> None:
    """For a page whose files are not at hand."""


def no_sheet(_address: str) -> None:
    """For a page whose stylesheets are not at hand."""


@dataclass(frozen=True)
class Context:
    """The context of a check.

    Attributes:
        lookup: facts of the files that it names.
        sheets: the stylesheet of an address; None if it is not at hand.
        audience: single viewports that it is visited with, at least one.
        slots: the plan's, by name; none without a plan.
        too_wide: from how many times as many pixels across as a device needs a file is a waste, > 1.
        rules: the names of all rules, which pages may allow to be broken.
        budgets: bytes that all images of a page may weigh, by device.
        fitting: shapes of images that were found to fit every device; checks add to them.
    """

    lookup: FileLookup = no_file
    sheets: Callable[[str], Sheet | None] = no_sheet
    audience: tuple[Visits, ...] = busiest(BUILT_IN)
    slots: Mapping[str, Slot] = field(default_factory=dict)
    too_wide: float = 2.0
    rules: Collection[str] = ()
    budgets: Mapping[Device, int] = field(default_factory=dict)
    fitting: set[Hashable] = field(default_factory=set)
