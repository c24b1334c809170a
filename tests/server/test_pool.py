"""Workers: what is urgent first, a bound, and what becomes of work that dies or takes too long."""

from concurrent.futures import Future
from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Treatment
from sarvel.encode.masters import read_facts
from sarvel.encode.work import CropWork, Made, MasterWork
from sarvel.server import pool as pools
from sarvel.server.pool import FullError, Pool
from sarvel.workers.render_process import DiedError, GivenUpError, RenderProcess

FILE = Rendition("a.jpg", "jpeg", "image/jpeg", 90, 60, Encoding(quality=50), "f")


def work(site: Path, digest: str = "") -> MasterWork:
    master = site / "masters" / "gull.jpg"
    crop = CropWork(Box(0, 0, 900, 600), Treatment(), "srgb", [FILE])
    return MasterWork("gull.jpg", master, digest or read_facts(master, "gull.jpg").digest, site / "made", (crop,))


def test_work_is_done_and_what_a_master_is_told_of_comes_back(site: Path) -> None:
    pool = Pool(1, 8, 60)
    made = pool.submit(work(site), urgent=True).result(60)
    assert made.files[0].name == "a.jpg" and (site / "made" / "a.jpg").stat().st_size == made.files[0].size
    assert "was changed while this run was at work" in str(pool.submit(work(site, "00"), urgent=False).result(60).fault)
    pool.close()
    with pytest.raises(FullError):
        pool.submit(work(site), urgent=True)


def test_what_takes_too_long_is_given_up_and_the_next_is_done(site: Path) -> None:
    pool = Pool(1, 8, 0.0)
    with pytest.raises(GivenUpError, match="took more than 0 s"):
        pool.submit(work(site), urgent=True).result(60)
    pool._longest = 60
    assert pool.submit(work(site), urgent=True).result(60).files
    pool.close()


def test_what_kills_its_worker_is_tried_again_once(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    processes: list[RenderProcess] = []

    class Dying(RenderProcess):
        def do(self, *_: object) -> Made:
            processes.append(self)
            self._process.kill()
            raise DiedError

    monkeypatch.setattr(pools, "RenderProcess", Dying)
    pool = Pool(1, 8, 60)
    with pytest.raises(GivenUpError, match="the worker that decoded or encoded it died"):
        pool.submit(work(site), urgent=True).result(60)
    assert len(processes) == 2
    pool.close()


def test_urgent_work_goes_first_within_a_bound(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    order: list[str] = []
    gate: Future[None] = Future()

    class Slow(RenderProcess):
        def __init__(self, **_: object) -> None:
            pass

        def lives(self) -> bool:
            return True

        def do(self, what: MasterWork, *_: object) -> Made:
            order.append(what.key)
            gate.result(30)
            return Made(what.key, (), {})

        def close(self) -> None:
            pass

    monkeypatch.setattr(pools, "RenderProcess", Slow)
    pool = Pool(1, 2, 60)
    named = {name: MasterWork(name, site, "", site, ()) for name in "abcdef"}
    first = pool.submit(named["a"], urgent=True)
    while not order:
        pass
    waiting = [pool.submit(named[name], urgent=name in "de") for name in "bcde"]
    assert pool.waiting == 2 and pool.busy == 1
    for urgent in (True, False):
        with pytest.raises(FullError):
            pool.submit(named["f"], urgent=urgent)
    gate.set_result(None)
    assert [one.result(30).key for one in (first, *waiting)] == ["a", "b", "c", "d", "e"]
    assert order == ["a", "d", "e", "b", "c"]
    pool.close()
