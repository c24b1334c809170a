"""The work on one master: decoded once, and all missing files made from it, on as many threads as there are turns."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from typing import TypeAlias

from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Gamut
from sarvel.core.pixels.resample import Each
from sarvel.encode.credit import credit_of
from sarvel.encode.crop_encoder import CropEncoder
from sarvel.encode.decode import Decoded, decode
from sarvel.encode.masters import opened, size_of
from sarvel.encode.untouched import untouched
from sarvel.encode.work import CropWork, Made, MasterWork
from sarvel.errors import MasterError, OutputError
from sarvel.files.atomic import content_digest, write_whole
from sarvel.files.ledger import MadeFile
from sarvel.files.ledger_entries import placeholder_key
from sarvel.notices import Kind, Notice
from sarvel.workers.life import parent_lives
from sarvel.workers.work_slots import slots_in_all, work_slot

Unit: TypeAlias = Callable[[], "Sequence[Unit]"]
"""A unit of work: does it, and returns the units that are possible now."""


def do_work(work: MasterWork) -> Made:
    """Makes all files of one master; a fault of the master ends it early and is reported, not raised.

    Raises:
        OutputError: a file cannot be written, which would go for every master.
    """
    running = _Running(work)
    try:
        running.run()
    except MasterError as error:
        return running.made(error.notices[0])
    except OutputError:
        raise
    except Exception as error:  # noqa: BLE001 - no matter what a codec raises for one master, the others are made
        cure = "save it in another format, or leave it out"
        return running.made(Notice(Kind.MASTER, work.key, f"cannot be made ({error!r})", cure))
    return running.made()


@dataclass
class _Running:
    """The work on a master while it is done.

    Attributes:
        files: what was written, by name.
    """

    work: MasterWork
    files: dict[str, MadeFile] = field(default_factory=dict)
    findings: dict[str, str] = field(default_factory=dict)
    _ended: threading.Event = field(default_factory=threading.Event)

    def made(self, fault: Notice | None = None) -> Made:
        """The result, files in the order in which they were asked for."""
        asked = [one.name for crop in self.work.crops for one in crop.renditions]
        return Made(
            self.work.key, tuple(self.files[name] for name in asked if name in self.files), self.findings, fault
        )

    def run(self) -> None:
        """Does it.

        Raises:
            MasterError: it cannot be decoded, or was changed.
            OutputError: a file cannot be written.
        """
        with work_slot():
            exif = _credit(self.work) if self.work.metadata else b""
        masters: dict[Gamut, Decoded] = {}
        pool = ThreadPoolExecutor(slots_in_all())
        try:
            for crops in _alike(self.work.crops):
                first = crops[0]
                if first.gamut not in masters:
                    with work_slot():
                        masters[first.gamut] = decode(self.work.file, self.work.key, first.gamut, self.work.digest)
                treatment = first.treatment
                masters[first.gamut].reducer(treatment.rotate, mirror=treatment.mirror, each=_each_in_turn(pool))
                self._run_crops(pool, [CropEncoder(crop, masters[crop.gamut], exif) for crop in crops])
        except BaseException:  # an interrupt among them
            self._ended.set()
            pool.shutdown(wait=False, cancel_futures=True)
            raise
        pool.shutdown()

    def _run_crops(self, pool: ThreadPoolExecutor, benches: Sequence[CropEncoder]) -> None:
        """Makes the files of some crops, few at a time: each holds the pixels of all its rungs."""
        most_open = 1 + slots_in_all() // 2
        open_: dict[Future[Sequence[Unit]], int] = {}
        for number, bench in enumerate(benches):
            while len(set(open_.values())) >= most_open:
                self._advance(pool, open_)
            open_ |= {pool.submit(_in_turn, unit): number for unit in self._units(bench)}
        while open_:
            self._advance(pool, open_)

    def _advance(self, pool: ThreadPoolExecutor, open_: dict[Future[Sequence[Unit]], int]) -> None:
        """Waits until a unit is done, and begins the units that it makes possible."""
        done, _ = wait(open_, return_when=FIRST_COMPLETED)
        for one in done:
            number = open_.pop(one)
            open_ |= {pool.submit(_in_turn, unit): number for unit in one.result()}

    def _units(self, bench: CropEncoder) -> Iterator[Unit]:
        """The work on a crop that can be begun: a search in each format, or the files whose number is known; placeholders."""
        if bench.crop.placeholders:
            yield lambda: self._placeholders(bench)
        alike: dict[Encoding, list[Rendition]] = {}
        for one in bench.crop.renditions:
            alike.setdefault(one.encoding, []).append(one)
        groups = list(alike.values())
        searched = [files for files in groups if bench.is_searched(files[0])]
        searches = _Searches(searched, len(searched))
        for files in groups:
            if files in searched:
                yield lambda files=files: self._search(bench, files[0], searches)  # type: ignore[misc] # mypy does not see that it fits
            else:
                yield lambda files=files: self._files_of(bench, files)  # type: ignore[misc] # as above

    def _placeholders(self, bench: CropEncoder) -> Sequence[Unit]:
        from sarvel.encode.placeholder_css import background_of  # slow to load, and few plans ask for it

        for placeholder in bench.crop.placeholders:
            background = background_of(placeholder.kind, bench.in_srgb(placeholder.size))
            self.findings[placeholder_key(placeholder.key)] = background
        return ()

    def _search(self, bench: CropEncoder, rendition: Rendition, searches: _Searches) -> Sequence[Unit]:
        """Searches for the numbers of a format; the last search of a crop decides which formats pay."""
        self.findings |= bench.search(rendition)
        if not searches.is_last():
            return ()
        unpaid = bench.unpaid([files[0] for files in searches.groups])
        self.findings |= {name: said for one in unpaid.values() for name, said in one.items()}
        kept = [files for files in searches.groups if files[0] not in unpaid]
        return [lambda files=files: self._files_of(bench, files) for files in kept]  # type: ignore[misc] # as above

    def _files_of(self, bench: CropEncoder, files: Sequence[Rendition]) -> Sequence[Unit]:
        """Writes the files of a format that a search made; others can be begun then."""
        there, others = bench.parted(files)
        for one in there:
            self._write(bench, one)
        return [lambda one=one: self._write(bench, one) for one in others]  # type: ignore[misc] # as above

    def _write(self, bench: CropEncoder, rendition: Rendition) -> Sequence[Unit]:
        """Writes a file."""
        content = _no_heavier(self.work, bench, rendition, bench.encode(rendition))
        if write_whole(self.work.output / rendition.name, content, still=self._may_write, top=self.work.output):
            digest = content_digest(content)
            self.files[rendition.name] = MadeFile(rendition.name, len(content), digest, rendition.fingerprint)
        return ()

    def _may_write(self) -> bool:
        return parent_lives() and not self._ended.is_set()


@dataclass
class _Searches:
    """The searches of a crop that are under way."""

    groups: Sequence[Sequence[Rendition]]
    left: int
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def is_last(self) -> bool:
        """Counts one that is done, and tells whether it was the last."""
        with self._lock:
            self.left -= 1
            return self.left == 0


def _in_turn(unit: Unit) -> Sequence[Unit]:
    with work_slot():
        return unit()


def _each_in_turn(pool: ThreadPoolExecutor) -> Each:
    """Does something for each of some numbers on the threads of a pool, which take turns."""

    def done(do: Callable[[int], None], numbers: Iterable[int]) -> Iterable[None]:
        def one(number: int) -> None:
            with work_slot():
                do(number)

        return pool.map(one, numbers)

    return done


def _alike(crops: Sequence[CropWork]) -> Iterator[list[CropWork]]:
    """Crops that are made of the same light, because one is as much as memory should hold; in the order of their first."""
    groups: dict[object, list[CropWork]] = {}
    for crop in crops:
        groups.setdefault((crop.gamut, crop.treatment.rotate, crop.treatment.mirror), []).append(crop)
    yield from groups.values()


def _no_heavier(work: MasterWork, bench: CropEncoder, rendition: Rendition, content: bytes) -> bytes:
    """The bytes of a file, no more than its master has: the master's own where possible, else by a lower quality."""
    if own := untouched(work, bench.crop, rendition, len(content)):
        return own
    most = size_of(work.file) or len(content)
    is_lossy = rendition.encoding.quality is not None or rendition.encoding.search is not None
    return bench.encode_within(rendition, most) if len(content) > most and is_lossy else content


def _credit(work: MasterWork) -> bytes:
    with opened(work.file, work.key, work.digest) as image:
        return credit_of(image)
