"""Subjects found on several workers."""

import os
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.core.facts import FoundSubject
from sarvel.encode.masters import read_facts
from sarvel.errors import MasterError
from sarvel.pipeline import subjects
from sarvel.pipeline.subjects import SubjectTask, find_subjects
from sarvel.workers.processes import each_done


def looks(folder: Path, count: int) -> list[SubjectTask]:
    found = []
    for i in range(count):
        picture = np.full((120, 180, 3), 90, np.uint8)
        picture[30:60, 10 * i : 10 * i + 40] = (220, 60, 30)
        file = folder / f"{i}.png"
        Image.fromarray(picture).save(file)
        found.append(SubjectTask(file.name, file, read_facts(file, file.name).digest))
    return found


def test_any_number_of_workers_finds_the_same(tmp_path: Path) -> None:
    asked = looks(tmp_path, 7)
    (tmp_path / "3.png").write_bytes(b"no image any more")
    one, two = (dict(find_subjects(asked, workers)) for workers in (1, 2))
    assert one.keys() == two.keys() == set(asked)
    for look, found in one.items():
        other = two[look]
        if look == asked[3]:
            assert isinstance(found, MasterError) and str(found) == str(other) and "3.png" in str(found)
        else:
            assert isinstance(found, FoundSubject) and found == other


def deadly(number: int) -> int:
    if number == 2:
        os._exit(9)
    return number


def test_work_whose_worker_dies_is_done_without(tmp_path: Path) -> None:
    assert sorted(each_done(deadly, range(5), 2, lambda number: -number)) == [-2, 0, 1, 3, 4]
    assert list(each_done(abs, [-3, 2], 1, abs)) == [3, 2]
    look, error = subjects._died(SubjectTask("a.jpg", tmp_path, ""))
    assert look.key == "a.jpg"
    assert str(error) == "a.jpg: the worker that decoded it died; save or copy it again, or leave it out"
