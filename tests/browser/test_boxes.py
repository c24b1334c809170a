"""Sites of many styles, drafted, built and woven: every box stands where it stood, and every byte comes back."""

import re
import shutil
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from selenium import webdriver

from sarvel.core.check.all_rules import check
from sarvel.core.check.context import Context
from sarvel.core.html.document import read_document
from tests.browser.conftest import served
from tests.conftest import run_sarvel
from tests.core.check.test_boxes import CASES, page_of

pytestmark = pytest.mark.browser

WIDTHS = (320, 360, 768, 1024, 1440, 1920)
HEAD = '<!doctype html><html><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><link rel="stylesheet" href="{}site.css"></head><body>'
WORDS = "<p>Seals lie on the ledge at low water, and the boat comes on Fridays if the swell allows it.</p>"

UTILITY = """*,::before,::after { box-sizing: border-box; border: 0 solid } body { margin: 0 } img, video { max-width: 100%; height: auto }
img, svg, video { display: block; vertical-align: middle } .grid { display: grid } .gap-4 { gap: 1rem } .p-4 { padding: 1rem }
.grid-cols-2 { grid-template-columns: repeat(2, minmax(0, 1fr)) } .w-full { width: 100% } .w-24 { width: 6rem } .h-24 { height: 6rem }
.rounded-full { border-radius: 9999px } .object-cover { object-fit: cover } .aspect-square { aspect-ratio: 1 / 1 } .flex { display: flex }
@media (min-width: 768px) { .md-cols-4 { grid-template-columns: repeat(4, minmax(0, 1fr)) } }"""
BLOG = """body { margin: 0 auto; max-width: 70em; font: 1em/1.5 serif } .page { display: flex; flex-wrap: wrap; gap: 2em } main { flex: 3 1 30em }
aside { flex: 1 1 12em } img { max-width: 100% } .left { float: left; margin: 0 1em 1em 0; width: 12em } figcaption { font-size: .8em }
table { border-collapse: collapse } .face { width: 64px; height: 64px; border-radius: 50% }"""
GALLERY = """body { margin: 0 } .shots { display: flex; flex-wrap: wrap } .shots img { height: 180px; object-fit: cover; flex: 1 1 auto; min-width: 200px; max-width: 100% }
.strip { overflow-x: auto; white-space: nowrap } .strip img { height: 120px } .fit { width: 300px; height: 200px; object-fit: contain; background: #eee }
.natural { object-fit: none; width: 200px; height: 100px }"""
FULL = "body { margin: 1em } img { width: 100% } .half { width: 50% } .row { display: flex } .row > div { flex: 1 } .top { background-size: cover; height: 12em }"
STRETCH = """body { margin: 0 } .cards { display: grid; grid-template-columns: repeat(auto-fill, minmax(14em, 1fr)); gap: 1em } .card { display: flex; flex-direction: column }
.media { display: flex } .media img { width: 8em } .stack { display: grid } .stack img { grid-area: 1 / 1; max-width: 100% } .cards > img { width: 100% }"""
PLACE = """body { margin: 2em } figure { margin: 1em 0 } figure > img { width: 60%; border: 2px solid } figure > img + figcaption { color: red; padding: 1em }
.pair > :first-child { width: 30% } .pair > * + * { margin-left: 2em } .list img:nth-child(2) { width: 40% } img { max-width: 100% }"""

