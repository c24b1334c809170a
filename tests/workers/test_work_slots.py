"""Turns of threads, results that are worked out once, and work that is the same on any number of them."""

import hashlib
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.crop.turn import Turn
from sarvel.core.edition.encoding import Encoding, QualitySearch
from sarvel.core.edition.rendition import Placeholder, Rendition
from sarvel.core.model import Treatment
from sarvel.encode.crop_encoder import CropEncoder
from sarvel.encode.decode import decode
from sarvel.encode.masters import read_facts
from sarvel.encode.once import Once
from sarvel.encode.work import CropWork, MasterWork, seconds_of
from sarvel.errors import OutputError
from sarvel.workers import make
from sarvel.workers import work_slots as turns
from sarvel.workers.make import do_work


@pytest.fixture(autouse=True)
def alone() -> Iterator[None]:
    yield
    turns.share_slots(threading.BoundedSemaphore(1), 1)


@pytest.mark.parametrize("most", [1, 3])
def test_no_more_at_one_time_than_there_are_turns(most: int) -> None:
    turns.share_slots(threading.BoundedSemaphore(most), most)
    now, seen, lock = [0], list[int](), threading.Lock()

    def unit(_: int) -> None:
        with turns.work_slot():
            with lock:
                now[0] += 1
                seen.append(now[0])
            time.sleep(0.01)
            with lock:
                now[0] -= 1

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(unit, range(24)))
    assert max(seen) == most == turns.slots_in_all()


def test_what_several_want_is_worked_out_once() -> None:
    once, calls = Once[str, int](), list[str]()

    def slow() -> int:
        calls.append("a")
        time.sleep(0.05)
        if len(calls) == 1:
            raise OutputError.at("", "full")
        return 7

    with ThreadPoolExecutor(6) as pool:
        tasks = [pool.submit(once.get, "a", slow) for _ in range(6)]
        faults = [task.exception() for task in tasks]
    assert len(calls) == 2 and [type(one) for one in faults].count(OutputError) == 1
    assert {task.result() for task, fault in zip(tasks, faults, strict=True) if not fault} == {7} == {once.known("a")}
    assert once.known("b") is None


def file(name: str, width: int, encoding: Encoding) -> Rendition:
    ending = name.rpartition(".")[2]
    kind = {"jpg": "jpeg"}.get(ending, ending)
    return Rendition(name, kind, f"image/{kind}", width, round(width * 2 / 3), encoding, name)


def work_in(site: Path, output: Path) -> MasterWork:
    """Three crops, of which two are turned; numbers that are searched for, given, or not wanted; a placeholder."""
    master = site / "masters" / "gull.jpg"
    sizes = tuple((width, round(width * 2 / 3)) for width in (60, 90, 120))
    crops = []
    turned: list[Turn] = ["", "half", "half"]
    for number, turn in enumerate(turned):
        box = Box(0, 0, 900 - 90 * number, 600 - 60 * number)
        searched = Encoding(search=QualitySearch(f"s{number}", 93, sizes[:2]))
        files = [file(f"{number}-{width}.webp", width, searched) for width, _ in sizes]
        files += [file(f"{number}-{width}.jpg", width, Encoding(quality=50)) for width, _ in sizes]
        files += [file(f"{number}-90.png", 90, Encoding(lossless=True))]
        treatment = replace(Treatment(), rotate=turn)
        crops.append(CropWork(box, treatment, "srgb", files, [Placeholder("tint", f"p{number}", sizes[0])]))
    return MasterWork("gull.jpg", master, read_facts(master, "gull.jpg").digest, output, tuple(crops))


def test_the_same_bytes_and_findings_on_any_number_of_threads(site: Path, tmp_path: Path) -> None:
    results = []
    for most in (1, 2, 5):
        turns.share_slots(threading.BoundedSemaphore(most), most)
        made = do_work(work_in(site, tmp_path / str(most)))
        digests = {
            one.name: hashlib.sha256((tmp_path / str(most) / one.name).read_bytes()).digest() for one in made.files
        }
        results.append((made.files, dict(made.findings), digests))
    assert results[0] == results[1] == results[2]
    files, findings, _ = results[0]
    assert [one.name for one in files] == [
        one.name for crop in work_in(site, tmp_path).crops for one in crop.renditions
    ]
    assert sorted(findings) == sorted(
        [f"quality s{number}" for number in range(3)] + [f"placeholder p{number}" for number in range(3)]
    )


