"""The keys that seal addresses: from the environment, or from a file that no one else may read; never from the plan."""

from __future__ import annotations

import os
import re
import stat
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.address.seal import Keys
from sarvel.errors import PlanError, cure_of

if TYPE_CHECKING:
    from sarvel.plan.read import Plan

VARIABLE, FILE_VARIABLE = "SARVEL_KEY", "SARVEL_KEY_FILE"
FILE_NAME = "sarvel.key"
"""The key file next to the plan, where no variable names another."""

_FORM = re.compile(r"[\w-]{32,200}", re.ASCII)
_WANTED = "a key is 32 to 200 letters, digits, hyphens or underscores; sarvel deliver --new-key makes one"
_OTHERS = stat.S_IRWXG | stat.S_IRWXO


def keys_of(plan: Plan, environment: Mapping[str, str] = os.environ) -> Keys:
    """The keys of a plan, the one that seals first.

    Args:
        environment: SARVEL_KEY holds keys, separated by white space or commas; else SARVEL_KEY_FILE names their file.

    Raises:
        PlanError: there is no key, one is malformed, or others may read the file. No message shows a key.
    """
    if said := environment.get(VARIABLE, "").strip():
        return _keys(re.split(r"[\s,]+", said), VARIABLE)
    file = key_file(plan, environment)
    lines = _text(file, plan).splitlines()
    return _keys([line for line in map(str.strip, lines) if line and not line.startswith("#")], str(file))


def key_file(plan: Plan, environment: Mapping[str, str] = os.environ) -> Path:
    """The file of keys, whether it is there or not."""
    named = environment.get(FILE_VARIABLE, "")
    return Path(named) if named else plan.folder / FILE_NAME


def _keys(said: Iterable[str], where: str) -> Keys:
    found = list(said)
    if not found:
        raise PlanError.at(where, "holds no key", f"{_WANTED}")
    for number, one in enumerate(found, 1):
        if not _FORM.fullmatch(one):
            raise PlanError.at(where, f"key {number} has not the form of one", f"{_WANTED}")
    return Keys(tuple(one.encode() for one in found))


def _text(file: Path, plan: Plan) -> str:
    if not file.exists():
        raise PlanError.at(
            plan.file,
            "its addresses are sealed, and there is no key",
            f"make {file} with sarvel deliver --new-key, or put one into the variable {VARIABLE}",
        )
    return private_text(file)


def private_text(file: Path) -> str:
    """The text of a file that no one else may read; systems without such rights are believed.

    Raises:
        PlanError: others may read it, or it cannot be read.
    """
    try:
        mode = file.stat().st_mode
        if os.name == "posix" and mode & _OTHERS:
            raise PlanError.at(file, "others than its owner may read or write it", f"run chmod 600 {file}")
        return file.read_text("ascii")
    except UnicodeDecodeError as error:
        raise PlanError.at(file, "holds letters that no key has", f"{_WANTED}") from error
    except OSError as error:
        raise PlanError.at(file, f"cannot be read ({error.strerror})", cure_of(error)) from error
