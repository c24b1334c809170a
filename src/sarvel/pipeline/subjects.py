"""Looking at the pixels of masters, on several workers: for their subjects, or to show them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple, TypeVar

from sarvel.core.facts import FoundSubject
from sarvel.encode.masters import MasterFile
from sarvel.errors import MasterError
from sarvel.workers.processes import each_done

# Starting a process takes about as long as looking at so many masters.
_WORTH_A_PROCESS = 3


_Seen = TypeVar("_Seen")


class SubjectTask(NamedTuple):
    """A master to look at.

    Attributes:
        digest: of its bytes as they were when its facts were read.
    """

    key: str
    file: MasterFile
    digest: str


def find_subjects(
    looks: Sequence[SubjectTask], workers: int
) -> Iterator[tuple[SubjectTask, FoundSubject | MasterError]]:
    """The subjects of masters, in the order in which they are found; or why one cannot be looked at.

    Args:
        workers: processes at most, >= 1.
    """
    return each_looked_at(_found, looks, workers)


def each_looked_at(
    look: Callable[[SubjectTask], tuple[SubjectTask, _Seen | MasterError]], tasks: Sequence[SubjectTask], workers: int
) -> Iterator[tuple[SubjectTask, _Seen | MasterError]]:
    """The results of looks at masters, in the order in which they are done.

    Args:
        look: a function of a module, which returns why a master cannot be looked at, and raises nothing.
        workers: processes at most, >= 1.
    """
    return each_done(look, tasks, min(workers, max(1, len(tasks) // _WORTH_A_PROCESS)), _died)


def _found(look: SubjectTask) -> tuple[SubjectTask, FoundSubject | MasterError]:
    from sarvel.core.pixels.subject import find_subject  # slow to load, and few plans ask for it
    from sarvel.encode.decode import read_pixels

    try:
        return look, find_subject(read_pixels(look.file, look.key, look.digest))
    except MasterError as error:
        return look, error


def _died(look: SubjectTask) -> tuple[SubjectTask, MasterError]:
    return look, MasterError.at(look.key, "the worker that decoded it died", "save or copy it again, or leave it out")
