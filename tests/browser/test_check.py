"""What check says a browser would do, against what Chromium does, on random pictures."""

import random
import re
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from sarvel.core.check.candidates import check_candidates
from sarvel.core.check.condition_slips import media_slip, sizes_slips
from sarvel.core.check.context import LinkedFile
from sarvel.core.check.rule import Finding
from sarvel.core.check.slips import Slip
from sarvel.core.check.sources import check_sources
from sarvel.core.check.srcset_slips import srcset_slips
from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.core.html.source_selection import pick
from tests.browser.conftest import served
from tests.core.check.test_slips import FILES, MEDIA, SIZES, SRCSETS

pytestmark = pytest.mark.browser

COUNT = 200
EDGES = (400, 480, 481, 640, 641, 800, 1024)
WIDTHS = sorted({width + d for width in EDGES for d in (-1, 0, 1)} | {320, 900, 1600})
HEIGHT = 700
EVERYWHERE = ("", "image/jpeg", "image/png")  # types that every browser knows
FETCHED = """
const [page, widths, height, done] = arguments;
const frames = widths.map(width => {
  const frame = document.createElement("iframe");
  frame.style.cssText = `border: 0; position: absolute; width: ${width}px; height: ${height}px`;
  frame.srcdoc = `<!doctype html><base href="${location.origin}/">` + page;
  return frame;
});
Promise.all(frames.map(frame => new Promise(ready => { frame.onload = ready; document.body.append(frame); }))).then(() => {
  done(frames.map(frame => [...frame.contentDocument.images].map(image => image.currentSrc.split("/").pop())));
});
"""


def media(random_: random.Random) -> str:
    """A media condition that asks for widths, mostly for edges that lie close together."""
    low, high = sorted(random_.choices(EDGES, k=2))
    return random_.choice(
        [f"(min-width: {low}px)", f"(max-width: {high}px)", f"(max-width: {high - 1}px)", f"(min-width: {low}px) and (max-width: {high}px)",
         f"(width >= {low}px)", f"(width < {high}px)", f"not all and (min-width: {high}px)", f"(max-width: {low}px), (min-width: {high}px)",
         f"(min-width: {low / 16}em)", f"(min-width: {low}px) and (max-width: {low - 40}px)", f"(min-width: {low}p)"]
    )  # fmt: skip


def srcset(random_: random.Random, name: str) -> str:
    """Candidates whose addresses tell where they are from; some are faulty."""
    candidates = [
        f"{name}-{i}.png{random_.choice([' 1x', ' 2x', '', ' 300w', ' 600w', ' 900w', ' 1200w', ' 2 x', ' -1w', ' 1.5w', ' 300w 2x', ' 0w'])}"
        for i in range(random_.randint(1, 3))
    ]
    return random_.choice([", ", " , ", ",\n"]).join(candidates)


def picture(seed: int) -> str:
    """A picture of up to four sources."""
    random_ = random.Random(seed)
    sources = []
    for i in range(random_.randint(1, 4)):
        said = f' media="{media(random_)}"' if random_.random() < 0.85 else ""
        type_ = (
            f' type="{random_.choice(["image/jpeg", "image/webp", "image/avif"])}"' if random_.random() < 0.3 else ""
        )
        sizes = (
            f' sizes="{random_.choice(["50vw", "(min-width: 640px) 300px, 100vw", "50%, 40vw", "300"])}"'
            if random_.random() < 0.6
            else ""
        )
        sources.append(f'<source{said}{type_}{sizes} srcset="{srcset(random_, f"s{i}")}">')
    return f'<picture>{"".join(sources)}<img src="img.png" alt=""></picture>'


