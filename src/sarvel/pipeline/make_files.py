"""Rendering on several workers: the work on each master, wherever a worker runs.

What there is to do is data (`MasterWork`), and doing it is one function of that data (`do_work`), which local processes or the
workers of a cluster run.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from sarvel.core.edition.rendition import Rendition
from sarvel.encode.work import Made, MasterWork
from sarvel.files.atomic import content_digest, sweep, write_whole
from sarvel.files.ledger import MadeFile
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.todo import Todo
from sarvel.workers.processes import each_done

if TYPE_CHECKING:  # few runs have one
    from sarvel.workers.cluster.coordinator import Cluster


@dataclass
class Rendered:
    """The result of a run of the press.

    Attributes:
        made: names of files written by this run.
        kept: how many stood there already.
        faults: masters that could not be finished, by key, each with its message.
        pruned: names of files that were removed, because the plan does not make them any more.
        altered: names of files that stood there and were not what was written; they were made again.
    """

    made: list[str] = field(default_factory=list)
    kept: int = 0
    faults: dict[str, str] = field(default_factory=dict)
    pruned: list[str] = field(default_factory=list)
    altered: Sequence[str] = ()


def render(
    todo: Todo,
    output: OutputFolder,
    workers: int,
    told: Callable[[Made], None] = lambda _: None,
    cluster: Cluster | None = None,
) -> Rendered:
    """Does the work.

    Args:
        todo: the work.
        output: where renditions go.
        workers: processes at most, >= 1; with one, or for one master, no process is started.
        told: called as each master is done, and once for the copies.
        cluster: who does it instead.

    Raises:
        OutputError: the output folder cannot be written.
        ClusterError: the cluster went away.
    """
    result = Rendered(kept=todo.kept, altered=todo.altered)
    for made in _all_done(todo, output, workers, cluster):
        result.made += [file.name for file in made.files]
        if made.fault:
            result.faults[made.key] = made.fault
        told(made)
    return result


def _all_done(todo: Todo, output: OutputFolder, workers: int, cluster: Cluster | None) -> Iterator[Made]:
    from sarvel.workers.make import do_work

    if todo.works:
        try:
            if cluster:
                yield from cluster.each_done(todo.works, output)
            else:
                yield from each_done(do_work, todo.works, workers, _died)
        except BaseException:  # processes were ended, and left what they were writing
            sweep(output.folder)
            raise
    if todo.copies:
        yield Made("copies", tuple(_copied(todo.copies, output)), {})


def _died(work: MasterWork) -> Made:
    reason = "the worker that decoded or encoded it died; save or copy it anew, or leave it out"
    return Made(work.key, (), {}, f"{work.key}: {reason}")


def _copied(copies: Mapping[Rendition, str], output: OutputFolder) -> Iterator[MadeFile]:
    """Copies what is the same as another file; where that could not be made, there is nothing to copy."""
    for one, first in copies.items():
        with contextlib.suppress(FileNotFoundError):
            content = output.read(first)
            write_whole(output.folder / one.name, content)
            yield MadeFile(one.name, len(content), content_digest(content), one.fingerprint)
