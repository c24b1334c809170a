"""What sealed addresses mean: of a plan that may change at any time, and of masters that come and go."""

from __future__ import annotations

import os
import time
import urllib.parse
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePath

from sarvel.core.address.on_request import Asked, asked_of, in_all_formats, unsealed
from sarvel.core.address.pattern import path_and_query
from sarvel.core.address.seal import Keys
from sarvel.core.edition.compose import Crop, Picture, masters_of
from sarvel.core.edition.rendition import Rendition
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.core.model import ONLY_CROP
from sarvel.errors import SarvelError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger import Stamp as MasterStamp
from sarvel.pages.weave.output_address import Addresses
from sarvel.pipeline.plan_folders import MastersFolder, masters_of_plan
from sarvel.pipeline.site import compose_edition
from sarvel.plan.read import Plan, read_plan
from sarvel.plan.seal_keys import key_file, keys_of

_LISTED = 60.0  # s that masters in object storage are treated as as they were: a listing is paid for
_FRESH = 1.0  # s that a plan, keys and masters are treated as as they were
_MOST_KEPT = 2000  # pictures that are kept composed; each has some dozen files, about 50 kB

Stamp = tuple[tuple[int, int] | None, ...]  # size and time of change of some files; None of one that is not there


@dataclass(frozen=True)
class Found:
    """What an address means.

    Attributes:
        files: the file, or it in all its formats, best first, where the server chooses.
        now: the words of the current address; others are those of an earlier plan or master.
    """

    picture: Picture
    crop: Crop
    files: tuple[Rendition, ...]
    now: Asked


@dataclass
class Catalogue:
    """The catalogue of a plan; for one thread, which the ledger is for.

    Attributes:
        plan: the plan as it was read last.
        masters: where its masters are, as it was seen last.
        prefix: the path that addresses begin with, escapes resolved, without a slash at its ends.
        problem: why the plan or its keys could not be read again; "" if they could.
    """

    file: Path
    ledger: Ledger
    environment: Mapping[str, str] = field(default_factory=lambda: os.environ, repr=False)
    plan: Plan = field(init=False)
    masters: MastersFolder = field(init=False)
    keys: Keys = field(init=False, repr=False)
    prefix: str = field(init=False)
    problem: str = ""
    _looked: float = 0.0
    _listed: float = 0.0
    _stamp: Stamp = ()
    _pictures: OrderedDict[tuple[str, str], tuple[list[MasterStamp | None], Picture, float]] = field(
        default_factory=OrderedDict
    )

    def __post_init__(self) -> None:
        """Reads the plan and its keys.

        Raises:
            PlanError: one of them cannot be read.
        """
        self._read()
        self._stamp = _stamp(self._files())

    def look_again(self) -> bool:
        """Reads the plan and its keys again if their files changed; what cannot be read is reported in `problem`, once.

        Returns:
            Whether something was read, or could not be.
        """
        if time.monotonic() - self._looked < _FRESH:
            return False
        self._looked = time.monotonic()
        if self._stamp == _stamp(self._files()):
            return False
        try:
            self._read()
        except SarvelError as error:
            self.problem = str(error)
        return True

    def _files(self) -> list[Path]:
        return [self.file, *self.plan.tables, key_file(self.plan, self.environment)]

    def _read(self) -> None:
        if self._looked:
            self._stamp = _stamp(self._files())  # before it is read: later changes are read the next time
        plan = read_plan(self.file)
        self.keys = keys_of(plan, self.environment)
        self.plan, self.problem = plan, ""
        self.masters, self._listed = masters_of_plan(plan), time.monotonic()
        said = Addresses(plan.output, plan.root, plan.address, plan.base).prefix
        self.prefix = urllib.parse.unquote(path_and_query(said), errors="surrogateescape").strip("/")
        self._pictures.clear()

    @property
    def stylesheet(self) -> Path:
        """The stylesheet that weave writes next to the files, whether it is there or not."""
        return self.plan.output / STYLESHEET

    def opened(self, path: str) -> Asked | None:
        """The words of an address that a key of the plan sealed; None for others. Reads no file."""
        return unsealed(path, self.keys)

    def find(self, asked: Asked) -> Found | None:
        """What an address means today; None if the plan has no such slot, or the master is not there any more.

        Raises:
            MasterError: the master cannot be read.
        """
        picture = self._picture(asked.slot, asked.master)
        if picture is None:
            return None
        by_accept = not asked.ending
        crops = {crop.rule.name or ONLY_CROP: crop for crop in picture.crops}
        crop = crops.get(asked.crop, picture.crops[-1])
        ladders = list(crop.renditions.values())
        ladder = next((one for one in ladders if one[0].name.endswith(f".{asked.ending}")), ladders[-1])
        ladder = ladders[0] if by_accept else ladder
        file = next((one for one in ladder if one.width >= asked.width), ladder[-1])
        files = in_all_formats(crop.renditions, file.width) if by_accept else [file]
        return Found(picture, crop, tuple(files), asked_of(picture, crop, file, by_accept=by_accept))

    def _picture(self, slot: str, key: str) -> Picture | None:
        plan, pair = self.plan, (slot, key)
        if slot not in plan.slots or not _is_key(key):
            return None
        known = self._pictures.get(pair)
        if known and time.monotonic() - known[2] < _FRESH:
            self._pictures.move_to_end(pair)
            return known[1]
        if plan.masters_url and time.monotonic() - self._listed > _LISTED:
            self.masters, self._listed = masters_of_plan(plan), time.monotonic()
        stamp = [self.masters.stamp(one) for one in masters_of([pair], plan.masters)]
        if None in stamp:
            self._pictures.pop(pair, None)
            return None
        if known is None or known[0] != stamp:
            edition, unreadable = compose_edition(plan, self.masters, [pair], self.ledger)
            for error in unreadable.values():
                raise error
            known = (stamp, edition.pictures[pair], 0.0)
        self._pictures[pair] = (stamp, known[1], time.monotonic())
        self._pictures.move_to_end(pair)
        while len(self._pictures) > _MOST_KEPT:
            self._pictures.popitem(last=False)
        return known[1]


def _is_key(key: str) -> bool:
    """Whether a key means a file within the masters folder. Signed ones do; this holds even if a key were known."""
    path = PurePath(key)
    return not (path.anchor or ".." in path.parts or "\0" in key)


def _stamp(files: list[Path]) -> Stamp:
    found: list[tuple[int, int] | None] = []
    for file in files:
        try:
            stat = file.stat()
        except (OSError, ValueError):
            found.append(None)
        else:
            found.append((stat.st_size, stat.st_mtime_ns))
    return tuple(found)
