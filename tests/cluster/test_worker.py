"""What a worker does with a task, and how works are parted."""

from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Treatment
from sarvel.encode.work import CropWork, Made, MasterWork
from sarvel.errors import ClusterError, StorageError
from sarvel.files.atomic import content_digest
from sarvel.files.ledger import MadeFile
from sarvel.files.storage.store import Store
from sarvel.files.storage.stored_output import StoredOutput
from sarvel.workers.cluster import worker
from sarvel.workers.cluster.coordinator import Cluster
from sarvel.workers.cluster.identity import difference, identity
from sarvel.workers.cluster.task import Task
from sarvel.workers.render_process import DiedError, RenderProcess


def task(folder: Path) -> Task:
    """Work on nothing of a master that is there."""
    master = folder / "a.jpg"
    master.write_bytes(b"bytes")
    (folder / "made").mkdir()
    work = MasterWork("a.jpg", master, content_digest(b"bytes"), folder / "made", ())
    return Task(work, identity(), "mark")


def test_a_master_that_is_not_the_same_there_is_asked_for(tmp_path: Path) -> None:
    asked = task(tmp_path)
    assert worker.do_task(asked).made == Made("a.jpg", (), {})
    (tmp_path / "a.jpg").write_bytes(b"other")  # a file of that name, as another machine may have
    assert worker.do_task(asked).lacks
    (tmp_path / "a.jpg").unlink()
    assert worker.do_task(asked).lacks
    assert worker.do_task(replace(asked, master=b"bytes")).made == Made("a.jpg", (), {})


def test_a_process_that_dies_is_told_and_another_takes_its_place(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked = task(tmp_path)

    def dies(_hand: RenderProcess, _work: MasterWork) -> Made:
        raise DiedError

    with monkeypatch.context() as patch:
        patch.setattr(RenderProcess, "do", dies)
        assert worker.do_task(asked).died
    assert worker.do_task(asked).made is not None
    hand = RenderProcess()
    hand.close()
    with pytest.raises(DiedError):
        hand.do(asked.work)


def test_files_go_to_object_storage_from_where_they_are_made(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The memory of this process stands for storage that both reach; where that refuses, files come back."""
    asked = replace(task(tmp_path), place=StoredOutput("memory://shop/pictures", {"webp": "image/webp"}))

    def makes(_hand: RenderProcess, work: MasterWork) -> Made:
        work.output.mkdir(exist_ok=True)
        (work.output / "a.webp").write_bytes(b"123")
        return Made("a.jpg", (MadeFile("a.webp", 3, "", ""),), {})

    monkeypatch.setattr(RenderProcess, "do", makes)
    reply = worker.do_task(asked)
    assert reply.sent and not reply.contents and asked.place and asked.place.store.get("a.webp") == b"123"

    def refuses(*_: object) -> None:
        raise StorageError.at("", "no") from PermissionError()

    monkeypatch.setattr(Store, "put", refuses)
    reply = worker.do_task(asked)
    assert not reply.sent and reply.contents == {"a.webp": b"123"}


@pytest.mark.parametrize(
    ("theirs", "said"),
    [
        (identity(), ""),
        ((("sarvel", "9.9"), *identity()[1:]), "sarvel 9.9 where we have "),
        (identity()[:-1], f"{identity()[-1][0]} missing where we have "),
        ((*identity(), ("new", "1")), "new 1 where we have none"),
    ],
)
def test_versions_that_differ_are_named(theirs: tuple[tuple[str, str], ...], said: str) -> None:
    found = difference(theirs, identity())
    assert found.startswith(said) if said else found == ""


@pytest.mark.parametrize(("most", "count"), [(1000.0, 1), (4.0, 2), (0.001, 4)])
def test_a_work_is_parted_by_crops_of_about_equal_expense(most: float, count: int) -> None:
    files = [Rendition(f"{i}.avif", "avif", "image/avif", 2000, 1000 + i, Encoding(quality=60)) for i in range(4)]
    crops = tuple(CropWork(Box(0, i, 1, 1), Treatment(), "srgb", [one]) for i, one in enumerate(files))
    work = MasterWork("a", Path("a"), "", Path("out"), crops)
    parts = work.parts(most)
    assert len(parts) == count and {crop.box for part in parts for crop in part.crops} == {crop.box for crop in crops}
    assert max(part.estimated_seconds for part in parts) < 1.1 * min(part.estimated_seconds for part in parts)
    assert work.estimated_seconds == pytest.approx(sum(part.estimated_seconds for part in parts))


def test_an_address_that_is_none_is_told() -> None:
    with (
        pytest.raises(ClusterError, match="nonsense://x: no scheduler of dask answers there"),
        Cluster("nonsense://x", lambda _: None),
    ):
        pass
