"""Writing into a plan what Sarvel found out, without touching anything else in it: a line is added, none is changed."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping

from sarvel.core.crop.place import Box
from sarvel.errors import PlanError
from sarvel.plan.key_lines import lines_of_keys


def subject_in_toml(box: Box) -> str:
    """A subject as a plan has it, in thousandths."""
    return f"[{box.left:.3f}, {box.top:.3f}, {box.right:.3f}, {box.bottom:.3f}]"


def with_subjects(text: str, subjects: Mapping[str, Box]) -> str:
    """The text of a plan with these subjects added; masters that have one already keep theirs.

    Args:
        text: a valid plan.
        subjects: boxes of fractions by master key.

    Raises:
        PlanError: the plan writes its masters in a way that no line can be added to, such as in one inline table.
    """
    end = "\r\n" if "\r\n" in text else "\n"
    for key, box in subjects.items():
        line = f"subject = {subject_in_toml(box)}"
        masters = tomllib.loads(text).get("masters", {})
        if "subject" in masters.get(key, {}):
            continue
        lines = text.splitlines(keepends=True)
        header = lines_of_keys(text).get(("masters", key)) if key in masters else None
        if header:
            if not lines[header - 1].endswith(("\n", "\r")):
                lines[header - 1] += end
            lines.insert(header, line + end)
            text = "".join(lines)
        else:
            name = key.replace("\\", "\\\\").replace('"', '\\"')
            text += ("" if not text or text.endswith("\n") else end) + f'{end}[masters."{name}"]{end}{line}{end}'
        if not _says(text, key, box):
            raise PlanError(f'masters."{key}": no line can be added to the way it is written; add by hand: {line}')
    return text


def _says(text: str, key: str, box: Box) -> bool:
    try:
        said = tomllib.loads(text)["masters"][key]["subject"]
    except (tomllib.TOMLDecodeError, KeyError, TypeError):
        return False
    return bool(said == [round(edge, 3) for edge in (box.left, box.top, box.right, box.bottom)])
