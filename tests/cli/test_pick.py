"""`sarvel pick`, on woven pages and on anybody's markup."""

import json
from pathlib import Path

import pytest

from tests.conftest import PLAN, Run


@pytest.fixture
def woven(rendered: Path, sarvel: Run) -> Path:
    (rendered / "sarvel.toml").write_text(PLAN.replace('"/pictures"', '"../public/pictures"'))
    sarvel("weave")
    return rendered


def page_line(site: Path) -> int:
    """The line of the banner's img in the woven page."""
    lines = (site / "pages" / "index.html").read_text().splitlines()
    return next(i for i, line in enumerate(lines, 1) if '<img data-sarvel="banner"' in line)


@pytest.mark.usefixtures("woven")
def test_a_woven_page(rendered: Path, sarvel: Run) -> None:
    done = sarvel("pick", "pages/index.html", "--device", "300x600@1", "--device", "1000x600@1", "--json")
    banner, badge = json.loads(done.stdout)["images"]
    assert (banner["slot"], badge["slot"], banner["line"]) == ("banner", "badge", page_line(rendered))
    for outcome, shown in zip(banner["devices"], (300, 500), strict=True):
        assert outcome["shown"] == shown == outcome["needed"] and outcome["fit"] >= 1
        assert outcome["bytes"] and not outcome["soft"] and not outcome["broken"]
    assert banner["master_bytes"] > 0 and done.returncode == 0


@pytest.mark.usefixtures("woven")
def test_soft_and_missing_are_errors_with_strict(rendered: Path, sarvel: Run) -> None:
    assert (
        sarvel("pick", "pages/index.html", "--device", "600x800@2", "--strict").returncode == 1
    )  # the gull gives but 600 px
    for file in (rendered / "public" / "pictures").glob("seal*"):
        file.unlink()
    done = sarvel("pick", "pages/index.html", "--image", "badge", "--device", "600x800@1", "--strict")
    assert done.returncode == 1 and "missing" in done.stdout


@pytest.mark.usefixtures("woven")
def test_only_one_image_by_number_class_or_slot(sarvel: Run) -> None:
    for name, number in (("1", 1), (".wide", 1), ("banner", 1), ("badge", 2)):
        (image,) = json.loads(sarvel("pick", "pages/index.html", "--image", name, "--json").stdout)["images"]
        assert image["image"] == number
    done = sarvel("pick", "pages/index.html", "--image", "#none")
    assert done.returncode == 2 and "--image #none: no such image among the 2 of this page" in done.stderr


@pytest.mark.parametrize(
    ("markup", "device", "fit", "code"),
    [
        ('<img srcset="https://h/a.jpg 390w, https://h/b.jpg 1170w" sizes="100vw">', "390x844@3", "sharp", 0),
        ('<img srcset="https://h/a.jpg 390w, https://h/b.jpg 780w" sizes="100vw">', "390x844@3", "soft by 33%", 1),
        ('<img srcset="https://h/a.jpg 1600w">', "400x800@1", "300% too wide", 0),
        ('<img srcset="https://h/a.jpg 1x, https://h/b.jpg 2x" width="100">', "400x800@2", "sharp", 0),
        ('<img src="https://h/a.jpg" width="100">', "400x800@2", "soft by 50%", 1),
        ("<img alt=''>", "400x800@2", "nothing to fetch", 1),
        ('<img src="gone.jpg" width="100">', "400x800@1", "missing", 1),
        ('<img src="masters/gull.jpg" width="450">', "400x800@2", "sharp", 0),
    ],
)
def test_anybodys_markup(site: Path, sarvel: Run, markup: str, device: str, fit: str, code: int) -> None:
    (site / "page.html").write_text(markup)
    done = sarvel("pick", "page.html", "--device", device, "--strict")
    assert fit in done.stdout and done.returncode == code, done.stdout


def test_why(site: Path, sarvel: Run) -> None:
    (site / "page.html").write_text(
        '<picture><source media="print" srcset="https://h/p.png"><img srcset="https://h/a.png 400w, https://h/b.png 900w" sizes="100vw">'
    )
    lines = [line.strip() for line in sarvel("pick", "page.html", "--device", "400x800@2", "--why").stdout.splitlines()]
    assert "source 1: media print does not hold" in lines
    assert "sizes gives 400 px, so a density is the candidate's width divided by that" in lines
    assert "→ density 2.25  b.png" in lines and "picked: the least that reaches the device's 2" in lines


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("pick", "none.html"), "none.html: there is no such file; mend its name"),
        (
            ("pick", "pages/index.html", "--device", "400"),
            "got '400', write width x height @ density, such as 390x844@3",
        ),
    ],
)
@pytest.mark.usefixtures("site")
def test_wrong_calls(sarvel: Run, arguments: tuple[str, ...], words: str) -> None:
    done = sarvel(*arguments)
    assert done.returncode == 2 and words in done.stderr


@pytest.mark.parametrize("columns", ["80", "120"])
@pytest.mark.usefixtures("woven")
def test_no_row_is_wrapped(sarvel: Run, columns: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("COLUMNS", columns)
    lines = sarvel("pick", "pages/index.html").stdout.splitlines()
    assert max(map(len, lines)) <= int(columns)
    assert sum(line.startswith("390x844@3") for line in lines) == 3  # once an image, once in the totals


DIALECTS = [
    (
        "a.md",
        "# A page\n\n![A gull](https://h/a.jpg) and `![none](b.jpg)`\n\n    ![none](c.jpg)\n",
        ["https://h/a.jpg"],
    ),
    (
        "A.jsx",
        'export const A = () => {\n  const s = \'<img src="no.jpg">\';\n  return <img src="https://h/a.jpg" alt="" />;\n};\n',
        ["https://h/a.jpg"],
    ),
    (
        "a.svelte",
        '<script>\n  const s = \'<img src="no.jpg">\';\n</script>\n<img src="https://h/a.jpg" alt="">\n',
        ["https://h/a.jpg"],
    ),
    ("a.html", "<!-- <img src='no.jpg'> --><img src='https://h/a.jpg' alt=''>", ["https://h/a.jpg"]),
]


@pytest.mark.parametrize(("name", "text", "urls"), DIALECTS)
def test_a_page_is_read_as_what_it_is(site: Path, sarvel: Run, name: str, text: str, urls: list[str]) -> None:
    (site / name).write_text(text)
    done = sarvel("pick", name, "--device", "400x800@1", "--json")
    assert [image["devices"][0]["url"] for image in json.loads(done.stdout)["images"]] == urls
