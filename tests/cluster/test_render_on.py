"""`sarvel render --on`: the program against a scheduler and workers that are processes of their own."""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.cluster.dask_here import DaskHere
from tests.conftest import run_sarvel

PROGRAM = Path(sys.executable).parent / "sarvel"


@pytest.fixture
def dask(tmp_path_factory: pytest.TempPathFactory) -> Iterator[DaskHere]:
    here = DaskHere(tmp_path_factory.mktemp("dask"))
    yield here
    here.close()


def site_of(folder: Path, *names: str, side: int = 420) -> Path:
    """A site of some made-up masters, all in one slot."""
    (folder / "masters").mkdir(parents=True)
    for i, name in enumerate(names):
        noise = np.random.default_rng(i).integers(0, 256, (side // 20, side // 15, 3), np.uint8)
        Image.fromarray(noise).resize((side * 4 // 3, side), Image.Resampling.BICUBIC).save(folder / "masters" / name)
    tags = "".join(f'<img data-sarvel="card" src="../masters/{name}" alt="">\n' for name in names)
    (folder / "pages").mkdir()
    (folder / "pages" / "index.html").write_text(f"<body>{tags}</body>")
    (folder / "sarvel.toml").write_text(
        '[site]\npages = ["pages/*.html"]\nmasters = "masters"\noutput = "public/pictures"\n'
        '[breakpoints]\nphone = 0\ndesktop = 900\n[slots.card]\nsizes = { phone = "100vw", desktop = "400px" }\nformats = ["webp", "jpeg"]\n'
    )
    return folder


def files_of(site: Path) -> dict[str, bytes]:
    return {file.name: file.read_bytes() for file in (site / "public" / "pictures").iterdir()}


def alone(site: Path, folder: Path) -> dict[str, bytes]:
    """What a single worker at home makes of the same site."""
    home = Path(shutil.copytree(site, folder / "home", ignore=shutil.ignore_patterns("public", "sarvel.ledger*")))
    assert run_sarvel("render", "--workers", "1", cwd=home).returncode in (0, 1)
    return files_of(home)


def test_workers_killed_paused_and_a_scheduler_restarted(dask: DaskHere, tmp_path: Path) -> None:
    names = [f"m{i:02}.png" for i in range(36)]
    site = site_of(tmp_path / "site", *names)
    for _ in range(3):
        dask.worker()
    process = subprocess.Popen([PROGRAM, "render", "--on", dask.address], cwd=site, stderr=subprocess.PIPE, text=True)
    output = site / "public" / "pictures"

    def wait_for(count: int) -> None:
        end = time.monotonic() + 120
        while time.monotonic() < end and len([*output.glob("[!.]*")] if output.is_dir() else []) < count:
            assert process.poll() is None
            time.sleep(0.05)

    wait_for(12)
    dask.workers[0].kill()
    wait_for(36)
    dask.workers[1].send_signal(signal.SIGSTOP)
    wait_for(54)
    dask.restart_scheduler()
    dask.worker()
    time.sleep(4)
    dask.workers[1].send_signal(signal.SIGCONT)
    _, said = process.communicate(timeout=240)
    assert process.returncode == 0, said
    assert "the scheduler does not answer; waiting for it" in said and "Traceback" not in said
    made = files_of(site)
    assert made == alone(site, tmp_path) and all(any(name.startswith(f"{one[:3]}-") for name in made) for one in names)
    assert run_sarvel("render", "--on", "tcp://127.0.0.1:1", cwd=site).returncode == 0  # nothing to do: nobody is asked


def test_a_master_that_kills_who_works_on_it_is_given_up_and_named(dask: DaskHere, tmp_path: Path) -> None:
    site = site_of(tmp_path / "site", "a.png", "deadly.png", "b.png")
    dask.worker()
    done = run_sarvel("render", "--on", dask.address, cwd=site)
    assert done.returncode == 1
    assert "deadly.png: 2 processes died on it; save or copy it again, or leave it out" in done.stderr
    assert {name.split("-")[0] for name in files_of(site)} == {"a", "b"}
    assert dask.workers[0].poll() is None


def test_masters_travel_and_files_come_back_where_storage_is_not_shared(dask: DaskHere, tmp_path: Path) -> None:
    """Of a worker that runs as if in another place: all paths of the site lead nowhere there."""
    site = site_of(tmp_path / "site", "a.png", "b.png")
    if shutil.which("unshare") is None or subprocess.run(["unshare", "-m", "true"], check=False).returncode:
        pytest.skip("no folder can be hidden from a process here")
    words = [sys.executable, "-m", "dask", "worker", dask.address, "--nthreads", "1", "--no-nanny", "--no-dashboard"]
    hidden = f"mount -t tmpfs none {site} && exec {' '.join(words)}"
    dask.workers.append(
        subprocess.Popen(["unshare", "-m", "sh", "-c", hidden], cwd=dask.folder, stderr=subprocess.DEVNULL)
    )
    done = run_sarvel("render", "--on", dask.address, cwd=site)
    assert done.returncode == 0, done.stderr
    assert files_of(site) == alone(site, tmp_path)


def test_workers_of_another_version_get_no_work(dask: DaskHere, tmp_path: Path) -> None:
    site = site_of(tmp_path / "site", "a.png")
    dask.worker(VERSION_HERE="0.0.9")
    done = run_sarvel("render", "--on", dask.address, cwd=site)
    assert done.returncode == 2
    assert "gets no work: sarvel 0.0.9 where we have " in done.stderr
    assert "install the same versions there, and run again" in done.stderr
    dask.worker()
    time.sleep(4)
    done = run_sarvel("render", "--on", dask.address, cwd=site)
    assert done.returncode == 0 and done.stderr.count("gets no work") == 1 and files_of(site)


def test_a_scheduler_that_is_not_there(tmp_path: Path) -> None:
    site = site_of(tmp_path / "site", "a.png")
    done = run_sarvel("render", "--on", "tcp://127.0.0.1:9", cwd=site)
    assert done.returncode == 2
    assert done.stderr.startswith("tcp://127.0.0.1:9: no scheduler of dask answers there (")
    assert done.stderr.endswith("); start it, or mend the address\n")


def test_an_interrupt_cancels_what_is_queued(dask: DaskHere, tmp_path: Path) -> None:
    site = site_of(tmp_path / "site", *(f"m{i}.png" for i in range(30)))
    dask.worker()
    process = subprocess.Popen(
        [PROGRAM, "build", "--on", dask.address], cwd=site, stderr=subprocess.PIPE, text=True, start_new_session=True
    )
    output = site / "public" / "pictures"
    while not (output.is_dir() and len([*output.glob("[!.]*")]) > 3):
        assert process.poll() is None
        time.sleep(0.05)
    os.killpg(process.pid, signal.SIGINT)
    _, said = process.communicate(timeout=60)
    *before, last = said.splitlines()
    assert (process.returncode, last) == (130, "interrupted; finished work is kept"), said
    assert all("waiting for one" in line for line in before), "the worker may come after the run"
    there = -1
    while len(files_of(site)) != there:  # what a worker has begun, it ends
        there = len(files_of(site))
        time.sleep(3)
    assert len({name.split("-")[0] for name in files_of(site)}) < 30
