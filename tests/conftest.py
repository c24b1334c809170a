"""What several tests share: a small site to work on, and the installed program."""

import contextlib
import functools
import io
import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from unittest import mock

import numpy as np
import pytest
from filelock import FileLock
from hypothesis import HealthCheck, settings
from PIL import Image

from sarvel.cli.main import main
from sarvel.demo import copy_site
from tests.documents import assert_documented

# Examples may take as long as a busy machine needs; where a change is judged, the same ones are tried each time.
settings.register_profile(
    "steady", deadline=None, derandomize=bool(os.environ.get("CI")), suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("steady")

Run = Callable[..., subprocess.CompletedProcess[str]]

PLAN = """\
[site]
pages = ["pages"]
address = "/pictures"

[breakpoints]
phone = 0
desktop = 800

[defaults]
formats = ["webp", "jpeg"]
widths = 2

[slots.banner]
sizes = { phone = "100vw", desktop = "50vw" }
crops = { phone = "1:1", desktop = "2:1" }
loading = "eager"
quality = { webp = 20, jpeg = 90 }  # searching would take most of the tests' time; this far apart, WebP always pays

[slots.badge]
sizes = "40px"

[masters."gull.jpg"]
alt = "A gull"
subject = [0.2, 0.2, 0.4, 0.4]
"""

PAGE = """\
<!doctype html><meta name="viewport" content="width=device-width">
<p>Kept as it is: é &amp; <b>more</b>
  <img data-sarvel="banner" src="../masters/gull.jpg" class="wide">
  <img data-sarvel='badge' src='../masters/seal.png' alt='The seal' />
</p>
"""


@pytest.fixture(scope="session")
def site_before(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A plan, two masters and a page; not to be changed."""
    tmp_path = tmp_path_factory.mktemp("before")
    (tmp_path / "masters").mkdir()
    (tmp_path / "pages").mkdir()
    random = np.random.default_rng(1)
    blocks = random.integers(0, 256, (20, 30, 3), np.uint8).repeat(30, axis=0).repeat(30, axis=1)
    Image.fromarray(blocks).save(tmp_path / "masters" / "gull.jpg", quality=95)
    Image.new("RGBA", (120, 120), (200, 30, 30, 128)).save(tmp_path / "masters" / "seal.png")
    (tmp_path / "sarvel.toml").write_text(PLAN, encoding="utf-8")
    (tmp_path / "pages" / "index.html").write_text(PAGE, encoding="utf-8")
    return tmp_path


@pytest.fixture(scope="session")
def site_rendered(site_before: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The same with its renditions; not to be changed."""
    folder = tmp_path_factory.mktemp("rendered") / "site"
    shutil.copytree(site_before, folder)
    run_sarvel("render", cwd=folder)
    return folder


@pytest.fixture
def site(site_before: Path, tmp_path: Path) -> Path:
    """A site to work on, with nothing made yet."""
    return Path(shutil.copytree(site_before, tmp_path / "site"))


@pytest.fixture
def rendered(site_rendered: Path, tmp_path: Path) -> Path:
    """A site to work on, with its renditions made."""
    return Path(shutil.copytree(site_rendered, tmp_path / "site"))


def run_sarvel(
    *arguments: str,
    cwd: Path,
    stdin: str = "",
    columns: int | None = None,
    environment: Mapping[str, str] | None = None,
) -> subprocess.CompletedProcess[str]:
    """A command called in this process; what it reads from standard input, how wide its terminal is, and all of its environment."""
    own = {**(os.environ if environment is None else environment), **({"COLUMNS": str(columns)} if columns else {})}
    read, out, err = (io.TextIOWrapper(io.BytesIO(text), "utf-8", newline="\n") for text in (stdin.encode(), b"", b""))
    with (
        contextlib.chdir(cwd),
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
        mock.patch.object(sys, "stdin", read),
        mock.patch.dict(os.environ, own, clear=True),
    ):
        try:
            code = main(arguments)
        except SystemExit as end:  # argparse's
            code = int(end.code or 0)
    for stream in (out, err):
        stream.flush()
    told = (stream.buffer.getvalue().decode() for stream in (out, err))
    return _done(arguments, code, *told)


def start_sarvel(
    *arguments: str, cwd: Path, environment: Mapping[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """The installed program, for what is about its process; all of its environment."""
    command = [str(Path(sys.executable).parent / "sarvel"), *arguments]
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=False, timeout=300, env=environment)
    return _done(arguments, done.returncode, done.stdout, done.stderr)


def _done(arguments: tuple[str, ...], code: int, out: str, err: str) -> subprocess.CompletedProcess[str]:
    if "--json" in arguments and code in (0, 1):
        assert_documented(arguments, out)
    return subprocess.CompletedProcess(arguments, code, out, err)


def pytest_xdist_auto_num_workers() -> int:
    """One more than there are cores: many tests wait for a browser or for a program."""
    return (os.cpu_count() or 1) + 1


@pytest.fixture
def sarvel(tmp_path: Path) -> Run:
    """Commands, called in the site's folder."""
    return functools.partial(run_sarvel, cwd=tmp_path / "site")


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo site, built with little effort: once for all processes that run tests, a copy for each."""
    own, everybody = tmp_path_factory.mktemp("demo"), tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        everybody = everybody.parent
    with FileLock(everybody / "demo.lock"):
        if not (everybody / "built").exists():
            copy_site(site := everybody / "building" / "brindle-rock")
            plan = site / "sarvel.toml"
            plan.write_text(plan.read_text().replace('effort    = "normal"', 'effort    = "quick"'))
            done = start_sarvel("build", cwd=site)
            assert done.returncode == 0 and all(" is left out: " in line for line in done.stderr.splitlines())
            (everybody / "building").rename(everybody / "built")
    return Path(shutil.copytree(everybody / "built" / "brindle-rock", own / "brindle-rock"))
