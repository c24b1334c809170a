"""Art direction in a real browser: the right crop at the very pixel, and nothing shifts when it swaps."""

from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.support.wait import WebDriverWait

from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

PAGE = '<!doctype html><meta name="viewport" content="width=device-width"><style>body {{ margin: 0 }} img {{ width: 100%; height: auto }}</style>{}'


def crop_at(browser: webdriver.Chrome, width: int, height: int, selector: str = "img") -> str:
    """The crop of the file that is shown, once the viewport has this size and the file is there."""
    metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    script = f"const i = document.querySelector('{selector}'); return i.complete && i.naturalWidth ? i.currentSrc : ''"
    settle = "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 60)))"
    browser.execute_async_script(settle)
    source = str(WebDriverWait(browser, 10).until(lambda it: it.execute_script(script)))
    return source.rsplit("/", 1)[-1].split(".", maxsplit=1)[0].rsplit("-", 2)[-2]


def test_bands_swap_at_the_very_pixel(browser: webdriver.Chrome, address: str) -> None:
    browser.get(f"{address}/index.html")
    seen = {}
    for width in (1100, 1024, 1023, 800, 640, 639, 360, 639, 640, 1023, 1024):
        seen[width] = crop_at(browser, width, 800, ".banner img")
    assert seen == {
        1100: "desktop",
        1024: "desktop",
        1023: "tablet",
        800: "tablet",
        640: "tablet",
        639: "phone",
        360: "phone",
    }


@pytest.mark.parametrize("width", [360, 639, 640, 1023, 1024, 1280])
def test_every_crop_has_its_space_before_it_is_there(browser: webdriver.Chrome, address: str, width: int) -> None:
    """The page laid out with all images blocked is as high as with them."""
    heights = []
    metrics = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": False}
    browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    browser.execute_cdp_cmd("Network.enable", {})
    for blocked in (["*.avif", "*.webp", "*.jpg", "*.png"], []):
        browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
        browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": blocked})
        browser.get(f"{address}/index.html")
        browser.execute_script("document.querySelectorAll('img').forEach(image => { image.alt = '' })")
        heights.append(browser.execute_script("return document.querySelector('.lead').getBoundingClientRect().top"))
    assert heights[0] == pytest.approx(heights[1], abs=1)


def test_turning_the_device_swaps_orientation_crops(browser: webdriver.Chrome, demo: Path, tmp_path: Path) -> None:
    arguments = (
        "--crop",
        "(orientation: portrait)=2:3",
        "--crop",
        "900=3:1",
        "--crop",
        "1:1",
        "--formats",
        "webp,jpeg",
        "--densities",
        "1",
        "--effort",
        "quick",
    )
    master, output = str(demo / "masters" / "lamp-at-dusk.jpg"), ("--output", "turned", "--loading", "eager")
    done = run_sarvel("one", master, "--alt", "", *arguments, *output, cwd=tmp_path)
    assert (done.returncode, done.stderr) == (0, "")
    (tmp_path / "turned.html").write_text(PAGE.format(done.stdout))
    cases = {
        (600, 601): "1",
        (600, 600): "1",
        (600, 599): "3",
        (899, 898): "3",
        (900, 899): "2",
        (900, 900): "1",
        (901, 900): "2",
    }
    with served(tmp_path) as address:
        browser.get(f"{address}/turned.html")
        for (width, height), crop in cases.items():
            assert crop_at(browser, width, height) == crop, (width, height)
