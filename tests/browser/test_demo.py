"""The woven demo pages in a real browser: the right file, sharp, in its space, on four devices."""

from dataclasses import dataclass
from pathlib import Path

import pytest
from PIL import Image
from selenium import webdriver
from selenium.webdriver.support.wait import WebDriverWait

from sarvel.core.css.device import Device
from sarvel.pipeline.documents import document_of
from sarvel.plan.read import read_plan

pytestmark = pytest.mark.browser

DEVICES = [Device(360, 740, 3), Device(820, 1180, 2), Device(1440, 900, 1), Device(1920, 1080, 2)]
PAGES = ["index.html", "cottage.html", "history.html"]

LOOK = """
return [...document.images].map(image => ({
  file: image.currentSrc.split("/").pop(),
  complete: image.complete, natural: image.naturalWidth,
  shown: image.getBoundingClientRect().width, high: image.getBoundingClientRect().height,
  ratio: getComputedStyle(image).aspectRatio,
  attributes: [...(image.closest("picture") ?? image.parentNode).querySelectorAll("source, img")]
    .map(one => [one.getAttribute("width"), one.getAttribute("height"), one.getAttribute("srcset")]),
}))
"""
LOADED = "return [...document.images].every(image => image.complete && image.naturalWidth)"
# A shift just after an input or a change of the viewport does not count (Layout Instability API, LayoutShift.hadRecentInput).
SHIFTED = """
const done = arguments[0];
const shifted = [];
const part = source => [source.node?.outerHTML, source.previousRect, source.currentRect];
new PerformanceObserver(list => list.getEntries().forEach(entry => entry.hadRecentInput || shifted.push(entry.sources.map(part))))
  .observe({type: "layout-shift", buffered: true});
setTimeout(() => done(shifted), 300);
"""


@dataclass
class Seen:
    """One image as the browser shows it."""

    file: str
    complete: bool
    natural: int
    shown: float
    high: float
    ratio: str
    attributes: list[tuple[str, str, str]]


def look(browser: webdriver.Chrome, url: str, device: Device) -> list[Seen]:
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": device.width, "height": device.height, "deviceScaleFactor": device.dpr, "mobile": device.width < 800},
    )
    browser.execute_cdp_cmd("Network.setCacheDisabled", {"cacheDisabled": True})
    browser.get("about:blank")
    browser.get_log("browser")  # type: ignore[no-untyped-call] # selenium's own; what pages before this one had to say
    browser.get(url)
    for _ in range(3):  # lazy images load as they come near
        browser.execute_script("window.scrollTo(0, document.body.scrollHeight)")
        browser.execute_script("window.scrollTo(0, 0)")
    browser.execute_script("document.querySelectorAll('img[loading=lazy]').forEach(image => image.scrollIntoView())")
    WebDriverWait(browser, 20).until(lambda it: it.execute_script(LOADED))
    return [Seen(**one) for one in browser.execute_script(LOOK)]


@pytest.mark.parametrize("device", DEVICES, ids=str)
@pytest.mark.parametrize("page", PAGES)
def test_every_image_is_right(browser: webdriver.Chrome, address: str, demo: Path, page: str, device: Device) -> None:
    plan = read_plan(demo / "sarvel.toml")
    seen = look(browser, f"{address}/{page}", device)
    file = demo / "public" / page
    slots = [image.slot for image in document_of(file.read_text(), file, plan).images]
    assert all(slots) and len(seen) == len(slots)
    for image, name in zip(seen, slots, strict=True):
        slot = plan.slots[name]
        assert image.complete and image.natural
        assert image.file.endswith(f".{slot.formats[0]}"), image
        with Image.open(demo / "public" / "pictures" / image.file) as fetched:
            width, height = fetched.size
        assert image.shown * device.dpr <= width + 1, image
        assert image.shown == pytest.approx(slot.shown.on(device), abs=1), image
        assert image.shown / image.high == pytest.approx(width / height, rel=0.01), image
        for said_width, said_height, srcset in image.attributes:
            for candidate in (one.split()[0].split("/")[-1] for one in srcset.split(", ")):
                with Image.open(demo / "public" / "pictures" / candidate) as made:
                    assert int(said_width) / int(said_height) == pytest.approx(made.width / made.height, rel=0.01)
    assert browser.get_log("browser") == []  # type: ignore[no-untyped-call] # selenium's own


@pytest.mark.parametrize("device", DEVICES, ids=str)
def test_nothing_shifts_while_images_load(browser: webdriver.Chrome, address: str, device: Device) -> None:
    for page in PAGES:
        look(browser, f"{address}/{page}", device)
        assert browser.execute_async_script(SHIFTED) == []


def test_the_page_before_shows_the_masters(browser: webdriver.Chrome, demo: Path) -> None:
    seen = look(browser, (demo / "pages" / "index.html").as_uri(), DEVICES[2])
    assert {image.file for image in seen} <= {file.name for file in (demo / "masters").iterdir()} | {""}
    assert browser.execute_script("return document.querySelector('.banner img').naturalWidth") == 4800
