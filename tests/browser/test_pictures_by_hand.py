"""Pictures by hand: their art direction taken over, by widths and by color scheme, read back by Chromium, and given back."""

import shutil
from pathlib import Path

import pytest
from PIL import Image
from selenium import webdriver

from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

COLORS = {"day": (250, 220, 40), "night": (20, 20, 90), "broad": (30, 160, 60)}
PLAN = """
[site]
pages = ["pages"]
output = "pages/pictures"
root = "pages"
[defaults]
formats = ["webp", "png"]
[slots.art]
sizes = "100vw"
selectors = ["picture.art img"]
crops = [{ when = "(prefers-color-scheme: dark)", ratio = "native" }, { when = "(min-width: 900px)", ratio = "native" }, { ratio = "native" }]
[masters."day.png"]
crops.art.1 = { from = "night.png" }
crops.art.2 = { from = "broad.png" }
"""
PAGE = """<!doctype html><html lang="en"><head><title>x</title><meta name="viewport" content="width=device-width">
<style>body { margin: 0 } picture.art { display: block; padding: 7px } .art img { width: 100%; height: auto }</style></head><body>
<picture class="art" id="one">
  <source media="(prefers-color-scheme: dark)" srcset="../masters/night.png">
  <source media="(min-width: 900px)" srcset="../masters/broad.png">
  <img src="../masters/day.png" alt="It&#39;s {day} | &quot;night&quot;" width="1200" height="800" >
</picture>
<picture><source srcset="../masters/broad.png"><img id="left" src="../masters/day.png" alt="Left alone"></picture>
</body></html>
"""
SHOWN = """
const done = arguments[arguments.length - 1], image = document.querySelector(".art img");
image.decode().then(() => {
  const canvas = document.createElement("canvas"), box = image.getBoundingClientRect();
  canvas.getContext("2d").drawImage(image, 0, 0);
  done([...canvas.getContext("2d").getImageData(5, 5, 1, 1).data.slice(0, 3), box.x, box.y, box.width, image.alt, box.height]);
}).catch(error => done([String(error)]));
"""


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("by-hand")
    for name in ("masters", "pages"):
        (folder / name).mkdir()
    for name, color in COLORS.items():
        Image.new("RGB", (1200, 300 if name == "broad" else 800), color).save(folder / "masters" / f"{name}.png")
    (folder / "sarvel.toml").write_text(PLAN)
    (folder / "pages" / "index.html").write_text(PAGE)
    return folder


def shown(address: str, browser: webdriver.Chrome, width: int, scheme: str) -> list[object]:
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": width, "height": 700, "deviceScaleFactor": 1, "mobile": False}
    )
    browser.execute_cdp_cmd(
        "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
    )
    browser.get(f"{address}/pages/index.html")
    found: list[object] = browser.execute_async_script(SHOWN)
    return found


def test_each_screen_sees_what_its_author_chose_and_undo_is_exact(
    site: Path, browser: webdriver.Chrome, tmp_path: Path
) -> None:
    screens = [(400, "light"), (400, "dark"), (1000, "light"), (1000, "dark")]
    shutil.copytree(site, tmp_path / "site")
    with served(tmp_path / "site") as address:
        before = [shown(address, browser, *screen) for screen in screens]
        done = run_sarvel("build", cwd=tmp_path / "site")
        assert "1 image woven" in done.stdout, done.stderr
        after = [shown(address, browser, *screen) for screen in screens]
    browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
    browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
    assert [one[:3] for one in before] == [list(COLORS[name]) for name in ("day", "night", "broad", "night")]
    assert [one[3:-1] for one in after] == [one[3:-1] for one in before]
    for one, other in zip(after, before, strict=True):
        assert abs(float(str(one[-1])) - float(str(other[-1]))) < 0.5  # a narrow file's whole pixels
        assert all(abs(int(str(a)) - int(str(b))) <= 6 for a, b in zip(one[:3], other[:3], strict=True))
    page = tmp_path / "site" / "pages" / "index.html"
    assert (
        'id="left" src="../masters/day.png"' in page.read_text()
        and "files made" in run_sarvel("build", cwd=page.parents[1]).stdout
    )
    assert run_sarvel("weave", "--undo", cwd=page.parents[1]).returncode == 0 and page.read_text() == PAGE
