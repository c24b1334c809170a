"""Files by their address: from memory, from disk, or made now; each once, however many ask.

A file whose encoder's number was never searched for is made with the number that is usual in its slot, so that no one waits
for a search; that is done when a worker is idle, and then the file with the right number takes its place.
"""

from __future__ import annotations

import asyncio
import contextlib
import math
import os
import shutil
import time
from collections import OrderedDict
from collections.abc import Callable, Coroutine
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any, TypeVar

from sarvel.core.address.on_request import Asked
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.edition.rendition import Rendition
from sarvel.encode.codecs import CODECS
from sarvel.encode.work import Made
from sarvel.errors import MasterError, OutputError, cure_of
from sarvel.files.cache import Cache
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_number, remember_number, search_key, typical_number
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.pipeline.made_when_asked import work_on
from sarvel.server.answers import CachedFile, accepted, entry_of
from sarvel.server.catalogue import Catalogue, Found
from sarvel.server.memory import Memory
from sarvel.server.outcomes import GONE, Moved, Outcome, Refused, Sent
from sarvel.server.pool import FullError, Pool
from sarvel.server.records import Records
from sarvel.server.settings import ServerSettings
from sarvel.workers.render_process import GivenUpError

_FRESH = 1.0  # s for which the meaning of an address is kept
_MOST_MEANT = 20_000  # addresses whose meaning is kept
_SWEEP = 60.0  # s between sweeps of the cache, at most
_SWEPT_EARLY = 0.05  # of the cache's limit: bytes written since a sweep, after which there is another
_FLUSH = 0.5  # s that the log may lag behind
_LOOK = 0.1  # s between looks at what another server makes
_FAULTY = 30.0  # s after which something that could not be made is tried again
_LONGEST_RETRY = 60  # s

_Result = TypeVar("_Result")


