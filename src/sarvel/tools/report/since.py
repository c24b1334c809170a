"""What changed since an earlier report."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sarvel.tools.report.facts import Report


@dataclass(frozen=True)
class ReportedChange:
    """A picture whose files weigh otherwise than before on some device.

    Attributes:
        before: bytes fetched before; None if it was not there.
        now: bytes fetched now; None if it is gone.
    """

    slot: str
    master: str
    device: str
    before: int | None
    now: int | None

    @property
    def by(self) -> int:
        """Bytes more than before."""
        return (self.now or 0) - (self.before or 0)


@dataclass(frozen=True)
class Since:
    """All that changed.

    Attributes:
        fetched: bytes that all pages fetched before, by device.
        changes: pictures that changed, the largest change first.
        tasks: how many things needed a person before.
    """

    fetched: Mapping[str, int]
    changes: tuple[ReportedChange, ...]
    tasks: int


def since(report: Report, earlier: Mapping[str, Any]) -> Since:
    """Compares a report with the document of an earlier one.

    Raises:
        KeyError, TypeError, AttributeError: it is no document of a report.
    """
    before = {
        (one["slot"], one["master"], device): int(fetch["bytes"])
        for one in earlier["pictures"]
        for device, fetch in one["fetched"].items()
    }
    now = {
        (one.slot, one.master, device): fetch.weight for one in report.pictures for device, fetch in one.fetched.items()
    }
    changes = [
        ReportedChange(*key, before.get(key), now.get(key))
        for key in dict.fromkeys((*now, *before))
        if before.get(key) != now.get(key)
    ]
    changes.sort(key=lambda one: (-abs(one.by), one.slot, one.master, one.device))
    fetched = {str(device): int(count) for device, count in earlier["pages_fetch"]["bytes"].items()}
    return Since(fetched, tuple(changes), len(earlier["tasks"]))


def by_device(report: Report, told: Since) -> dict[str, str]:
    """How many bytes all pages fetch more or less than before, in words, by device."""
    changes = {device: now - told.fetched.get(device, 0) for device, now in report.fetched.items()}
    return {device: in_bytes(by) for device, by in changes.items()}


def in_bytes(by: int) -> str:
    """A change in words."""
    if not by:
        return "as many bytes"
    return f"{'+' if by > 0 else '−'}{abs(by) / 1000:,.1f} kB"