def test_a_fault_ends_the_work_and_what_was_made_is_told(
    site: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    turns.share_slots(threading.BoundedSemaphore(2), 2)
    made = do_work(replace(work_in(site, tmp_path / "out"), digest="00"))
    assert not made.files and "was changed while this run was at work" in str(made.fault)
    written: list[str] = []

    def full(path: Path, content: bytes, **_: object) -> bool:
        written.append(path.name)
        if len(written) > 4:
            raise OutputError.at("", f"{path}: cannot be written (No space left on device)")
        return bool(content)

    monkeypatch.setattr(make, "write_whole", full)
    with pytest.raises(OutputError, match="No space left"):
        do_work(work_in(site, tmp_path / "out"))
    time.sleep(0.5)
    assert len(written) < 21  # the others are not begun any more


def test_a_bench_keeps_what_it_tried(site: Path, tmp_path: Path) -> None:
    work = work_in(site, tmp_path)
    bench = CropEncoder(work.crops[0], decode(work.file, work.key, "srgb"))
    files = [one for one in work.crops[0].renditions if one.format == "webp"]
    assert bench.search(files[0]).keys() == {"quality s0"} and bench.search(files[0]) == {}
    assert bench.in_order(files[::-1])[-1] == files[2]  # the only one that the search did not make
    numbers = bench.numbers(files[0])
    assert numbers and numbers.at(120) == numbers.at(90)  # the middle rung's for wider ones
    png = work.crops[0].renditions[-1]
    assert bench.search(png) == {} and bench.numbers(png) is None and bench.in_order([png]) == [png]


def test_two_slots_of_one_crop_have_searches_of_their_own(site: Path, tmp_path: Path) -> None:
    """Their ladders differ, and so do the rungs that numbers are searched on; a format is left out if it pays for neither."""
    master = site / "masters" / "gull.jpg"
    ladders = {"a": (60, 90), "b": (70, 110)}
    searches = {
        (slot, name): QualitySearch(f"{slot} {name}", 93, tuple((width, round(width * 2 / 3)) for width in widths))
        for slot, widths in ladders.items()
        for name in ("webp", "jpg")
    }
    files = [
        file(f"{slot}-{width}.{name}", width, Encoding(search=search))
        for (slot, name), search in searches.items()
        for width in (*ladders[slot], 200)
    ]
    crop = CropWork(
        Box(0, 0, 900, 600),
        Treatment(),
        "srgb",
        files,
        orders=[{"a webp": 0.03, "a jpg": 0.03}, {"b webp": 0.03}, {"b jpg": 0.03}],
    )
    digest = read_facts(master, "gull.jpg").digest
    made = do_work(MasterWork("gull.jpg", master, digest, tmp_path, (crop,)))
    assert {one.name for one in made.files} >= {one.name for one in files if not one.name.startswith("a-")}
    bench = CropEncoder(crop, decode(master, "gull.jpg", "srgb"))
    for one in files:
        bench.search(one)
    firsts = [files[number] for number in range(0, len(files), 3)]
    tried = [bench._tries(one, one.encoding.search) for one in firsts[:2] if one.encoding.search]
    unpaid = {one.name for one in bench.unpaid(firsts)}
    pays_not = all(own > 0.97 * 1.1 * tried[1].files[width] for width, own in tried[0].files.items())
    assert unpaid == ({"a-60.webp"} if pays_not else set())  # b's stand alone in their slots, and stay


def test_dear_files_are_told_from_cheap_ones() -> None:
    """As measured: AVIF takes longest of the lossy ones, and what keeps every pixel longer still; pixels count."""
    lossy = Encoding(quality=50)
    costs = [seconds_of(file(name, 900, lossy)) for name in ("a.jpg", "a.webp", "a.avif")]
    assert costs == sorted(costs) and seconds_of(file("a.png", 900, Encoding(lossless=True))) > costs[-1]
    searched = Encoding(search=QualitySearch("s", 93, ((900, 600),)))
    assert costs[-1] < seconds_of(file("a.avif", 900, searched)) < seconds_of(file("a.avif", 1800, lossy))
