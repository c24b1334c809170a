"""Sites whose masters and renditions are in object storage: the program against an S3 server on this machine."""

import itertools
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.conftest import start_sarvel
from tests.storage.s3_here import S3Here

IMMUTABLE = "public, max-age=31536000, immutable"


@pytest.fixture(scope="module")
def server() -> Iterator[S3Here]:
    here = S3Here()
    yield here
    here.close()


@pytest.fixture
def s3(server: S3Here) -> S3Here:
    """The server, empty, and doing no harm."""
    server.harm = lambda _method, _path: ""
    for one in server.client.list_objects_v2(Bucket="shop").get("Contents", []):
        server.client.delete_object(Bucket="shop", Key=one["Key"])
    server.sent()
    return server


@pytest.fixture
def stored(site: Path) -> Path:
    """A site whose renditions go to the bucket."""
    changed(site, 'address = "/pictures"', 'address = "https://pictures.example"\noutput = "s3://shop/pictures"')
    return site


def changed(site: Path, said: str, now: str) -> None:
    text = (site / "sarvel.toml").read_text()
    assert said in text
    (site / "sarvel.toml").write_text(text.replace(said, now))


def run(s3: S3Here, site: Path, *words: str, **environment: str) -> subprocess.CompletedProcess[str]:
    return start_sarvel(*words, cwd=site, environment=s3.environment | environment)


def at_home(site: Path, folder: Path) -> dict[str, bytes]:
    """What the same site comes to in a folder of this machine."""
    home = Path(shutil.copytree(site, folder / "home", ignore=shutil.ignore_patterns("sarvel.*[!l]", "sarvel.cache")))
    changed(home, 'output = "s3://shop/pictures"', 'output = "out"')
    assert start_sarvel("render", cwd=home).returncode == 0
    return {file.name: file.read_bytes() for file in (home / "out").iterdir()}


def test_only_what_is_new_is_sent_and_what_nobody_needs_is_pruned(s3: S3Here, stored: Path, tmp_path: Path) -> None:
    done = run(s3, stored, "build", "--json")
    assert done.returncode == 0, done.stderr
    files = s3.files("pictures/")
    assert files == at_home(stored, tmp_path)
    assert sorted(path.rpartition("/")[2] for path in s3.sent()) == sorted(files), "each once"
    assert not [*(stored / "sarvel.cache" / "output").iterdir()], "they left this machine"
    page = (stored / "pages" / "index.html").read_text()
    assert set(re.findall(r"https://pictures\.example/([\w.-]+)", page)) <= files.keys()
    for name in files:
        head = s3.client.head_object(Bucket="shop", Key=f"pictures/{name}")
        types = {"webp": "image/webp", "jpg": "image/jpeg", "png": "image/png"}
        assert (head["ContentType"], head["CacheControl"]) == (types[name.rpartition(".")[2]], IMMUTABLE)
    again = run(s3, stored, "render")
    listed = [path for method, path in s3.asked if method == "GET"]
    assert (
        again.returncode == 0
        and f"0 files made, {len(files)} were there already, in s3://shop/pictures" in again.stdout
    )
    assert not s3.sent() and all("list-type=2" in path for path in listed) and len(listed) <= 4, listed
    changed(stored, '"50vw"', '"40vw"')
    assert run(s3, stored, "build", "--prune").returncode == 0
    after = s3.files("pictures/")
    assert {path.rpartition("/")[2] for path in s3.sent("/shop/pictures/")} == after.keys() - files.keys()
    assert not [*(stored / "sarvel.cache" / "output").iterdir()], "nor does what does not pay stay"
    assert files.keys() - after.keys() and all(after[name] == files[name] for name in after.keys() & files.keys())


