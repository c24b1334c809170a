"""Notices: what a run has to tell next to its result, as data. `cli.ui.console` prints them; docs/json.md lists their kinds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Literal, TypeAlias

Severity: TypeAlias = Literal["fault", "warning", "note"]
"""fault: something that was asked for is not done; warning: done, and needs the user; note: may be left so."""


class Kind(StrEnum):
    """The subject of a notice: notices of one kind are printed together."""

    CALL = "call"  # the command line, or a function of a Python program
    PLAN = "plan"
    MASTER = "master"  # cannot be read or made
    MOVING = "moving-picture"
    REMARK = "master-remark"
    SMALL = "master-too-small"
    LIMIT = "format-limit"
    PROMISE = "promise"  # of sharpness or of bytes, that a plan could better
    UNPAID = "format-left-out"
    UNDERCUT = "width-left-out"
    FEW = "few-fetch-it"
    SUBJECT_LOST = "subject-lost"
    SUBJECTS_LOST = "subjects-lost"
    GUESSED = "subject-guessed"
    GUESS_LOST = "guessed-subject-lost"
    NO_SUBJECT = "no-subject"
    PAGE = "page"  # cannot be read or written
    IMAGE = "image"  # of a page, cannot be woven
    NO_ALT = "no-alt"
    NOT_MADE = "not-made"
    TO_MAKE = "to-make"
    TO_WRITE = "to-write"
    OUTPUT = "output"  # cannot be written
    ALTERED = "altered"
    KEPT = "kept"  # was not removed
    SENDING = "sending"
    WAITING = "waiting"
    STORAGE = "storage"
    CLUSTER = "cluster"
    BROWSER = "browser"
    DIFFERS = "differs"  # in a browser, or where it is deployed
    LEFT_OUT = "left-out"  # was not looked at
    MEASURE = "measure"
    FINDING = "finding"  # of check, in the markup of a page
    FINDINGS = "findings"


FEWEST = 0.02
"""The share of visits below which a notice is for who asks for all: our choice."""


@dataclass(frozen=True)
class Notice:
    """One thing to tell.

    Attributes:
        place: a file with line and column, or a key of the plan, or a name; may be "".
        cure: the cure; may be "".
        share: of the visits that it concerns, 0 to 1; None where that is not known.
    """

    kind: Kind
    place: str
    text: str
    cure: str = ""
    severity: Severity = "fault"
    share: float | None = None

    def __str__(self) -> str:
        """All of it in one line."""
        return f"{self.place}: {self.words}" if self.place else self.words

    @property
    def words(self) -> str:
        """The text and the cure."""
        return f"{self.text}; {self.cure}" if self.cure else self.text

    @property
    def matters(self) -> bool:
        """Tells whether it is reported without --verbose: it concerns enough visits, or is a fault."""
        return self.severity == "fault" or self.share is None or self.share >= FEWEST

    def within(self, place: object) -> Notice:
        """The same notice, whose place is seen from another one."""
        return replace(self, place=f"{place}: {self.place}" if self.place else str(place))

    @classmethod
    def from_json(cls, said: Mapping[str, Any]) -> Notice:
        """The notice that a document holds."""
        return cls(**{**said, "kind": Kind(said["kind"])})

    def as_json(self) -> dict[str, object]:
        """The notice as docs/json.md has it."""
        return {
            "kind": str(self.kind),
            "severity": self.severity,
            "place": self.place,
            "text": self.text,
            "cure": self.cure,
            "share": self.share if self.share is None else round(self.share, 6),
        }
