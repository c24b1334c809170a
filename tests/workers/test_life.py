"""Workers end with the process that started them, and masters are what was digested."""

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.encode.decode import read_pixels
from sarvel.encode.masters import read_facts
from sarvel.errors import MasterError
from sarvel.workers.life import interrupts_held
from tests.conftest import run_sarvel


def marked(mark: str) -> list[int]:
    """Processes whose environment holds a mark: all that a run has started."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if mark.encode() in (folder / "environ").read_bytes():
                found.append(int(folder.name))
        except OSError:
            continue
    return found


@pytest.fixture
def slow_site(site: Path) -> Path:
    """A site that keeps two workers busy for some seconds."""
    for i in range(4):
        noise = np.random.default_rng(i).integers(0, 256, (60, 90, 3), np.uint8).repeat(20, 0).repeat(20, 1)
        Image.fromarray(noise).save(site / "masters" / f"n{i}.png")
    tags = "".join(f'<img data-sarvel="banner" src="../masters/n{i}.png" alt="">\n' for i in range(4))
    (site / "pages" / "index.html").write_text(tags)
    return site


@pytest.mark.skipif(not Path("/proc/self/environ").exists(), reason="looks for processes in /proc")
@pytest.mark.parametrize("sent", [signal.SIGKILL, signal.SIGTERM, signal.SIGHUP])
def test_no_worker_outlives_a_parent_that_is_killed_alone(
    slow_site: Path, tmp_path: Path, sent: signal.Signals
) -> None:
    mark = f"SARVEL_TEST={tmp_path}"
    name, value = mark.split("=")
    program = Path(sys.executable).parent / "sarvel"
    process = subprocess.Popen(
        [program, "render", "--workers", "2"],
        cwd=slow_site,
        env={**os.environ, name: value},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    deadline = time.monotonic() + 60
    while len(marked(mark)) < 4 and time.monotonic() < deadline:  # the parent, its tracker of resources, two workers
        time.sleep(0.01)
    process.send_signal(sent)
    process.wait()
    ended = time.monotonic()
    while (left := marked(mark)) and time.monotonic() - ended < 30:
        time.sleep(0.02)
    assert not left and time.monotonic() - ended < 2
    folder = slow_site / "public" / "pictures"
    there = set(folder.iterdir()) if folder.is_dir() else set()
    time.sleep(0.3)
    assert there == (set(folder.iterdir()) if folder.is_dir() else set()), "nobody writes without the lock"


def test_a_master_that_changes_while_it_is_rendered_gives_no_wrong_pixels(site: Path) -> None:
    file = site / "masters" / "gull.jpg"
    facts = read_facts(file, "gull.jpg")
    assert read_pixels(file, "gull.jpg", facts.digest).shape == (600, 900, 3)
    Image.new("RGB", (900, 600), (9, 80, 9)).save(file)
    with pytest.raises(
        MasterError, match=r"gull\.jpg: was changed while this run was at work; nothing is made of it; run again"
    ):
        read_pixels(file, "gull.jpg", facts.digest)


def test_what_was_digested_is_what_is_decoded(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The file is replaced as soon as it was opened: facts and pixels are still those of one file."""
    file = site / "masters" / "gull.jpg"
    before = read_facts(file, "gull.jpg")
    real = os.fstat

    def swapped(handle: int) -> os.stat_result:
        Image.new("RGB", (30, 20)).save(file.with_suffix(".new"), "png")
        file.with_suffix(".new").replace(file)
        return real(handle)

    monkeypatch.setattr(os, "fstat", swapped)
    facts = read_facts(file, "gull.jpg")
    assert (facts.digest, facts.width, facts.size) == (before.digest, before.width, before.size)


@pytest.mark.parametrize("how", ["cut short", "emptied", "longer", "other bytes"])
def test_outputs_that_somebody_changed_are_noticed_and_made_again(rendered: Path, how: str) -> None:
    folder = rendered / "public" / "pictures"
    wanted = {file.name: file.read_bytes() for file in folder.iterdir()}
    for name in sorted(wanted)[:2]:
        content = wanted[name]
        changed = {"cut short": content[:-1], "emptied": b"", "longer": content + b"x", "other bytes": content[::-1]}[
            how
        ]
        (folder / name).write_bytes(changed)
    if how == "other bytes":
        assert "0 files made" in run_sarvel("render", cwd=rendered).stdout, (
            "of the same size: only asked is it looked for"
        )
    done = run_sarvel("render", *(["--verify"] if how == "other bytes" else []), cwd=rendered)
    assert "public/pictures: 2 files are changed by others, and are made again: gull-" in done.stderr
    assert {file.name: file.read_bytes() for file in folder.iterdir()} == wanted
    assert "made again" not in run_sarvel("render", cwd=rendered).stderr


def test_the_manifest_takes_bytes_from_the_files(rendered: Path) -> None:
    plan = rendered / "sarvel.toml"
    plan.write_text(plan.read_text().replace("[site]", '[site]\nmanifest = "public/pictures.json"'))
    (rendered / "sarvel.ledger").unlink()
    assert run_sarvel("build", cwd=rendered).returncode == 0
    text = (rendered / "public" / "pictures.json").read_text()
    assert '"bytes": 0' not in text and text.count('"bytes": ') > 3


def test_two_builds_at_once_come_to_the_same_tree(site: Path, tmp_path: Path) -> None:
    alone = Path(shutil.copytree(site, tmp_path / "alone"))
    assert run_sarvel("build", cwd=alone).returncode == 0
    program = Path(sys.executable).parent / "sarvel"
    both = [subprocess.Popen([program, "build"], cwd=site, stdout=subprocess.DEVNULL) for _ in range(2)]
    assert [process.wait(120) for process in both] == [0, 0]

    def tree(folder: Path) -> dict[str, bytes]:
        files = {file.relative_to(folder).as_posix(): file for file in folder.rglob("*") if file.is_file()}
        return {name: file.read_bytes() for name, file in files.items() if not name.startswith("sarvel.ledger")}

    assert tree(site) == tree(alone)


@pytest.mark.parametrize("after", [0.3, 0.6, 1.0, 1.5, 2.5])
def test_an_interrupt_is_one_line(slow_site: Path, after: float) -> None:
    """Sent to the whole group, as a terminal does, while starting, composing or rendering."""
    program = Path(sys.executable).parent / "sarvel"
    process = subprocess.Popen(
        [program, "build", "--workers", "2"],
        cwd=slow_site,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        start_new_session=True,
    )
    time.sleep(after)
    os.killpg(process.pid, signal.SIGINT)
    _, said = process.communicate(timeout=60)
    finished = process.returncode in (0, 1) and "Traceback" not in said  # on a fast machine
    assert finished or (process.returncode, said) == (130, "interrupted; finished work is kept\n")


def test_an_interrupt_that_another_thread_gets_waits_for_the_end_of_the_block() -> None:
    """Threads that were started before have not blocked it, and the main thread would act on it at any place."""
    ready, go = threading.Event(), threading.Event()

    def listen() -> None:
        ready.set()
        go.wait()
        signal.pthread_kill(threading.get_ident(), signal.SIGINT)
        sent.set()

    sent = threading.Event()
    thread = threading.Thread(target=listen)
    thread.start()
    ready.wait()
    reached = False
    before = signal.signal(signal.SIGINT, signal.default_int_handler)  # what is run in the background ignores it
    try:
        with pytest.raises(KeyboardInterrupt), interrupts_held():
            go.set()
            sent.wait(10)
            time.sleep(0.05)
            reached = True
    finally:
        signal.signal(signal.SIGINT, before)
    thread.join()
    assert reached
