"""Front matter that an engine turns into images: made by the plan, included by their value, confirmed in Chromium."""

import json
import shutil
from pathlib import Path

import jinja2
import pytest

from sarvel.pages.read.data_files import named_values
from sarvel.pages.read.project import Project
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

PLAN = """
[site]
pages = []
masters = "static/photos"
output = "static/pictures"
root = "static"
alt = "leave"
[defaults]
formats = ["webp", "jpeg"]
quality = { webp = 40, jpeg = 50 }
[slots.hero]
sizes = "min(100vw, 600px)"
[data]
"content/*.md" = { hero = "image" }
[partials]
folder = "parts"
"""
CONTENT = "---\nimage: /photos/gull.jpg\n---\nWords.\n"
PAGE = """<!doctype html><html lang="en"><head><title>x</title><meta name="viewport" content="width=device-width">
<style>body { margin: 0 } img { width: min(100vw, 600px) }</style></head><body>
{% set alt = "A gull" %}{{ hero }}<p>Words.</p></body></html>"""


def built(site: Path, folder: str, hero: str) -> None:
    """What the engine makes of a page: its template with the hero of the front matter."""
    (found,) = named_values(
        site / "content" / "a.md", {"hero": ["image"]}, Project(site, (site / "static",)), site / "static", []
    )
    engine = jinja2.Environment(loader=jinja2.FileSystemLoader(site), autoescape=False)  # noqa: S701 - as static sites have it
    text = PAGE.replace("{{ hero }}", hero)
    shutil.copytree(site / "static", site / folder)
    (site / folder / "index.html").write_text(engine.from_string(text).render(image=found.said))


def test_a_page_that_an_engine_builds_is_as_the_plan_asks(site_before: Path, tmp_path: Path) -> None:
    for name in ("static/photos", "content"):
        (tmp_path / name).mkdir(parents=True)
    shutil.copy(site_before / "masters" / "gull.jpg", tmp_path / "static" / "photos")
    (tmp_path / "sarvel.toml").write_text(PLAN)
    (tmp_path / "content" / "a.md").write_text(CONTENT)
    built(tmp_path, "before", '<img src="{{ image }}" alt="{{ alt }}">')
    done = run_sarvel("build", "--quiet", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    built(tmp_path, "after", '{% include "parts/hero" ~ image ~ ".html" %}')
    done = run_sarvel("confirm", "--built", "before", "after", "--device", "390x844@2", "--json", cwd=tmp_path)
    assert done.returncode == 0, done.stdout + done.stderr
    (page,) = json.loads(done.stdout)["pages"]
    assert (
        0 < page["bytes"]["after"] < page["bytes"]["before"] and (tmp_path / "content" / "a.md").read_text() == CONTENT
    )