def test_a_stylesheet_goes_there_too_and_is_asked_again(s3: S3Here, stored: Path) -> None:
    changed(stored, "[site]", '[site]\nplaceholders = "stylesheet"')
    changed(stored, "[slots.badge]", '[slots.badge]\nplaceholder = "tint"')
    assert run(s3, stored, "build").returncode in (0, 1)  # soft on some devices
    head = s3.client.head_object(Bucket="shop", Key="pictures/pictures.css")
    assert (head["ContentType"], head["CacheControl"]) == ("text/css", "no-cache")


def failing(times: int, how: str) -> Callable[[str, str], str]:
    """Harm that is done to the first few files that are sent."""
    left = [times]

    def harm(method: str, path: str) -> str:
        if method == "PUT" and path.startswith("/shop/pictures/") and left[0]:
            left[0] -= 1
            return how
        return ""

    return harm


@pytest.mark.parametrize(
    "harm",
    [failing(5, "500 InternalError"), failing(4, "503 SlowDown"), failing(3, "crop")],
    ids=["500", "503", "crop"],
)
def test_what_fails_for_a_while_is_tried_again(
    s3: S3Here, stored: Path, tmp_path: Path, harm: Callable[[str, str], str]
) -> None:
    s3.harm = harm
    done = run(s3, stored, "render")
    assert done.returncode in (0, 1) and "storage" not in done.stderr, done.stderr
    assert s3.files("pictures/") == at_home(stored, tmp_path)


def test_what_is_refused_is_kept_and_sent_by_the_next_run(s3: S3Here, stored: Path, tmp_path: Path) -> None:
    s3.harm = lambda method, path: "403 AccessDenied" if method == "PUT" and path.endswith("webp") else ""
    done = run(s3, stored, "build")
    assert done.returncode == 2 and len(done.stderr.splitlines()) == 2, done.stderr
    assert "the storage refuses (AccessDenied); give credentials in its own way" in done.stderr
    kept = re.search(r"s3://shop/pictures: (\d+) files were not sent; kept in sarvel.cache/output, and sent by the next", done.stderr)  # fmt: skip
    there = s3.files("pictures/")
    here = [file.name for file in (stored / "sarvel.cache" / "output").iterdir() if file.is_file()]
    assert kept and int(kept[1]) == len(here), "after some refusals in a row no more are tried: others may be kept, too"
    assert not [name for name in there if name.endswith("webp")]
    at_last = at_home(stored, tmp_path)
    assert {*here, *there} == at_last.keys(), "each is here or there"
    assert "data-woven" not in (stored / "pages" / "index.html").read_text(), "no page points at what is not there"
    s3.harm = lambda _method, _path: ""
    s3.sent()
    again = run(s3, stored, "build", "--json")
    told = json.loads(again.stdout)["rendered"]
    assert again.returncode == 0 and not told["made"], "nothing is encoded twice"
    assert f"{kept[1]} files of an earlier run sent first" in again.stderr
    assert s3.files("pictures/") == at_last and len(s3.sent("/shop/pictures/")) == int(kept[1])


def test_killed_in_the_midst_nothing_is_half(s3: S3Here, stored: Path, tmp_path: Path) -> None:
    whole = at_home(stored, tmp_path)
    came = itertools.count()
    s3.harm = lambda method, _path: (
        "crop" if method == "PUT" and next(came) >= 6 else ""
    )  # nothing is whole before it is killed
    program = Path(sys.executable).parent / "sarvel"
    process = subprocess.Popen([program, "render"], cwd=stored, env=s3.environment, start_new_session=True)
    end = time.monotonic() + 60
    while time.monotonic() < end and len(s3.files("pictures/")) < 3:
        time.sleep(0.02)
    os.killpg(process.pid, signal.SIGKILL)
    process.wait()
    s3.harm = lambda _method, _path: ""
    there = s3.files("pictures/")
    assert 3 <= len(there) < len(whole) and all(whole[name] == content for name, content in there.items())
    assert run(s3, stored, "render").returncode == 0
    assert s3.files("pictures/") == whole


