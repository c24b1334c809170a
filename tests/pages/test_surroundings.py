"""What is known of an image's surroundings decides whether its picture is kept out of the way, and how exact its ratio is."""

from pathlib import Path

import pytest

from sarvel.core.css.sheet import Sheet, read_sheet
from sarvel.pages.read.asks import read_page
from sarvel.pages.read.page_files import PageFile
from sarvel.pages.read.project import Project
from sarvel.pages.weave.surroundings import Around, Surroundings

CSS = {"own.css": "main { display: grid } .framed { border: 1px solid }", "reset.css": "* { margin: 0; padding: 0 }"}
KNOWN = '<!doctype html><link rel=stylesheet href="own.css"><link rel=stylesheet href="reset.css">'
IMG = '<img data-sarvel="card" src="a.jpg" alt="A">'


def sheet(address: str) -> Sheet | None:
    return read_sheet(CSS[address]) if address in CSS else None


@pytest.mark.parametrize(
    ("name", "text", "expected"),
    [
        ("a.html", f"{KNOWN}<body><p>{IMG}</p>", Around(plain=True, bare=True)),
        ("a.html", f"<!doctype html><body><p>{IMG}</p>", Around(plain=True, bare=True)),
        ("a.html", f"{KNOWN}<body><main>{IMG}</main>", Around(bare=True)),
        ("a.html", f"{KNOWN}<body><p>{IMG.replace('data', 'class=framed data')}</p>", Around(plain=True)),
        ("a.html", f'{KNOWN}<link rel=stylesheet href="https://x.example/fonts.css"><body>{IMG}', Around(plain=True, bare=True)),
        ("a.html", f'{KNOWN}<link rel=stylesheet href="https://x.example/all.css"><body>{IMG}', Around()),
        ("a.html", f"{KNOWN}<style>@media print {{ picture {{ float: left }} }}</style><body>{IMG}", Around(plain=True, bare=True)),
        ("a.html", f"<!doctype html><script>x()</script><body>{IMG}", Around()),
        ("a.html", f"{KNOWN}<script>x()</script><body>{IMG}", Around(plain=True, bare=True)),
        ("a.html", f'{KNOWN}<script src="https://cdn.example/any-css"></script><body>{IMG}', Around()),
        ("part.html", f"<p>{IMG}</p>", Around()),
        ("a.md", f"text\n\n{IMG}\n", Around()),
        ("a.liquid", f"<!doctype html><head>{{{{ styles }}}}</head><body>{IMG}", Around()),
    ],
)  # fmt: skip
def test_what_is_known_of_an_image(name: str, text: str, expected: Around, tmp_path: Path) -> None:
    from sarvel.core.html.dialect import HTML, dialect_of

    file = tmp_path / name
    file.write_text(text)
    page = read_page(PageFile(file, file, dialect_of(name, {}) or HTML), {}, Project(tmp_path, (tmp_path,)), tmp_path)
    (block,) = page.blocks
    assert Surroundings(page, sheet, {}).of(block) == expected
