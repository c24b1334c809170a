"""Writing into a plan what Sarvel found out: a value is added, and all else stays as it is, comments and all."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from typing import Any

from sarvel.core.crop.place import Box
from sarvel.errors import PlanError


def subject_in_toml(box: Box) -> str:
    """A subject as a plan has it, in thousandths."""
    return f"[{box.left:.3f}, {box.top:.3f}, {box.right:.3f}, {box.bottom:.3f}]"


def with_subjects(text: str, subjects: Mapping[str, Box]) -> str:
    """The text of a plan with these subjects added; masters that have one already keep theirs.

    Args:
        text: a valid plan.
        subjects: boxes of fractions by master key.

    Raises:
        PlanError: the plan is written in a way that nothing can be added to.
    """
    for key, box in subjects.items():
        said = tomllib.loads(text)
        if "subject" in said.get("masters", {}).get(key, {}):
            continue
        added = _with_subject(text, key, box)
        wanted = said.setdefault("masters", {}).setdefault(key, {})
        wanted["subject"] = [round(edge, 3) for edge in (box.left, box.top, box.right, box.bottom)]
        if added is None or tomllib.loads(added) != said:
            line = f"subject = {subject_in_toml(box)}"
            raise PlanError(f'masters."{key}": nothing can be added to the way it is written; add by hand: {line}')
        text = added
    return text


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
        _put(masters[key], tomlkit.array(subject_in_toml(box)))
        added = tomlkit.dumps(document)
    except TOMLKitError:
        return None
    return re.sub(r"(?<!\r)\n", "\r\n", added) if "\r\n" in text and not re.search(r"(?<!\r)\n", text) else added


def _put(master: Any, subject: Any) -> None:  # noqa: ANN401 - tables of tomlkit have no common type
    """Puts a subject behind the last key of a table, before comments and blank lines, which are about what follows."""
    is_table = type(master).__name__ == "Table"  # within an inline one there are none
    body = master.value.body if is_table else []
    behind = []
    while body and body[-1][0] is None:
        behind.append(body.pop())
    master["subject"] = subject
    body.extend(reversed(behind))
