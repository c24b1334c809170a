"""Scripts that set the file of an image, and the images that are left to them."""

from pathlib import Path

import pytest

from sarvel.core.html.tags import read_tag
from sarvel.pages.read.project import Project
from sarvel.pages.read.setters import setters

# A script, and the ids of the images below that it means.
IMAGES = '<img id="a" class="main" src="a.jpg"><img id="b" class="thumb" src="b.jpg">'
SCRIPTS = [
    ("document.getElementById('a').src = next", ["a"]),
    ("document.querySelector('.main').setAttribute('src', next)", ["a"]),
    ("document.getElementsByClassName('thumb')[0].src = x", ["b"]),
    ("$('#a').attr('src', x)", ["a"]),
    ("$('.main, .thumb').attr({ src: x })", ["a", "b"]),
    ("jQuery('img.thumb').eq(0).prop('src', x)", ["b"]),
    ("const big = document.querySelector('#a');\nbig.addEventListener('click', () => { big.src = x })", ["a"]),
    ("document.querySelectorAll('.thumb').forEach((one) => { one.src = x })", ["b"]),
    ("var $main = $('.main');\n$main.attr('src', x)", ["a"]),
    ("$('#a').attr('srcset', ''); $('#a').attr('src', x)", []),  # knows lists of files
    ("if (document.getElementById('a').src == x) go()", []),
    ("const at = $('#a').attr('src')", []),
    ("frame.src = x", []),
    ("document.querySelector('iframe.main').src = x", []),
    ("document.querySelector('.other').src = x", []),
]


@pytest.mark.parametrize(("script", "meant"), SCRIPTS, ids=[script for script, _ in SCRIPTS])
@pytest.mark.parametrize("inline", [True, False], ids=["inline", "a file"])
def test_the_images_that_a_script_gives_another_file(
    tmp_path: Path, script: str, meant: list[str], *, inline: bool
) -> None:
    (tmp_path / "s.js").write_text(f"\n{script}\n")
    text = IMAGES + (f"<script>\n{script}\n</script>" if inline else '<script src="s.js"></script>')
    found = setters(tmp_path / "index.html", text, Project(tmp_path, (tmp_path,)))
    tags = [tag for start in (0, text.index("<img", 1)) if (tag := read_tag(text, start))]
    assert [tag.values()["id"] for tag in tags if any(one.means(tag, ()) for one in found)] == meant
    place = "index.html" if inline else "s.js"
    last = 2 + script.rpartition("src")[0].count("\n")
    assert not found or found[-1].place == f"{tmp_path / place}:{last}"
