"""The subject of a master: which parts of it must stay in view, and who names them."""

from __future__ import annotations

from typing import Literal, NamedTuple, TypeAlias

from sarvel.core.crop.place import Box
from sarvel.core.facts import SURE_ENOUGH, MasterFacts
from sarvel.core.model import Master

SubjectSource: TypeAlias = Literal["plan", "file", "import", "guess", ""]
"""Who names a subject: the plan, metadata, the file of subjects, a guess; "" for none."""


class KnownSubject(NamedTuple):
    """The subject of a master, and its source.

    Attributes:
        boxes: the parts to keep in view, in fractions, the first matters most; empty for none.
        named_by: who names them.
        guessed: how sure that is, 0 to 1; None if it needs no look.
    """

    boxes: tuple[Box, ...]
    named_by: SubjectSource
    guessed: float | None


def known_subject(source: MasterFacts, master: Master) -> KnownSubject:
    """The subject of a master. First the plan, then its metadata, the file of subjects, and a guess if the plan asks for one.

    Args:
        master: what the plan says of it.
    """
    if master.subjects:
        return KnownSubject(master.subjects, "plan", None)
    if named := source.named:
        unsure = named.sure is not None and named.sure < SURE_ENOUGH
        return KnownSubject(named.boxes, named.by, named.sure if unsure else None)
    if master.find and source.found:
        return KnownSubject(source.found.subjects, "guess", source.found.sure)
    return KnownSubject((), "", None)
