"""Front matter and data files whose values name images."""

import json
from pathlib import Path

import pytest

from sarvel.errors import PageError
from sarvel.notices import Notice
from sarvel.pages.read.data_files import named_values
from sarvel.pages.read.project import Project
from tests.conftest import PLAN, Run

TABLES = """
[data]
"content/**" = { banner = "image", badge = ["gallery[].src", "more[].rows[][]"] }

[partials]
folder = "parts"
"""
FILES = {
    "content/a.md": "---\ntitle: A\nimage: /gull.jpg\ngallery:\n  - src: seal.png\n  - {alt: none}\n---\nWords.\n",
    "content/b.md": '+++\nimage = "../masters/gull.jpg"\n+++\n',
    "content/c.json": '{"image": "https://x.example/gull.jpg", "more": [{"rows": [["seal.png", ""], ["gull.jpg"]]}]}',
    "content/d.yml": "image: [gull.jpg]\n",
    "content/e.md": "no front matter\n",
}


@pytest.fixture
def with_data(site: Path) -> Path:
    text = PLAN.replace("[site]\n", '[site]\nmanifest = "public/pictures.json"\nalt = "leave"\n')
    (site / "sarvel.toml").write_text(text.replace('pages = ["pages"]', "pages = []") + TABLES)
    (site / "content").mkdir()
    for name, content in FILES.items():
        (site / name).write_text(content)
    return site


def test_images_are_made_and_found_by_their_values(with_data: Path, sarvel: Run) -> None:
    done = sarvel("build", cwd=with_data)
    assert done.returncode == 0, done.stderr
    found = json.loads((with_data / "public" / "pictures.json").read_text())
    assert {slot: set(by_key) for slot, by_key in found["pictures"].items()} == {
        "banner": {"gull.jpg"},
        "badge": {"seal.png", "gull.jpg"},
    }
    assert found["values"] == {
        "/gull.jpg": "gull.jpg",
        "../masters/gull.jpg": "gull.jpg",
        "gull.jpg": "gull.jpg",
        "seal.png": "seal.png",
    }
    parts = {str(file.relative_to(with_data / "parts")) for file in (with_data / "parts").rglob("*.html")}
    assert parts == {
        "banner/gull.jpg.html",
        "banner/masters/gull.jpg.html",
        "badge/seal.png.html",
        "badge/gull.jpg.html",
    }
    assert all((with_data / name).read_text() == content for name, content in FILES.items())
    assert "0 files made" in sarvel("build", cwd=with_data).stdout
    (with_data / "content" / "f.json").write_text('{"image": "seal.png"}')
    assert sarvel("build", "--check", cwd=with_data).returncode == 1


def test_a_value_that_names_no_file_is_told(with_data: Path, sarvel: Run) -> None:
    (with_data / "content" / "a.md").write_text("---\nimage: ../elsewhere.jpg\n---\n")
    done = sarvel("build", cwd=with_data)
    assert done.returncode == 1
    assert (
        "content/a.md: image: '../elsewhere.jpg' names no master; write the path of a file in the masters folder"
        in done.stderr
    )
    (with_data / "content" / "a.md").write_text("---\nimage: gone.jpg\n---\n")
    done = sarvel("build", cwd=with_data)
    assert done.returncode == 1 and "gone.jpg" in done.stderr and "content/a.md" in done.stderr


@pytest.mark.parametrize(
    ("name", "content"), [("a.json", "{"), ("a.toml", "a"), ("a.yaml", "a: b: c"), ("a.md", "---\n{\n---\n")]
)
def test_data_that_cannot_be_read(name: str, content: str, tmp_path: Path) -> None:
    (tmp_path / name).write_text(content)
    faults: list[Notice] = []
    with pytest.raises(PageError, match="its data cannot be read"):
        list(named_values(tmp_path / name, {"a": ["b"]}, Project(tmp_path, ()), tmp_path, faults))
    assert not faults


@pytest.mark.parametrize(
    ("said", "told"),
    [
        ('{ nothing = "image" }', "no slot 'nothing'"),
        ('{ banner = "a..b" }', "write a table of paths"),
        ('{ banner = "a[0]" }', "write a table of paths"),
    ],
)
def test_a_faulty_table(said: str, told: str, with_data: Path, sarvel: Run) -> None:
    plan = with_data / "sarvel.toml"
    plan.write_text(plan.read_text().replace(TABLES, f'\n[data]\n"content/*" = {said}\n'))
    done = sarvel("plan", cwd=with_data)
    assert done.returncode == 2 and told in done.stderr


def test_a_pattern_without_files(with_data: Path, sarvel: Run) -> None:
    plan = with_data / "sarvel.toml"
    plan.write_text(plan.read_text().replace("content/**", "content/*.csv"))
    done = sarvel("plan", cwd=with_data)
    assert done.returncode == 2 and "matches no file" in done.stderr
