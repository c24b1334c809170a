"""The coordinator against workers that never answer, without dask."""

from collections import deque
from concurrent.futures import Future
from pathlib import Path

import pytest

from sarvel.encode.work import Made, MasterWork
from sarvel.errors import ClusterError
from sarvel.files.output_folder import OutputFolder
from sarvel.workers.cluster.coordinator import Cluster, _Run
from sarvel.workers.cluster.task import Reply, Task


class Silent(Cluster):
    """Futures of the first client never complete; the second one answers."""

    def __init__(self, *, comes_back: bool, patience: float) -> None:
        super().__init__("tcp://nowhere", lambda _: None, patience)
        self._threads = {"a": 2}
        self.sent: list[str] = []
        self.looked = 0
        self._comes_back = comes_back

    def look(self) -> bool:
        self.looked += 1
        return self._comes_back and self.looked == 1

    def submit(self, task: Task) -> Future[Reply]:
        self.sent.append(task.work.key)
        future: Future[Reply] = Future()
        if self.looked and self._comes_back:
            future.set_result(Reply(Made(task.work.key, (), {})))
        return future


def run_of(cluster: Cluster, folder: Path, count: int) -> _Run:
    works = [MasterWork(f"{i}.jpg", folder / f"{i}.jpg", "", folder, ()) for i in range(count)]
    return _Run(cluster, deque(works), OutputFolder(folder), "mark")


def test_what_a_client_that_is_gone_had_is_sent_again(tmp_path: Path) -> None:
    cluster = Silent(comes_back=True, patience=60)
    made = list(run_of(cluster, tmp_path, 5).results())
    assert sorted(one.key for one in made) == [f"{i}.jpg" for i in range(5)]
    assert len(cluster.sent) > 5 and {*cluster.sent} == {f"{i}.jpg" for i in range(5)}


def test_a_run_in_which_nothing_moves_ends_and_says_so(tmp_path: Path) -> None:
    cluster = Silent(comes_back=False, patience=0.2)
    with pytest.raises(
        ClusterError, match="nothing was done for 0 s by 2 threads of workers; finished files are kept; check"
    ):
        list(run_of(cluster, tmp_path, 5).results())