@pytest.fixture(scope="module")
def fetched(
    browser: webdriver.Chrome, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[dict[tuple[int, int, int], str]]:
    """What Chromium fetches, by picture, width and density."""
    found: dict[tuple[int, int, int], str] = {}
    folder = tmp_path_factory.mktemp("nothing")
    (folder / "index.html").write_text("<!doctype html>")
    with served(Path(folder)) as address:
        browser.get(address)
        for density in (1, 2):
            metrics = {"width": 1280, "height": HEIGHT, "deviceScaleFactor": density, "mobile": False}
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            told = browser.execute_async_script(FETCHED, "".join(map(picture, range(COUNT))), WIDTHS, HEIGHT)
            for width, urls in zip(WIDTHS, told, strict=True):
                found |= {(page, width, density): url for page, url in enumerate(urls)}
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        browser.get("about:blank")  # nobody asks the server any more when it goes
    yield found


def findings(page: int) -> tuple[str, list[Finding]]:
    text = picture(page)
    seen = {
        "img.png": LinkedFile(1, 1, "image/png")
    }  # smaller than what any source has, so that what falls to it is told
    page_ = read_document(text)
    return text, [
        *check_sources(page_, seen.get),
        *check_candidates(page_, seen.get),
    ]  # none left out for another's sake


def test_every_pick_is_the_browsers(fetched: dict[tuple[int, int, int], str]) -> None:
    wrong = {
        key: (url, pick(image, Device(width, HEIGHT, density)).url)
        for key, url in fetched.items()
        for page, width, density in [key]
        for image in (one.element for one in read_document(picture(page)).images)
        if pick(image, Device(width, HEIGHT, density)).url != url
    }
    assert wrong == {} and len(fetched) == COUNT * len(WIDTHS) * 2


def test_a_source_is_told_as_never_chosen_if_no_viewport_chooses_it(fetched: dict[tuple[int, int, int], str]) -> None:
    told = 0
    for page in range(COUNT):
        text, found = findings(page)
        chosen = {url.split("-")[0] for (one, _, _), url in fetched.items() if one == page}
        types: set[str] = set()
        for i, source in enumerate(read_document(text).images[0].sources):
            dead = any(one.rule == "source-never-chosen" and source.start <= one.start < source.end for one in found)
            type_ = source.values().get("type", "")
            types.add(type_)
            assert not (dead and f"s{i}" in chosen), (page, text)
            if types <= set(EVERYWHERE):
                assert dead == (f"s{i}" not in chosen), (page, i, text)
            told += dead
    assert told > 20  # the pictures do try what is tested


def test_a_gap_is_told_where_the_img_is_fetched_between_sources(fetched: dict[tuple[int, int, int], str]) -> None:
    told = 0
    for page in range(COUNT):
        text, found = findings(page)
        gaps = [one for one in found if one.rule == "gap-between-sources"]
        by_width = [fetched[page, width, 1] for width in WIDTHS]
        types = {source.values().get("type", "") for source in read_document(text).images[0].sources}
        if not types <= set(EVERYWHERE):
            continue  # some browsers may fall into a gap where Chromium does not
        told += bool(gaps)
        if gaps:
            first = next(i for i, url in enumerate(by_width) if url != "img.png")
            assert "img.png" in by_width[first:], (page, text)
        slips = [
            width
            for width in WIDTHS
            if (page, width - 1, 1) in fetched
            and (page, width + 1, 1) in fetched
            and [fetched[page, width + d, 1] == "img.png" for d in (-1, 0, 1)] == [False, True, False]
        ]
        assert not slips or gaps, (page, slips, text)
    assert told > 10


def test_a_dropped_candidate_is_never_fetched(fetched: dict[tuple[int, int, int], str]) -> None:
    told = 0
    for page in range(COUNT):
        text, found = findings(page)
        urls = {url for (one, _, _), url in fetched.items() if one == page}
        starts = [one.start for one in found if one.rule == "candidate-dropped"]
        dropped = [re.findall(r"s\d-\d\.png", text[: start + len("s0-0.png")])[-1] for start in starts]
        assert not urls & set(dropped), (page, text)
        told += len(dropped)
    assert told > 50


def slip_pages() -> list[tuple[str, str]]:
    """Pictures with each sure slip of the tables, and with what is meant in its place; none that means what is the default."""
    many = ", ".join(f"{width}.png {width}w" for width in range(20, 1700, 20))
    tables: list[tuple[list[tuple[str, str, str, bool]], Callable[[str], Slip | None], str]] = [
        (SRCSETS, lambda value: srcset_slips(value, FILES.get)[0][1], '<img src="img.png" srcset="{}" sizes="300px">'),
        (SIZES, lambda value: sizes_slips(value)[0][3], f'<img src="img.png" srcset="{many}" sizes="{{}}">'),
        (MEDIA, media_slip, '<picture><source media="{}" srcset="s.png"><img src="img.png"></picture>'),
    ]
    return [
        (markup.format(value), markup.format(value[: slip.start] + slip.text + value[slip.end :]))
        for table, slip_in, markup in tables
        for value, meant, _, sure in table
        if sure and meant != "100vw" and (slip := slip_in(value))
    ]


def test_a_slip_is_one_in_the_browser_and_what_is_meant_is_not(browser: webdriver.Chrome, tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<!doctype html>")
    pages = slip_pages()
    told: dict[Device, list[str]] = {}
    with served(tmp_path) as address:
        browser.get(address)
        for density in (1, 2):
            metrics = {"width": 1280, "height": HEIGHT, "deviceScaleFactor": density, "mobile": False}
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            by_width = browser.execute_async_script(FETCHED, "".join(map("".join, pages)), WIDTHS, HEIGHT)
            told |= {Device(width, HEIGHT, density): urls for width, urls in zip(WIDTHS, by_width, strict=True)}
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        browser.get("about:blank")
    for i, pair in enumerate(pages):
        faulty, good = ({device: urls[2 * i + side] for device, urls in told.items()} for side in (0, 1))
        assert faulty != good, pair
        for text, fetched_ in zip(pair, (faulty, good), strict=True):
            [image] = (one.element for one in read_document(text).images)
            assert fetched_ == {device: pick(image, device).url.rsplit("/", 1)[-1] for device in told}, text
    assert len(pages) > 40
