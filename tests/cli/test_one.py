"""`sarvel one`: files and markup for one image, and the plan that says the same."""

import json
from pathlib import Path

import pytest

import sarvel as package
from tests.conftest import Run

CALL = ("one", "masters/gull.jpg", "--alt", "A gull & more", "--sizes", "0=100vw", "--sizes", "800=50vw")
CROPS = (
    "--crop",
    "1:1",
    "--crop",
    "800=2:1",
    "--crop",
    "(orientation: portrait)=3:4",
    "--formats",
    "webp,jpeg",
    "--densities",
    "1",
)


def test_files_and_markup(site: Path, sarvel: Run) -> None:
    done = sarvel(*CALL, *CROPS, "--output", "out/pics", "--address", "/p", "--subject", "0.1,0.1,0.3,0.3")
    assert (
        done.returncode == 0
        and done.stdout.startswith("<picture>\n  <source ")
        and done.stdout.endswith(">\n</picture>\n")
    )
    assert 'alt="A gull &amp; more"' in done.stdout and "data-" not in done.stdout
    for device, crop in (
        (package.Device(400, 800), "1"),
        (package.Device(1200, 800), "2"),
        (package.Device(700, 500), "3"),
    ):
        url = package.pick_source(done.stdout, device)
        assert url.startswith(f"/p/gull-image-{crop}-") and (site / "out" / "pics" / Path(url).name).is_file()


def test_the_plan_that_says_the_same_makes_the_same_files(site: Path, sarvel: Run) -> None:
    sarvel(*CALL, *CROPS)
    made = sorted(file.name for file in (site / "pictures").iterdir())
    (site / "sarvel.toml").write_text(sarvel(*CALL, *CROPS, "--as-plan").stdout)
    (site / "pages" / "index.html").write_text('<img data-sarvel="image" src="../masters/gull.jpg">')
    rendered = json.loads(sarvel("render", "--json").stdout)["rendered"]
    # Only what did not pay is weighed again, for there was no ledger.
    assert (rendered["made"], rendered["kept"]) == ([], len(made))
    crops = json.loads(sarvel("plan", "--json").stdout)["slots"][0]["pictures"][0]["crops"]
    assert [crop["media"] for crop in crops] == ["(orientation: portrait)", "(min-width: 800px)", ""]


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--sizes", "384"), "command line: slots.image.sizes: '384' has no unit; write \"384px\""),
        (
            ("--sizes", "0=1px", "--sizes", "50vw"),
            "--sizes 50vw: several widths need the viewport width where each begins; write 1024=50vw",
        ),
        (("--sizes", "600=50vw"), "command line: slots.image.sizes: says nothing for the narrowest viewports"),
        (
            ("--sizes", "(min-width: 9px) 50%, 100vw"),
            "a browser drops an entry of this sizes value: '50%' depends on a container",
        ),
        (("--crop", "4/3"), "command line: slots.image.crops: '4/3' is no ratio"),
        (
            ("--crop", "1:1", "--crop", "2:1"),
            "--crop 2:1: two crops begin at 0; give all but one a viewport width: 1024=2:1",
        ),
        (("--crop", "(bogus: 1)=1:1"), "command line: slots.image.crops.0.when: '(bogus: 1)' is no media condition"),
        (("--subject", "0,0,x,1"), "--subject: got 'x' where a number belongs"),
        (
            ("--subject", "0,0,2,1"),
            'command line: masters."gull.jpg".subject: got [0, 0, 2, 1]; write [left, top, right, bottom]',
        ),
        (("--formats", "gif"), 'command line: slots.image.formats.0: got "gif"'),
    ],
)
def test_wrong_calls(site: Path, sarvel: Run, options: tuple[str, ...], words: str) -> None:
    done = sarvel("one", "masters/gull.jpg", "--alt", "", *options)
    assert done.returncode == 2 and words in done.stderr and done.stdout == "" and not (site / "pictures").exists()


@pytest.mark.usefixtures("site")
def test_a_master_that_is_none(sarvel: Run) -> None:
    done = sarvel("one", "masters/none.jpg", "--alt", "")
    assert done.returncode == 2 and done.stderr.startswith("masters/none.jpg: there is no such file; mend its name")
    done = sarvel("one", "pages/index.html", "--alt", "")
    assert done.returncode == 2 and "pages/index.html: is not an image that can be read" in done.stderr
    assert "the following arguments are required: --alt" in sarvel("one", "masters/gull.jpg").stderr


@pytest.mark.parametrize(
    ("shown", "sizes"),
    [
        ("(min-width: 600px) 200px, 50vw", 'sizes="(min-width: 600px) 200px, min(50vw, 900px)"'),
        ("auto, 50vw", 'sizes="auto, min(50vw, 900px)"'),
        ("(orientation: portrait) 50vw", 'sizes="(orientation: portrait) min(50vw, 900px), min(100vw, 900px)"'),
        ("120px", ' 2x"'),
    ],
)
@pytest.mark.usefixtures("site")
def test_shown_as_people_have_it(sarvel: Run, shown: str, sizes: str) -> None:
    assert sizes in sarvel("one", "masters/gull.jpg", "--alt", "", "--sizes", shown, "--formats", "jpeg").stdout
