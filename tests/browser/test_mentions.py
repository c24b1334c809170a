"""Links, posters, images for sharing and icons: woven by the program, read back by Chromium, and taken back."""

import json
import shutil
from collections import Counter
from pathlib import Path

import pytest
from selenium import webdriver

from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

PLAN = """
[site]
pages = ["pages"]
output = "pages/pictures"
root = "pages"
url = "https://gulls.example/"
[defaults]
quality = { webp = 20, jpeg = 50 }
formats = ["webp", "jpeg"]
[slots.card]
sizes = "100px"
links = "500px"
[slots.share]
use = "share"
[slots.still]
use = "single"
sizes = "200px"
crops = "2:1"
[slots.icon]
use = "icon"
[slots.dot]
use = "style"
sizes = "16px"
[masters."gull.jpg"]
alt = "A gull"
"""
HEAD = """<!doctype html><html lang="en"><head><title>Gulls</title><meta name="viewport" content="width=device-width">
  <link rel="icon" href="../masters/gull.jpg">
  <link rel="manifest" href="site.webmanifest">
  <link rel="stylesheet" href="site.css">
  <style>p { content: url("../masters/gull.jpg") }</style>
  <meta property="og:image" content="../masters/gull.jpg">
  <meta property="og:image:width" content="900">
  <meta name="twitter:image" content="../masters/gull.jpg">
  <meta name="twitter:image:alt" content="?">
  <script type="application/ld+json">{"@context": "https://schema.org", "@type": "Place", "image": "../masters/gull.jpg"}</script>
</head>"""
BODY = """<body>
  <a id="link" href="../masters/gull.jpg"><img data-sarvel="card" src="../masters/gull.jpg"></a>
  <a id="other" href="../masters/gull.jpg">alone</a>
  <ul><li>x</li></ul><p style="border-image: url('../masters/gull.jpg') 3; color: red">y</p>
  <video id="video" poster="../masters/gull.jpg" width="200" height="100"></video>
  <input id="input" type="image" src="../masters/gull.jpg" alt="Go">
  <object id="object" data="../masters/gull.jpg" type="image/jpeg"></object>
  <svg width="200" height="100"><image id="image" href="../masters/gull.jpg" width="200" height="100"/></svg>
</body></html>
"""
CSS = "li { list-style-image: url(../masters/gull.jpg) }"
MANIFEST = '{"name": "Gulls", "icons": [{"src": "../masters/gull.jpg"}]}\n'
SIZES = """
const done = arguments[arguments.length - 1];
const value = id => document.getElementById(id);
const wanted = {
  link: value("link").href, other: value("other").href, poster: value("video").poster, input: value("input").src,
  object: value("object").data, image: new URL(value("image").href.baseVal, location).href,
  icon: document.querySelector("link[rel=icon]").href, home: document.querySelector("link[rel=apple-touch-icon]").href,
};
Promise.all(Object.entries(wanted).map(([name, url]) => new Promise(ready => {
  const image = new Image();
  image.onload = () => ready([name, image.naturalWidth, image.naturalHeight]);
  image.onerror = () => ready([name, 0, 0]);
  image.src = url;
}))).then(done);
"""


STYLES = """
const said = (selector, name) => getComputedStyle(document.querySelector(selector))[name].match(/url\\("(.*?)"\\)/)[1];
return [said("li", "listStyleImage"), said("p", "content"), said("p", "borderImageSource")];
"""


@pytest.fixture(scope="module")
def woven(site_before: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    site = tmp_path_factory.mktemp("mentions") / "site"
    shutil.copytree(site_before, site)
    (site / "sarvel.toml").write_text(PLAN)
    (site / "pages" / "index.html").write_text(HEAD + BODY)
    (site / "pages" / "site.webmanifest").write_text(MANIFEST)
    (site / "pages" / "site.css").write_text(CSS)
    done = run_sarvel("build", cwd=site)
    assert done.returncode == 0, done.stderr
    return site


def test_a_browser_gets_the_files(woven: Path, browser: webdriver.Chrome) -> None:
    with served(woven) as address:
        browser.get(f"{address}/pages/index.html")
        found = {name: size for name, *size in browser.execute_async_script(SIZES)}
        assert found == {
            "link": [500, 333],
            "other": [900, 600],  # no slot of the plan is for it
            **{name: [400, 200] for name in ("poster", "input", "object", "image")},
            "icon": [32, 32],
            "home": [180, 180],
        }
        styles = browser.execute_script(STYLES)
        assert len({one.rsplit("/", 1)[-1] for one in styles}) == 1 and "gull-dot-32." in styles[0]
        share = [browser.find_element("css selector", f"meta[{one}]").get_attribute("content") for one in (
            "property='og:image'", "name='twitter:image'", "property='og:image:width'", "name='twitter:image:alt'")]  # fmt: skip
        assert share[0] == share[1] and share[0] and share[0].startswith("https://gulls.example/pictures/gull-share-")
        assert share[2:] == ["900", "A gull"]  # the master has no more px across
        data = json.loads(str(browser.find_element("css selector", "script").get_property("textContent")))
        assert data["image"] == share[0]
        icons = json.loads((woven / "pages" / "site.webmanifest").read_text())["icons"]
        assert [one["sizes"] for one in icons] == ["192x192", "512x512"]


def test_undo_is_exact_and_a_survey_counts_all_places(woven: Path) -> None:
    assert run_sarvel("build", cwd=woven).returncode == 0
    assert run_sarvel("weave", "--undo", cwd=woven).returncode == 0
    assert (woven / "pages" / "index.html").read_text() == HEAD + BODY
    assert (woven / "pages" / "site.webmanifest").read_text() == MANIFEST
    assert (woven / "pages" / "site.css").read_text() == CSS
    found = json.loads(run_sarvel("survey", "--json", cwd=woven).stdout)
    kinds = Counter(use["kind"] for one in found["files"] if "masters" in one["file"] for use in one["uses"])
    assert kinds == {"img": 1, "link": 2, "single": 4, "share": 3, "icon": 2, "style": 3}


def test_pages_in_a_folder_of_their_own_hold_no_marks(site_before: Path, tmp_path: Path) -> None:
    site = tmp_path / "site"
    shutil.copytree(site_before, site)
    plan = PLAN.replace('output = "pages/pictures"\nroot = "pages"', 'output = "out/pictures"\nwoven = "out"')
    (site / "sarvel.toml").write_text(plan + '[slots.large]\nuse = "link"\nsizes = "300px"\n')
    pages = {
        "index.html": HEAD + BODY,
        "site.webmanifest": MANIFEST,
        "site.css": CSS,
        "a.md": "[it](../masters/gull.jpg)\n",
    }
    for name, text in pages.items():
        (site / "pages" / name).write_text(text)
    done = run_sarvel("build", cwd=site)
    assert done.returncode == 0, done.stderr
    for name, text in pages.items():
        out = (site / "out" / name).read_text()
        assert "woven" not in out and "masters/" not in out and (site / "pages" / name).read_text() == text
    assert run_sarvel("build", "--check", cwd=site).returncode == 0
