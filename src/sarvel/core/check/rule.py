"""Rules, and findings of markup that breaks them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias, get_args

from sarvel.core.html.pieces import Edit

Severity: TypeAlias = Literal["broken", "wasteful", "hint"]
"""broken: a wrong image or none; wasteful: too many bytes, waiting or softness; hint: possibly intended."""

SEVERITIES: tuple[Severity, ...] = get_args(Severity)


@dataclass(frozen=True)
class Rule:
    """A rule for image markup.

    Attributes:
        name: what messages, allow-lists and other programs call it.
        severity: how grave it is to break it.
        why: why it matters, in a sentence or two.
        mend: what to do, where a finding does not state it better.
        woven: what to do where Sarvel wrote the markup, which must not be edited; "" where that is the same.
        bounds: where it is reported, and where it is silent.
        before: an example with the fault; "" for none.
        after: the same, mended.
    """

    name: str
    severity: Severity
    why: str
    mend: str
    bounds: str
    before: str
    after: str
    woven: str = ""


@dataclass(frozen=True)
class Finding:
    """A place where a rule is broken.

    Attributes:
        start: where the markup at fault begins, in the page.
        says: the fault, in a sentence.
        cure: for this fault; "" stands for the rule's.
        edits: what mends it; none where that is not sure.
    """

    rule: str
    start: int
    end: int
    says: str
    cure: str = ""
    edits: tuple[Edit, ...] = ()