CLEAR = [
    ({"AWS_ACCESS_KEY_ID": "", "AWS_SECRET_ACCESS_KEY": ""}, "", "the storage refuses (Unable to locate credentials); give"),
    ({}, "403 InvalidAccessKeyId", "the storage refuses (InvalidAccessKeyId); give credentials in its own way"),
    ({}, "403 SignatureDoesNotMatch", "s3://shop/pictures: the storage refuses (SignatureDoesNotMatch); give credentials"),
    ({"output": "s3://nobody/pictures"}, "", "s3://nobody/pictures: there is no bucket 'nobody'; make it, or mend its name"),
    ({"output": "gs://shop/pictures"}, "", "gs://shop/pictures: needs an extra; install it with pip install 'sarvel[storage]'"),
    ({"AWS_ENDPOINT_URL": "http://127.0.0.1:1"}, "", "s3://shop/pictures: the storage does not do it (Could not connect"),
]  # fmt: skip


@pytest.mark.parametrize(("said", "harm", "line"), CLEAR, ids=range(len(CLEAR)))
def test_what_stands_in_the_way_is_one_clear_line(
    s3: S3Here, stored: Path, said: dict[str, str], harm: str, line: str
) -> None:
    changed(stored, "s3://shop/pictures", said.get("output", "s3://shop/pictures"))
    s3.harm = lambda _method, _path: harm
    before = (stored / "pages" / "index.html").read_bytes()
    done = run(s3, stored, "build", "--verbose", **{name: value for name, value in said.items() if name != "output"})
    last = done.stderr.splitlines()[-1]
    assert done.returncode == 2 and line in last, done.stderr
    assert "very-secret-words" not in done.stderr + done.stdout
    assert (stored / "pages" / "index.html").read_bytes() == before
    quiet = run(s3, stored, "build", **{name: value for name, value in said.items() if name != "output"})
    assert quiet.stderr.splitlines() == [last]


def test_masters_are_fetched_once_and_again_when_they_change(s3: S3Here, stored: Path, tmp_path: Path) -> None:
    whole = at_home(stored, tmp_path)
    for file in (stored / "masters").iterdir():
        s3.client.put_object(Bucket="shop", Key=f"masters/{file.name}", Body=file.read_bytes())
    gull = (stored / "masters" / "gull.jpg").read_bytes()
    shutil.rmtree(stored / "masters")
    changed(stored, "[site]", '[site]\nmasters = "s3://shop/masters"')

    def fetched() -> list[str]:
        got = [path for method, path in s3.asked if method == "GET" and "/masters/" in path and "list-type" not in path]
        s3.sent()
        return sorted(path.rpartition("/")[2] for path in got)

    done = run(s3, stored, "build")
    assert done.returncode == 0, done.stderr
    assert s3.files("pictures/") == whole and fetched() == ["gull.jpg", "seal.png"]
    page = (stored / "pages" / "index.html").read_text()
    assert page.count("data-woven=") == 2
    (stored / "pages" / "index.html").write_text(page + "\n")
    assert run(s3, stored, "build").returncode == 0 and fetched() == [], "the ledger knows them by their versions"
    shutil.rmtree(stored / "sarvel.cache" / "masters")
    changed(stored, '"50vw"', '"40vw"')
    assert run(s3, stored, "build").returncode == 0 and fetched() == ["gull.jpg"], (
        "of the other one nothing is to be made"
    )
    s3.client.put_object(Bucket="shop", Key="masters/gull.jpg", Body=gull + b"\0")
    assert run(s3, stored, "build").returncode == 0 and fetched() == ["gull.jpg"]
    s3.client.delete_object(Bucket="shop", Key="masters/gull.jpg")
    gone = run(s3, stored, "build")
    assert (
        gone.returncode == 1
        and "gull.jpg: there is no such file in s3://shop/masters; put it there or mend its name" in gone.stderr
    )