# Stylesheet and body of each site; images are shore (800×600), tall (400×700), small (160×120) and face (300×300).
SITES: Mapping[str, tuple[str, str]] = {
    "utility": (UTILITY, ('<div class="grid grid-cols-2 md-cols-4 gap-4 p-4"><img src="img/shore.jpg" class="w-full" alt="A"><img class="w-full object-cover aspect-square" src="img/tall.jpg" alt="B">'
                '<div class="flex"><img class="w-24 h-24 rounded-full object-cover" src="img/face.jpg" alt="C"><div>x</div></div><img src="img/small.jpg" alt="D"></div><img src="img/shore.jpg" width="800" height="600" alt="E">')),
    "blog": (BLOG, (f'<div class="page"><main><img src="img/shore.jpg" alt="A">{WORDS}<img class="left" src="img/tall.jpg" alt="B">{WORDS * 5}<table><tr><td><img src="img/shore.jpg" alt="T"><td>{WORDS}</table></main>'
             '<aside><img class="face" src="img/face.jpg" alt="C"><img src="img/small.jpg" alt="D"><a href="img/shore.jpg"><img src="img/small.jpg" alt="E"></a></aside></div>')),
    "gallery": (GALLERY, '<div class="shots">' + "".join(f'<img src="img/{name}.jpg" alt="{name}">' for name in ("shore", "tall", "face", "small")) + '</div><div class="strip">'
                + '<img src="img/shore.jpg" alt="A"><img src="img/tall.jpg" alt="B">' * 3 + '</div><img class="fit" src="img/tall.jpg" alt="C"><img class="natural" src="img/shore.jpg" alt="D">'),
    "full width": (FULL, f'<header class="top" style="background-image: url(img/shore.jpg)">{WORDS}</header><img src="img/shore.jpg" alt="A"><div class="row"><div><img src="img/tall.jpg" alt="B"></div><div>{WORDS}<img class="half" src="img/face.jpg" alt="C" width="300" height="300"></div></div>'),
    "mail": ("", ('<table width="600" align="center" style="font: 14px sans-serif"><tr><td colspan="2"><img src="img/shore.jpg" width="600" style="display: block; width: 100%; max-width: 600px" alt="A"><tr><td width="200"><img src="img/small.jpg" alt="B" border="0">'
             f'<td>{WORDS}<img src="img/face.jpg" width="100" height="100" alt="C"><img src="img/tall.jpg" height="140" alt="D"></table>')),
    "stretched": (STRETCH, (f'<div class="cards"><img src="img/shore.jpg" alt="A"><div class="card"><img src="img/tall.jpg" alt="B">{WORDS}</div><div class="card">{WORDS}<img src="img/small.jpg" alt="C"></div><img src="img/face.jpg" alt="D"></div>'
                  f'<div class="media"><img src="img/face.jpg" alt="E">{WORDS}</div><div class="stack"><img src="img/shore.jpg" alt="F"><img src="img/small.jpg" alt="G"></div>')),
    "by place": (PLACE, f'<figure><img src="img/shore.jpg" alt="A"><figcaption>x</figcaption></figure><div class="pair"><img src="img/face.jpg" alt="B"><img src="img/small.jpg" alt="C"></div><p class="list"><b>x</b><img src="img/tall.jpg" alt="D"></p><img src="img/small.jpg" alt="E">{WORDS}'),
}  # fmt: skip

BOXES = """
const done = arguments[arguments.length - 1];
for (const one of document.images) one.loading = "eager";
Promise.all([...document.images].map(one => one.decode().catch(() => 0))).then(() => requestAnimationFrame(() => done({
  boxes: [...document.body.querySelectorAll("*")].filter(one => !["PICTURE", "SOURCE"].includes(one.tagName)).map(one => {
    const box = one.getBoundingClientRect();
    return [one.tagName, box.x, box.y, box.width, box.height].map(value => typeof value === "string" ? value : Math.round(value * 10) / 10);
  }),
  broken: [...document.images].filter(one => !one.naturalWidth).length,
  woven: document.querySelectorAll("[data-woven], [data-woven-style]").length,
})));
"""


