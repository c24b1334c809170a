"""Writing into a plan that its author may be editing."""

from __future__ import annotations

import codecs
from collections.abc import Callable
from pathlib import Path

from sarvel.errors import OutputError
from sarvel.files.atomic import holds, write_whole
from sarvel.files.writers import wait_until_still

_TRIES = 5  # of saving into a plan that someone else writes


def rewritten(plan: Path, change: Callable[[str], str]) -> None:
    """Writes a change into the current text of the plan, and never over another one: an editor may save it at any moment.

    Args:
        change: takes its text, and returns the new one.

    Raises:
        OutputError: someone else wrote it each time, or it is a link that leads out of its folder.
    """
    named, plan = plan, plan.resolve()
    if not plan.is_relative_to(named.parent.resolve()):
        raise OutputError.at(named, "is a link that leads out of its folder", f"name the plan itself: --plan {plan}")
    for _ in range(_TRIES):
        wait_until_still(plan)
        content = plan.read_bytes()
        mark = codecs.BOM_UTF8 if content.startswith(codecs.BOM_UTF8) else b""
        saved = mark + change(content.decode("utf-8-sig")).encode()
        if write_whole(plan, saved, plan.stat(), holds(plan, content)):
            return
    raise OutputError.at(plan, "was changed by someone else each time that it was to be written", "run again")
