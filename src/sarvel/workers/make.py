"""The work on one master: decoded once, and all missing files made from it, on as many threads as there are turns."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field

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


@dataclass(frozen=True)
class _Task:
    """What one thread does at a time for a crop: its placeholders, a search for an encoder's numbers, or a file.

    Attributes:
        file: to be written, or one of the format that is searched for; None for placeholders.
    """

    encoder: CropEncoder
    file: Rendition | None = None
    is_search: bool = False


def do_work(work: MasterWork) -> Made:
    """Makes all files of one master; a fault of the master ends it early and is reported, not raised.

    Raises:
        OutputError: a file cannot be written, which would go for every master.
    """
    running, fault = _Running(work), None
    try:
        running.run()
    except MasterError as error:
        fault = error.notices[0]
    except OutputError:
        raise
    except Exception as error:  # noqa: BLE001 - no matter what a codec raises for one master, the others are made
        cure = "save it in another format, or leave it out"
        fault = Notice(Kind.MASTER, work.key, f"cannot be made ({error!r})", cure)
    asked = (one.name for crop in work.crops for one in crop.renditions)
    files = tuple(running.files[name] for name in asked if name in running.files)
    return Made(work.key, files, running.findings, fault)


@dataclass
class _Running:
    """The work on a master while it is done: one thread hands tasks to others.

    Attributes:
        files: the written files, by name.
    """

    work: MasterWork
    files: dict[str, MadeFile] = field(default_factory=dict)
    findings: dict[str, str] = field(default_factory=dict)
    _tasks: dict[Future[None], _Task] = field(default_factory=dict)
    _pool: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(slots_in_all()))
    _ended: threading.Event = field(default_factory=threading.Event)

    def run(self) -> None:
        """Does it.

        Raises:
            MasterError: it cannot be decoded, or was changed.
            OutputError: a file cannot be written.
        """
        most_open = 1 + slots_in_all() // 2  # crops: each holds the pixels of all its rungs
        try:
            for crops in self._encoders():
                for encoder in crops:
                    while len({id(task.encoder) for task in self._tasks.values()}) >= most_open:
                        self._advance()
                    self._begin(_first_tasks(encoder))
                while self._tasks:
                    self._advance()
        except BaseException:  # an interrupt among them
            self._ended.set()
            self._pool.shutdown(wait=False, cancel_futures=True)
            raise
        self._pool.shutdown()

    def _encoders(self) -> Iterator[list[CropEncoder]]:
        """The encoders of crops that are made of the same light, because one light is as much as memory should hold."""
        with work_slot():
            exif = _credit(self.work) if self.work.metadata else b""
        masters: dict[Gamut, Decoded] = {}
        for crops in _alike(self.work.crops):
            first = crops[0]
            if first.gamut not in masters:
                with work_slot():
                    masters[first.gamut] = decode(self.work.file, self.work.key, first.gamut, self.work.digest)
            treatment = first.treatment
            masters[first.gamut].reducer(treatment.rotate, mirror=treatment.mirror, each=_each_in_turn(self._pool))
            yield [CropEncoder(crop, masters[crop.gamut], exif) for crop in crops]

    def _begin(self, tasks: Iterable[_Task]) -> None:
        self._tasks |= {self._pool.submit(self._perform, task): task for task in tasks}

    def _advance(self) -> None:
        """Waits until a task is done, and starts the tasks that depend on it."""
        done, _ = wait(self._tasks, return_when=FIRST_COMPLETED)
        for future in done:
            task = self._tasks.pop(future)
            future.result()
            others = [one for one in self._tasks.values() if one.is_search and one.encoder is task.encoder]
            if task.is_search and not others:
                self._begin(self._after_searches(task.encoder))

    def _after_searches(self, encoder: CropEncoder) -> Iterator[_Task]:
        """The files of a crop whose numbers had to be searched for, but for formats that do not pay."""
        unpaid = encoder.unpaid([files[0] for files in encoder.searched])
        self.findings |= {name: said for one in unpaid.values() for name, said in one.items()}
        for files in encoder.searched:
            if files[0] not in unpaid:
                yield from (_Task(encoder, one) for one in encoder.in_order(files))

    def _perform(self, task: _Task) -> None:
        """Does a task, as one of the threads."""
        encoder, file = task.encoder, task.file
        with work_slot():
            if file is None:
                self._placeholders(encoder)
            elif task.is_search:
                self.findings |= encoder.search(file)
            else:
                self._write(file, _no_heavier(self.work, encoder, file, encoder.encode(file)))

    def _placeholders(self, encoder: CropEncoder) -> None:
        from sarvel.encode.placeholder_css import background_of  # slow to load, and few plans ask for it

        for placeholder in encoder.crop.placeholders:
            background = background_of(placeholder.kind, encoder.in_srgb(placeholder.size))
            self.findings[placeholder_key(placeholder.key)] = background

    def _write(self, file: Rendition, content: bytes) -> None:
        if write_whole(self.work.output / file.name, content, still=self._may_write, top=self.work.output):
            self.files[file.name] = MadeFile(file.name, len(content), content_digest(content), file.fingerprint)

    def _may_write(self) -> bool:
        return parent_lives() and not self._ended.is_set()


def _first_tasks(encoder: CropEncoder) -> Iterator[_Task]:
    """The first tasks of a crop."""
    if encoder.crop.placeholders:
        yield _Task(encoder)
    for files in encoder.by_format:
        if files in encoder.searched:
            yield _Task(encoder, files[0], is_search=True)
        else:
            yield from (_Task(encoder, one) for one in encoder.in_order(files))


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


def _no_heavier(work: MasterWork, encoder: CropEncoder, rendition: Rendition, content: bytes) -> bytes:
    """The bytes of a file, no more than its master has: the master's own where possible, else by a lower quality."""
    if own := untouched(work, encoder.crop, rendition, len(content)):
        return own
    most = size_of(work.file) or len(content)
    is_lossy = rendition.encoding.quality is not None or rendition.encoding.search is not None
    return encoder.encode_within(rendition, most) if len(content) > most and is_lossy else content


def _credit(work: MasterWork) -> bytes:
    with opened(work.file, work.key, work.digest) as image:
        return credit_of(image)