def seen(browser: webdriver.Chrome, url: str, width: int) -> dict[str, Any]:
    size = {"width": width, "height": 900, "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
    browser.get(url)
    found: dict[str, Any] = browser.execute_async_script(BOXES)
    return found


@pytest.fixture(scope="module")
def images(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Pictures with something in them, so that every format pays."""
    folder = tmp_path_factory.mktemp("images")
    for name, (width, height) in {
        "shore": (800, 600),
        "tall": (400, 700),
        "small": (160, 120),
        "face": (300, 300),
    }.items():
        waves = np.sin(np.arange(width) / 17)[None, :] * np.cos(np.arange(height) / 13)[:, None]
        Image.fromarray(((waves[..., None] + [1, 1.1, 0.9]) * 80).clip(0, 255).astype(np.uint8)).save(
            folder / f"{name}.jpg", quality=92
        )
    return folder


@pytest.mark.parametrize(("css", "body"), SITES.values(), ids=SITES)
def test_no_box_moves(css: str, body: str, images: Path, tmp_path: Path, browser: webdriver.Chrome) -> None:
    site = tmp_path / "site"
    shutil.copytree(images, site / "img")
    (site / "sub").mkdir()
    (site / "site.css").write_text(css)
    page, below = site / "index.html", site / "sub" / "below.html"
    page.write_text(HEAD.format("") + body + "</body></html>")
    below.write_text(HEAD.format("../") + body.replace("img/", "../img/") + "</body></html>")
    before = {one: one.read_bytes() for one in (page, below)}
    with served(tmp_path) as address:  # below a folder, as sites on shared hosts are
        urls = [f"{address}/site/index.html", f"{address}/site/sub/below.html"]
        was = {(url, width): seen(browser, url, width) for url in urls for width in WIDTHS}
        run_sarvel("start", cwd=site)
        plan = site / "sarvel.toml"
        plan.write_text(
            plan.read_text().replace("[defaults]\n", "[defaults]\nquality = { avif = 50, webp = 70, jpeg = 80 }\n")
        )
        built = run_sarvel("build", "--quiet", cwd=site)
        assert built.returncode in (0, 1) and "Traceback" not in built.stderr
        count = body.count("<img") + body.count("background-image")
        assert all(len(re.findall(' data-woven(?:-style)?="', one.read_text())) >= count for one in (page, below)), (
            built.stderr
        )
        for (url, width), old in was.items():
            new = seen(browser, url, width)
            assert new["broken"] == 0 and new["woven"] >= count
            moved = [(one, other) for one, other in zip(old["boxes"], new["boxes"], strict=True)
                     if one[0] != other[0] or max(abs(a - b) for a, b in zip(one[1:], other[1:], strict=True)) > 1]  # fmt: skip
            assert not moved, (url, width, moved[:3])
    assert run_sarvel("weave", "--undo", cwd=site).returncode == 0
    assert {one: one.read_bytes() for one in (page, below)} == before


SHAPE = "const one = document.images[0], box = one.getBoundingClientRect(); return [box.width, box.height, innerWidth];"


@pytest.mark.parametrize(("css", "body", "rule"), CASES)
def test_check_says_of_boxes_what_the_browser_does(
    css: str, body: str, rule: str, images: Path, browser: webdriver.Chrome, tmp_path: Path
) -> None:
    """Squeezed: another shape than 4:3 at some width, told where the image has width and height."""
    if "@import" in css or rule not in ("", "height-stays") or 'width="800" height="600"' not in body:
        pytest.skip("says nothing of a shape that a browser could show by itself")
    shutil.copy(images / "shore.jpg", tmp_path / "a.webp")
    (tmp_path / "index.html").write_text(page_of(css, body))
    squeezed = False
    with served(tmp_path) as address:
        for width in (320, 1440):
            seen(browser, f"{address}/index.html", width)
            across, high, _ = browser.execute_script(SHAPE)
            squeezed |= abs(across / high - 4 / 3) > 0.02
    fitted = "object-fit" in css
    found = {one.rule for one in check(read_document(page_of(css, body)), Context())}
    assert ("height-stays" in found) == (squeezed and not fitted)
