"""Writing findings into a plan: a value is added, and everything else is kept, comments too."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any

from sarvel.core.crop.place import Box
from sarvel.errors import PlanError
from sarvel.plan.schema import FIND


def subject_in_toml(box: Box) -> str:
    """A subject as a plan has it, in thousandths."""
    return f"[{box.left:.3f}, {box.top:.3f}, {box.right:.3f}, {box.bottom:.3f}]"


def with_subjects(text: str, subjects: Mapping[str, Box]) -> str:
    """The text of a plan with these subjects added; masters whose subject it names already keep theirs.

    Args:
        subjects: boxes of fractions by master key.

    Raises:
        PlanError: the plan is written in a way that nothing can be added to.
    """
    for key, box in subjects.items():
        said = tomllib.loads(text)
        if said.get("masters", {}).get(key, {}).get("subject", FIND) != FIND:
            continue
        added = _with_subject(text, key, box)
        wanted = said.setdefault("masters", {}).setdefault(key, {})
        wanted["subject"] = [round(edge, 3) for edge in box.edges]
        if added is None or tomllib.loads(added) != said:
            line = f"subject = {subject_in_toml(box)}"
            raise PlanError.at(
                f'masters."{key}"', "nothing can be added to the way it is written", f"add by hand: {line}"
            )
        text = added
    return text


def with_measured(text: str, slot: str, shown: str | None, record: str) -> str:
    """The text of a plan with the measurements of a slot.

    Args:
        text: a valid plan that has the slot.
        shown: its sizes in TOML; None keeps the existing value.
        record: when and where it was measured, as TOML writes it.

    Raises:
        PlanError: the plan is written in a way that this cannot be written into.
    """
    said = tomllib.loads(text)
    values = {**({"sizes": shown} if shown else {}), "measured": record}
    for key, value in values.items():
        said["slots"][slot][key] = tomllib.loads(f"it = {value}")["it"]
    written = _with_values(text, slot, values)
    if written is None or tomllib.loads(written) != said:
        lines = "; ".join(f"{key} = {value}" for key, value in values.items())
        raise PlanError.at(
            f"slots.{slot}", "it cannot be written into the way it is written", f"write by hand: {lines}"
        )
    return written


def _with_values(text: str, slot: str, values: Mapping[str, str]) -> str | None:
    """The text with values of a slot, comments behind them kept; None if that fails."""
    import tomlkit  # slow to load, and few commands save
    from tomlkit.exceptions import TOMLKitError

    try:
        document = tomlkit.parse(text)
        slots: Any = document["slots"]
        for key, value in values.items():
            _put(slots[slot], key, tomlkit.parse(f"it = {value}\n")["it"])
        written = tomlkit.dumps(document)
    except (TOMLKitError, AttributeError, KeyError, TypeError):
        return None
    return _line_ends_of(text, written)


def _line_ends_of(text: str, written: str) -> str:
    """A text with the line ends of another, if that has one kind alone."""
    is_windows = "\r\n" in text and not re.search(r"(?<!\r)\n", text)
    return re.sub(r"(?<!\r)\n", "\r\n", written) if is_windows else written


def _with_subject(text: str, key: str, box: Box) -> str | None:
    """The text with one subject added; None if that fails."""
    import tomlkit  # slow to load, and few commands save
    from tomlkit.exceptions import TOMLKitError
    from tomlkit.items import InlineTable

    try:
        document = tomlkit.parse(text)
        if "masters" not in document:
            document.append("masters", tomlkit.table(is_super_table=True))
        masters: Any = document["masters"]
        if key not in masters:
            inline = isinstance(masters, InlineTable)
            masters.append(key, tomlkit.inline_table() if inline else tomlkit.table())
        _put(masters[key], "subject", tomlkit.array(subject_in_toml(box)))
        added = tomlkit.dumps(document)
    except TOMLKitError:
        return None
    return _line_ends_of(text, added)


def _put(table: Any, key: str, value: Any) -> None:  # noqa: ANN401 - tables of tomlkit have no common type
    """Puts a value in the place of the one that is there, or behind the last key, before comments and blank lines there."""
    is_table = type(table).__name__ == "Table"  # within an inline one there are none
    body = table.value.body if is_table and key not in table else []
    behind = []
    while body and body[-1][0] is None:
        behind.append(body.pop())
    table[key] = value
    body.extend(reversed(behind))
