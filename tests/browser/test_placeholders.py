"""Placeholders in a real browser: seen while images are blocked, gone from sight once they are there, and nothing shifts."""

import io
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from selenium import webdriver

from sarvel.core.pixels.resample import Pixels
from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

KINDS = ("tint", "soft", "outline", "#c8d6df")
PAGE = """<!doctype html><meta name="viewport" content="width=device-width"><meta charset="utf-8">
<link rel="icon" href="data:,">{link}<style>body {{ margin: 0; background: {ground} }} img {{ display: block; width: 300px; height: auto; padding: 10px }}</style>
{images}<p id="end">end"""


@pytest.fixture(scope="module", params=["inline", "stylesheet"])
def site(request: pytest.FixtureRequest, demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The boat in a slot for each kind of placeholder, on a light page and on a dark one; and the transparent crest."""
    folder = tmp_path_factory.mktemp("placeholders")
    (folder / "masters").mkdir()
    for name in ("supply-boat.jpg", "crest.png"):
        shutil.copy(demo / "masters" / name, folder / "masters")
    slots = "".join(f'[slots.s{i}]\nsizes = "300px"\nplaceholder = "{kind}"\n' for i, kind in enumerate(KINDS))
    plan = (
        f'[site]\npages = ["light.html", "dark.html"]\naddress = "public/pictures"\nplaceholders = "{request.param}"\n'
    )
    (folder / "sarvel.toml").write_text(plan + '[defaults]\nformats = ["webp", "jpeg"]\ndensities = [1]\n' + slots)
    tags = "".join(
        f'<img data-sarvel="s{i}" src="masters/supply-boat.jpg" alt="" data-kind="{kind}">'
        for i, kind in enumerate(KINDS)
    )
    tags += '<img data-sarvel="s0" src="masters/crest.png" alt="" id="crest">'
    link = '<link rel="stylesheet" href="public/pictures/pictures.css">' if request.param == "stylesheet" else ""
    for name, ground in (("light", "white"), ("dark", "#111")):
        (folder / f"{name}.html").write_text(PAGE.format(link=link, ground=ground, images=tags))
    assert run_sarvel("build", cwd=folder).returncode == 0
    return folder


@pytest.fixture
def address(site: Path) -> Iterator[str]:
    with served(site) as address:
        yield address


def logged(browser: webdriver.Chrome) -> list[dict[str, object]]:
    return list(browser.get_log("browser"))  # type: ignore[no-untyped-call]


def shot(browser: webdriver.Chrome, page: str, *, blocked: bool) -> tuple[Pixels, list[dict[str, float]], float]:
    """The page as pixels, the boxes of its images, and where it ends."""
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 340, "height": 1500, "deviceScaleFactor": 1, "mobile": False}
    )
    browser.execute_cdp_cmd("Network.enable", {})
    browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
    browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*.webp", "*.jpg", "*.png"] if blocked else []})
    browser.get(page)
    script = "return [...document.images].map(i => { const r = i.getBoundingClientRect(); return {x: r.x, y: r.y, w: r.width, h: r.height} })"
    boxes = browser.execute_script(script)
    end = browser.execute_script("return document.getElementById('end').getBoundingClientRect().top")
    browser.execute_async_script(
        "requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(arguments[0], 300)))"
    )
    with Image.open(io.BytesIO(browser.get_screenshot_as_png())) as image:
        return np.asarray(image.convert("RGB")).astype(int), boxes, end


@pytest.mark.parametrize("page", ["light", "dark"])
def test_they_are_seen_until_the_image_is_there(browser: webdriver.Chrome, address: str, site: Path, page: str) -> None:
    blocked, boxes, end = shot(browser, f"{address}/{page}.html", blocked=True)
    loaded, boxes_then, end_then = shot(browser, f"{address}/{page}.html", blocked=False)
    assert boxes == boxes_then and end == end_then, "nothing shifts"
    text = "".join(
        file.read_text()
        for file in (site / "light.html", site / "public" / "pictures" / "pictures.css")
        if file.exists()
    )
    tint = [int(code, 16) for code in re.search(r"background: ?#(..)(..)(..) content-box", text).groups()]  # type: ignore[union-attr]
    ground = (255, 255, 255) if page == "light" else (17, 17, 17)
    spreads = []
    for kind, box in zip(KINDS, boxes, strict=False):
        x, y, w, h = (round(box[name]) for name in "xywh")
        inner = blocked[y + 30 : y + h - 30, x + 60 : x + w - 30]  # beyond the mark of a broken image
        spreads.append(inner.std(axis=(0, 1)).mean())
        assert (blocked[y + 5, x + 5] == ground).all(), f"{kind}: not in the padding"
        wanted = tint if not kind.startswith("#") else [0xC8, 0xD6, 0xDF]
        assert np.abs(inner.mean(axis=(0, 1)) - wanted).max() < 25
    assert spreads[0] < 1 and spreads[3] < 1 and spreads[1] > 8 and spreads[2] > 2
    crest = boxes[4]
    x, y = round(crest["x"]) + 10, round(crest["y"]) + 10
    assert (loaded[y + 4, x + 4] == ground).all(), "nothing shows through a transparent image"


def test_the_strict_page_keeps_to_its_policy(browser: webdriver.Chrome, site: Path, address: str) -> None:
    """A policy that allows no style in the markup: only rules of the stylesheet are obeyed, and nothing is refused."""
    page = (site / "light.html").read_text()
    policy = "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'self' data:; style-src 'self'\">"
    strict = re.sub(r"<style>.*?</style>", "", page).replace("<link", policy + "<link", 1)
    (site / "strict.html").write_text(strict)
    logged(browser)
    browser.get(f"{address}/strict.html")
    refused = [entry for entry in logged(browser) if "style" in str(entry["message"])]
    assert bool(refused) == ("style=" in strict)
