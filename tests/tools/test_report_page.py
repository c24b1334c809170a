"""The report as HTML: names and words show as text, one page or many, and nothing is fetched from elsewhere."""

import json
import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest

from sarvel.tools.report.facts import Stair
from sarvel.tools.report.networks import NETWORKS, Network
from sarvel.tools.report.page import MOST_IN_ONE, as_pages, seconds
from sarvel.tools.report.staircase import in_words, staircase
from tests.tools.samples import HOSTILE, picture, report

CHECKER = Path(__file__).parents[1] / "engines" / "node_modules" / "vnu-jar" / "build" / "dist" / "vnu.jar"


class Seen(HTMLParser):
    """The text of a page, its elements and what they fetch."""

    def __init__(self) -> None:
        super().__init__()
        self.words = ""
        self.names: list[str] = []
        self.fetched: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.names.append(tag)
        self.fetched += [value for name, value in attrs if name in ("src", "srcset", "poster") and value]
        self.words += " ".join(value or "" for name, value in attrs if name == "alt")

    def handle_data(self, data: str) -> None:
        self.words += data


def seen(page: bytes) -> Seen:
    parser = Seen()
    parser.feed(page.decode())
    return parser


def test_names_and_words_full_of_markup_show_as_text() -> None:
    [(name, page)] = as_pages(report(), "report.html", "sarvel.toml").items()
    found = seen(page)
    assert name == "report.html" and found.words.count(HOSTILE) >= 6
    assert not any("onerror" in text for text in re.findall(r"<img[^>]*>", page.decode()) if "alt=" not in text)
    assert found.names.count("script") == 2 and all(one.startswith("data:") for one in found.fetched)
    data = re.search(r'<script type="application/json" id="data">(.*?)</script>', page.decode(), re.DOTALL)
    assert data and HOSTILE in next(iter(json.loads(data[1])["pictures"]))


def test_what_matters_is_told() -> None:
    words = seen(as_pages(report(picture(), tasks=()), "report.html", "sarvel.toml")["report.html"]).words
    for told in (
        "over by 100%",
        "kept",
        "loses 25% of the subject",
        "61% sure",
        "93.1",
        "soft by 20% on 1344x800@3",
        "png is the master, pixel for pixel",
        "1.0 MB → 20 kB",
        "2.4 times across on 240x800@1",
        "mobile (10 Mbit/s, 60 ms)",
        "lossless",
        "missing",
    ):
        assert told in words, told  # fmt: skip


def test_many_pictures_have_pages_of_their_own() -> None:
    some = [picture(master=f"{i}.jpg") for i in range(MOST_IN_ONE + 1)]
    pages = as_pages(report(*some), "a.report.html", "sarvel.toml")
    assert list(pages)[:2] == ["a.report.html", "a.report-pictures/1.html"] and len(pages) == MOST_IN_ONE + 2
    first, one = (pages[name].decode() for name in list(pages)[:2])
    assert 'href="a.report-pictures/41.html"' in first and "<article" not in first
    assert '<base href="../">' in one and 'href="a.report.html#pictures"' in one and one.count("<article") == 1
    assert len(as_pages(report(*some[1:]), "r.html", "")) == 1


def test_the_page_conforms(tmp_path: Path) -> None:
    """By the checker of the standard's own community, in Java."""
    if not CHECKER.exists() or not shutil.which("java"):
        pytest.skip("no checker; scripts/test installs it")
    for name, page in as_pages(report(), "report.html", "sarvel.toml").items():
        (tmp_path / name).write_bytes(page)
    done = subprocess.run(["java", "-jar", CHECKER, "--format", "gnu", *tmp_path.glob("*.html")], capture_output=True, text=True, check=False)  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")


def test_a_staircase_names_what_it_shows() -> None:
    stair = Stair(2.0, (240, 480, 960, 3840), (480, 960, 1920, 2000), (1000, 1000, 1000, 1000))
    assert in_words(stair) == (
        "soft by up to 50% (from 960 to 3840 px, most at 3840 px); "
        "up to 2.1 times the pixels across (from 240 to 240 px, most at 240 px)"
    )
    chart = staircase(stair, 2000, "c")
    assert "<title" in chart and 'class="soft"' in chart and 'class="waste"' not in chart  # a point is no area
    assert in_words(Stair(1.0, (240, 480), (200, 400), (200, 401))) == "sharp everywhere, nowhere wasteful"


def test_seconds_on_a_network() -> None:
    assert Network("x", 8, 100).seconds(1_000_000) == pytest.approx(1.2)  # a megabyte at a megabyte a second
    assert [seconds(count) for count in (0.04, 0.44, 12.4)] == ["0.04", "0.4", "12"]
    assert len(NETWORKS) == 3 and str(NETWORKS[1]) == "mobile (10 Mbit/s, 60 ms)"
