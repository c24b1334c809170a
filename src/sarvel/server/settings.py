"""Settings of the server of sealed addresses: options of `sarvel deliver`, or variables of the environment."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.errors import PlanError
from sarvel.plan.find import find_plan
from sarvel.workers.cores import available_workers

_UNITS = {"kB": 10**3, "MB": 10**6, "GB": 10**9, "TB": 10**12}
_WEIGHT = re.compile(r"\s*(\d{1,9}(?:\.\d{1,9})?)\s*(kB|MB|GB|TB)\s*")


@dataclass(frozen=True)
class ServerSettings:
    """The settings.

    Attributes:
        cache: the folder that files are kept in.
        cache_bytes: the most that they may weigh together.
        memory_bytes: what of them is kept in memory, too.
        workers: processes that render, >= 1.
        queue: files that may wait to be rendered, >= 1.
        patience: s that a browser is kept waiting for a file.
        longest: s after which the rendering of one file is given up.
        log: the file that a line of JSON is written to for each request; "-" for standard output, "" for none.
    """

    plan: Path
    cache: Path
    cache_bytes: int = 10 * 10**9
    memory_bytes: int = 64 * 10**6
    workers: int = 2
    queue: int = 64
    patience: float = 20.0
    longest: float = 120.0
    log: str = ""


def from_environment(said: Mapping[str, str]) -> ServerSettings:
    """The settings that variables name.

    Args:
        said: the environment: SARVEL_PLAN, SARVEL_CACHE, SARVEL_CACHE_SIZE, SARVEL_MEMORY, SARVEL_WORKERS, SARVEL_QUEUE,
            SARVEL_PATIENCE and SARVEL_ACCESS_LOG, all of them optional.

    Raises:
        PlanError: there is no plan, or a variable has an invalid value.
    """
    plan = Path(said["SARVEL_PLAN"]) if said.get("SARVEL_PLAN") else find_plan(Path.cwd())
    return ServerSettings(
        plan=plan,
        cache=Path(said["SARVEL_CACHE"]) if said.get("SARVEL_CACHE") else plan.parent / CACHE_NAME,
        cache_bytes=weight_of(said.get("SARVEL_CACHE_SIZE") or "10 GB", "SARVEL_CACHE_SIZE"),
        memory_bytes=weight_of(said.get("SARVEL_MEMORY") or "64 MB", "SARVEL_MEMORY"),
        workers=_count(said, "SARVEL_WORKERS", default_workers()),
        queue=_count(said, "SARVEL_QUEUE", 64),
        patience=float(_count(said, "SARVEL_PATIENCE", 20)),
        log=said.get("SARVEL_ACCESS_LOG", ""),
    )


def default_workers() -> int:
    """As many as there are cores, and two at least: one searches encoder numbers, another makes requested files."""
    return max(2, available_workers())


def weight_of(said: str, where: str) -> int:
    """A weight such as "10 GB" in bytes, in units of 1000.

    Raises:
        PlanError: it is not one.
    """
    found = _WEIGHT.fullmatch(said)
    if found is None or float(found[1]) <= 0:
        raise PlanError.at(where, f"'{said}' is no weight", 'write one such as "10 GB"')
    return round(float(found[1]) * _UNITS[found[2]])


def _count(said: Mapping[str, str], name: str, default: int) -> int:
    text = said.get(name, "") or str(default)
    if not text.isascii() or not text.isdecimal() or not 1 <= int(text) <= 100_000:
        raise PlanError.at(name, f"'{text}' is no whole number from 1 to 100000", "write one")
    return int(text)
