"""Files that are made when a browser asks for them: for a look at pages whose files are in no folder.

It replaces the server of sealed addresses, and for a service elsewhere: each address that weaving writes is answered.
"""

from __future__ import annotations

import threading
import urllib.parse
from collections import defaultdict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import TypeVar

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.core.address.pattern import path_and_query
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.edition.rendition import Rendition
from sarvel.encode.work import CropWork, MasterWork
from sarvel.errors import SarvelError
from sarvel.files.cache import Cache
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_number
from sarvel.pipeline.plan_folders import MastersFolder, masters_of_plan
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import Plan

_Result = TypeVar("_Result")
_LIMIT = 10 * 10**9  # bytes, like a server that is not told otherwise


class MadeWhenAsked:
    """Files of a plan by address; any thread may ask."""

    def __init__(self, plan: Plan) -> None:
        """Begins; pages and masters are read at the first question.

        Args:
            plan: one whose files are not made beforehand.
        """
        self._plan, self._cache = plan, Cache(plan.folder / CACHE_NAME, _LIMIT)
        self._files: dict[str, tuple[Picture, Crop, Rendition]] | None = None
        self._ledger_thread = ThreadPoolExecutor(1, "sarvel ledger")  # the one thread that the ledger is for
        self._turns: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)

    def file(self, target: str) -> Path | None:
        """The file of an address, made now if it is missing; None if weaving writes no such address, or it cannot be made.

        Args:
            target: path and query, as a browser sends them.
        """
        try:
            files = self._on_ledger_thread(self._known)
            found = files.get(_plain(target))
            return self._made(*found) if found else None
        except SarvelError:
            return None

    def _known(self, ledger: Ledger) -> dict[str, tuple[Picture, Crop, Rendition]]:
        """All files by their addresses; if one address serves several formats, the best one."""
        if self._files is None:
            self._files = {}
            way = addresses_of(self._plan).rooted
            for picture, crop in read_site(self._plan, ledger, as_it_stands=True).edition.crops():
                for one in (one for ladder in crop.renditions.values() for one in ladder):
                    self._files.setdefault(_plain(path_and_query(way.of(picture, crop, one))), (picture, crop, one))
        return self._files

    def _made(self, picture: Picture, crop: Crop, rendition: Rendition) -> Path | None:
        name = self._cache.name(rendition, first=False)
        place = self._cache.folder / name
        with self._turns[rendition.fingerprint]:
            if place.is_file():
                return place
            from sarvel.workers.make import do_work

            work = work_on(
                masters_of_plan(self._plan), picture, crop, replace(rendition, name=name), self._cache.folder
            )
            search = rendition.encoding.search
            if search and (numbers := self._on_ledger_thread(lambda ledger: known_number(ledger, search))):
                work.crops[0].known[search.key] = numbers
            made = do_work(work)
            self._on_ledger_thread(lambda ledger: ledger.remember([], made.findings))
        return place if place.is_file() else None

    def _on_ledger_thread(self, do: Callable[[Ledger], _Result]) -> _Result:
        def done() -> _Result:
            with ledger_of(self._plan, lambda _: None, creates=False) as ledger:
                return do(ledger)

        return self._ledger_thread.submit(done).result()


def work_on(
    masters: MastersFolder, picture: Picture, crop: Crop, rendition: Rendition, folder: Path,
    known: dict[str, EncoderNumbers] | None = None,
) -> MasterWork:  # fmt: skip
    """The work on one file.

    Args:
        rendition: the file; its name may begin with folders.
        known: encoder's numbers by the key of their search; others are searched for.
    """
    part = (crop.box, crop.rule.treatment, picture.slot.finish.gamut)
    source = crop.source
    work = CropWork(*part, renditions=[rendition], known=known or {})
    return MasterWork(source.key, masters.file(source.key), source.digest, folder, (work,))


def _plain(target: str) -> str:
    """An address with its escapes resolved, which browsers write in more than one way; from the root."""
    return "/" + urllib.parse.unquote(target, errors="surrogateescape").lstrip("/")