class Renditions:
    """The files of one plan; for one event loop."""

    def __init__(self, settings: ServerSettings, records: Records) -> None:
        """Begins; nothing is read before `start`."""
        self._settings, self._records = settings, records
        self._cache = Cache(settings.cache, settings.cache_bytes)
        self._memory = Memory(settings.memory_bytes)
        self._meant: OrderedDict[str, tuple[float, Found | None]] = OrderedDict()
        self._flights: dict[str, asyncio.Task[tuple[CachedFile, str]]] = {}
        self._looked: dict[str, float] = {}  # when files that do not stay were read last, by fingerprint
        self._searched: set[str] = set()
        self._written = 0  # bytes since the last sweep
        self._faulty: dict[str, tuple[float, str]] = {}
        self._chores: set[asyncio.Task[None]] = set()
        self._ledger_thread = ThreadPoolExecutor(1, "sarvel ledger")  # the one thread that the ledger is for

    async def start(self) -> None:
        """Reads the plan and its keys.

        Raises:
            PlanError: one of them cannot be read.
            OutputError: the cache's folder cannot be made.
        """
        self._catalogue = await self._on_ledger_thread(self._opened)
        self._pool = Pool(self._settings.workers, self._settings.queue, self._settings.longest)
        self._chore(self._every(_SWEEP, self._sweep))
        self._chore(self._every(_FLUSH, self._keep_up))

    def _opened(self) -> Catalogue:
        """The catalogue, with a ledger of the server's own, which begins with what the site's knows."""
        folder = self._settings.cache
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise OutputError.at(folder, f"cannot be made ({error.strerror})", cure_of(error)) from error
        own, sites = folder / FILE_NAME, self._settings.plan.parent / FILE_NAME
        if not os.path.lexists(own) and sites.exists():
            with contextlib.suppress(OSError):
                shutil.copyfile(sites, own)
        self._ledger = Ledger(own, told=self._records.trouble)
        return Catalogue(self._settings.plan, self._ledger)

    async def close(self) -> None:
        """Ends workers and chores, and writes findings."""
        for task in [*self._chores, *self._flights.values()]:
            task.cancel()
        if hasattr(self, "_pool"):
            await asyncio.to_thread(self._pool.close)
        if hasattr(self, "_ledger"):
            await self._on_ledger_thread(self._ledger.close)
        self._ledger_thread.shutdown()
        self._records.flush()

    @property
    def prefix(self) -> str:
        """The path that the plan's addresses begin with, escapes resolved, without a slash at its ends."""
        return self._catalogue.prefix

    def stylesheet(self) -> bytes | None:
        """The stylesheet that weave writes next to the files; or None."""
        try:
            return self._catalogue.stylesheet.read_bytes()
        except OSError:
            return None

    def opened(self, path: str) -> Asked | None:
        """The words of an address that is sealed; None for others."""
        return self._catalogue.opened(path)

    def new_address(self, asked: Asked) -> str:
        """The last part of a sealed address, from its words."""
        return f"{asked.path.rpartition('/')[2]}~{self._catalogue.keys.seal(asked.path)}"

    async def outcome(self, asked: Asked, accept: str) -> Outcome:
        """The response for an address.

        Args:
            asked: its words, sealed.
        """
        try:
            found = await self._found(asked)
        except MasterError as error:
            return self._failed(str(error))
        if found is None:
            return GONE
        if found.now != asked:
            return Moved(found.now)
        files, number = found.files, 0
        if len(files) > 1:
            number = accepted(accept, [one.media_type for one in files])
        rendition, varies = files[number], not asked.ending
        kept = self._memory.get(rendition.fingerprint)
        if kept and (kept.is_final or time.monotonic() < self._looked.get(rendition.fingerprint, 0.0) + _FRESH):
            return Sent(kept, "memory", varies)
        return await self._waited(found, rendition, varies=varies)

    async def _found(self, asked: Asked) -> Found | None:
        """What an address means today, as it was looked up a moment ago or now."""
        key = asked.path
        known = self._meant.get(key)
        if known and time.monotonic() - known[0] < _FRESH:
            return known[1]
        found = await self._on_ledger_thread(lambda: self._catalogue.find(asked))
        self._meant[key] = (time.monotonic(), found)
        self._meant.move_to_end(key)
        while len(self._meant) > _MOST_MEANT:
            self._meant.popitem(last=False)
        return found

    async def _waited(self, found: Found, rendition: Rendition, *, varies: bool) -> Outcome:
        """The file once it is there, or that it takes too long."""
        flight = self._flights.get(rendition.fingerprint)
        if flight is None:
            flight = asyncio.create_task(self._got(found, rendition))
            self._flights[rendition.fingerprint] = flight
            flight.add_done_callback(lambda _: self._flights.pop(rendition.fingerprint, None))
            flight.add_done_callback(
                lambda done: done.cancelled() or done.exception()
            )  # asked for, if no one waits any more
        try:
            entry, source = await asyncio.wait_for(asyncio.shield(flight), self._settings.patience)
        except TimeoutError:
            return Refused(503, "slow", "this picture is still being made; try again", 2)
        except FullError:
            return Refused(503, "full", "too many pictures are waiting to be made; try again", self._retry())
        except GivenUpError as error:
            return self._failed(str(error))
        return Sent(entry, source, varies)

    def _failed(self, message: str) -> Refused:
        self._records.trouble(message)
        return Refused(500, "failed", "this picture cannot be made; the server's log says why")

    def _retry(self) -> int:
        """S after which there may be room again: as long as what waits takes."""
        pool = self._pool
        return min(_LONGEST_RETRY, max(1, math.ceil(pool.waiting * pool.seconds / pool.workers)))

    async def _got(self, found: Found, rendition: Rendition) -> tuple[CachedFile, str]:
        """A file from disk, or made now, here or by another server.

        Raises:
            FullError: too much waits to be made already.
            GivenUpError: it cannot be made.
        """
        if there := await self._on_disk(found, rendition):
            return there, "disk"
        until, why = self._faulty.get(rendition.fingerprint, (0.0, ""))
        if time.monotonic() < until:
            raise GivenUpError(why)
        while (claimed := await asyncio.to_thread(self._cache.claim, rendition)) is None:
            await asyncio.sleep(_LOOK)
            if there := await self._on_disk(found, rendition):
                return there, "disk"
        try:
            if there := await self._on_disk(found, rendition):
                return there, "disk"
            numbers, is_first = await self._on_ledger_thread(lambda: self._numbers(found, rendition))
            await self._made(found, rendition, numbers, is_first=is_first, urgent=True)
        finally:
            await asyncio.to_thread(self._cache.give_back, claimed)
        there = await self._on_disk(found, rendition)
        if there is None:
            raise GivenUpError(
                f"{found.crop.source.key}: a file that was made is gone from the cache; give it more room"
            )
        return there, "made"

    async def _on_disk(self, found: Found, rendition: Rendition) -> CachedFile | None:
        """A file that was made before. If its number was not searched for, that will be done."""
        for is_first in (False, True):
            content = await asyncio.to_thread(self._cache.read, rendition, first=is_first)
            if content:
                entry = entry_of(content, rendition.media_type, is_final=not is_first)
                self._memory.keep(rendition, entry)
                if is_first:
                    self._looked[rendition.fingerprint] = time.monotonic()
                    self._search_later(found, rendition)
                else:
                    self._looked.pop(rendition.fingerprint, None)
                return entry
        return None

    def _numbers(self, found: Found, rendition: Rendition) -> tuple[dict[str, EncoderNumbers], bool]:
        """Encoder numbers by the key of their search, and whether they are only the usual ones. On the ledger's thread."""
        search = rendition.encoding.search
        if search is None:
            return {}, False
        if known := known_number(self._ledger, search):
            return {search.key: known}, False
        usual = typical_number(self._ledger, _kind(found, rendition))
        number = CODECS[rendition.format].expected(search.likeness) if usual is None else usual
        return {search.key: EncoderNumbers(((rendition.width, number, 0.0),))}, True

    async def _made(
        self, found: Found, rendition: Rendition, numbers: dict[str, EncoderNumbers], *, is_first: bool, urgent: bool
    ) -> None:
        """Has a file made, and keeps the findings.

        Raises:
            FullError, GivenUpError: as `_got`.
        """
        named = replace(rendition, name=self._cache.name(rendition, first=is_first))
        work = work_on(self._catalogue.masters, found.picture, found.crop, named, self._cache.folder, numbers)
        began = time.monotonic()
        try:
            made = await asyncio.wrap_future(self._pool.submit(work, urgent=urgent))
            problem = str(made.fault or "")
        except (GivenUpError, OutputError) as error:
            problem = str(error) if isinstance(error, OutputError) else f"{work.key}: {error}"
        if problem:
            self._records.failed.inc()
            self._faulty = {key: one for key, one in self._faulty.items() if one[0] > time.monotonic()}
            self._faulty[rendition.fingerprint] = (time.monotonic() + _FAULTY, problem)
            raise GivenUpError(problem)
        self._written += sum(file.size for file in made.files)
        if self._written > self._settings.cache_bytes * _SWEPT_EARLY:
            self._chore(self._sweep())
        how = "usual" if is_first else "searched" if not numbers and rendition.encoding.search else "known"
        self._records.made.labels(how).inc()
        self._records.rendering.observe(time.monotonic() - began)
        if made.findings:
            await self._on_ledger_thread(lambda: self._remember(found, rendition, made))

    def _remember(self, found: Found, rendition: Rendition, made: Made) -> None:
        """Keeps the numbers that a search came to. On the ledger's thread."""
        self._ledger.remember([], made.findings)
        search = rendition.encoding.search
        if search and search_key(search.key) in made.findings and (numbers := known_number(self._ledger, search)):
            remember_number(self._ledger, _kind(found, rendition), numbers.at(rendition.width))

    def _search_later(self, found: Found, rendition: Rendition) -> None:
        """Has the number of a file searched for when a worker is idle, once at a time."""
        if rendition.fingerprint not in self._searched:
            self._searched.add(rendition.fingerprint)
            self._chore(self._search(found, rendition))

    async def _search(self, found: Found, rendition: Rendition) -> None:
        """Searches for the number of a file, and puts the right file in its place."""
        try:
            claimed = await asyncio.to_thread(self._cache.claim, rendition)
            if claimed is None:  # another server does
                return
            try:
                numbers, is_first = await self._on_ledger_thread(lambda: self._numbers(found, rendition))
                if not await asyncio.to_thread(self._cache.has, rendition):
                    numbers = {} if is_first else numbers
                    await self._made(found, rendition, numbers, is_first=False, urgent=False)
            finally:
                await asyncio.to_thread(self._cache.give_back, claimed)
            if await self._on_disk(found, rendition):
                await asyncio.to_thread(self._cache.drop_first, rendition)
        except FullError:
            pass  # the next who asks for it brings it back
        except GivenUpError as error:
            self._records.trouble(str(error))
        finally:
            self._searched.discard(rendition.fingerprint)

    async def _sweep(self) -> None:
        """Keeps the cache within its limit."""
        self._written = 0
        if len(self._looked) > _MOST_MEANT:
            self._looked.clear()
        swept = await asyncio.to_thread(self._cache.sweep, self._memory.final())
        self._records.cache.set(swept.left)
        self._records.swept.inc(swept.gone)

    async def _keep_up(self) -> None:
        """Takes up a plan or keys that changed, and writes the log down."""
        self._records.flush()
        self._records.waiting.set(self._pool.waiting)
        self._records.busy.set(self._pool.busy)
        if await self._on_ledger_thread(self._catalogue.look_again):
            self._meant.clear()
            problem = self._catalogue.problem
            said = (
                f"{problem}\nthe plan as it was before is served"
                if problem
                else f"{self._settings.plan}: was read again"
            )
            self._records.trouble(said)

    async def _every(self, seconds: float, do: Callable[[], Coroutine[Any, Any, None]]) -> None:
        while True:
            try:
                await do()
            except OSError as error:
                self._records.trouble(f"{error.filename or self._settings.cache}: {error.strerror}")
            await asyncio.sleep(seconds)

    def _chore(self, chore: Coroutine[Any, Any, None]) -> None:
        task = asyncio.create_task(chore)
        self._chores.add(task)
        task.add_done_callback(self._chores.discard)

    async def _on_ledger_thread(self, do: Callable[[], _Result]) -> _Result:
        return await asyncio.get_running_loop().run_in_executor(self._ledger_thread, do)


def _kind(found: Found, rendition: Rendition) -> str:
    """What files have in common whose numbers are the same."""
    search, encoding = rendition.encoding.search, rendition.encoding
    likeness = search.likeness if search else 0.0
    drawn = " drawn" if encoding.drawn else ""
    return f"{found.picture.slot.name} {rendition.format} {encoding.effort} {likeness:g}{drawn}"
