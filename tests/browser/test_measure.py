"""Measuring in a real browser: layouts of known truth, the demo, and what cannot be measured."""

import contextlib
import json
import os
import random
import re
import shutil
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image
from selenium import webdriver

from sarvel.browser.look import PLACE, look, steady
from sarvel.browser.page_boxes import PageBoxes, measure
from sarvel.browser.session import Session
from sarvel.browser.site_server import Folders, SiteServer
from sarvel.browser.views import HEIGHT
from sarvel.core.css.device import Device
from sarvel.core.layout.fitted import Fitted, fit_shown
from sarvel.pages.read.page_files import read_text
from sarvel.pages.read.places import with_places
from sarvel.pipeline.listener import Advance, Nobody
from sarvel.tools.measure.pages import PageToMeasure, measured_pages
from sarvel.tools.start.measured import behaviours
from tests.conftest import run_sarvel, start_sarvel
from tests.serving import running

pytestmark = pytest.mark.browser

CSS = """* { box-sizing: border-box } body { margin: 0 } img { max-width: 100%; display: block }
.grid { display: grid; grid-template-columns: repeat(3, 1fr); gap: 24px; padding: 0 16px } .grid img { width: 100% }
@media (max-width: 899.98px) { .grid { grid-template-columns: 1fr 1fr } }
.wrap { display: flex; flex-wrap: wrap; gap: 20px } .wrap > div { flex: 1 1 300px; max-width: 500px } .wrap img { width: 100% }
.rem { padding: 0 2.5rem } .rem img { width: 100% }
.most { max-width: 1180px; margin: 0 auto; padding: 0 20px } .most img { width: 100% }
.side { display: grid; grid-template-columns: minmax(0, 1fr) } .side img { width: 100% } .side aside { display: none }
@media (min-width: 62em) { .side { grid-template-columns: minmax(0, 1fr) 280px } .side aside { display: block } }
.aspect { width: 60% } .aspect img { width: 100%; aspect-ratio: 16 / 9; object-fit: cover }
.clamp img { width: clamp(220px, 10px + 40vw, 800px) }
.outer { container-type: inline-size; padding: 0 30px } .inner img { width: 100% } @container (min-width: 700px) { .inner img { width: 50% } }
.columns { display: grid; grid-template-columns: repeat(auto-fill, minmax(210px, 1fr)); gap: 10px; padding: 0 5px } .columns img { width: 100% }
.desk img { width: 45% } @media (max-width: 599px) { .desk { display: none } }
.narrow { max-width: 700px; margin: 0 auto; padding: 0 12px } .bleed { width: 100vw; margin-left: calc(50% - 50vw); max-width: none }
table { width: 80%; table-layout: fixed; border-collapse: collapse } td { padding: 0 } td img { width: 100% }"""

IMG = '<img src="a.png" alt="">'
# Sections of one page, and the truth: the width of the first image as CSS, by where each length begins.
LAYOUTS: dict[str, tuple[str, dict[int, str]]] = {
    "grid with gaps": (f'<div class="grid">{IMG * 3}</div>', {0: "calc((100vw - 56px) / 2)", 900: "calc((100vw - 80px) / 3)"}),
    "flex that wraps": (f'<div class="wrap"><div>{IMG}</div><div>{IMG}</div></div>', {0: "min(100vw, 500px)", 620: "min(50vw - 10px, 500px)"}),
    "paddings in rem": (f'<div class="rem">{IMG}</div>', {0: "calc(100vw - 5rem)"}),
    "greatest width": (f'<div class="most">{IMG}</div>', {0: "min(100vw - 40px, 1140px)"}),
    "sidebar that appears": (f'<div class="side">{IMG}<aside>x</aside></div>', {0: "100vw", 992: "calc(100vw - 280px)"}),
    "aspect box": (f'<div class="aspect">{IMG}</div>', {0: "60vw"}),
    "clamp": (f'<div class="clamp">{IMG}</div>', {0: "clamp(220px, 10px + 40vw, 800px)"}),
    "container query": (f'<div class="outer"><div class="inner">{IMG}</div></div>', {0: "calc(100vw - 60px)", 760: "calc(50vw - 30px)"}),
    "columns by minmax": (f'<div class="columns">{IMG * 9}</div>', {n and 220 * n: f"calc((100vw - {10 * n}px) / {n})" for n in range(1, 18)}),
    "hidden on phones": (f'<div class="desk">{IMG}</div>', {0: "45vw"}),
    "full bleed": (f'<div class="narrow"><p>x</p>{IMG.replace("img ", "img class=bleed ")}</div>', {0: "100vw"}),
    "table": (f"<table><tr><td>{IMG}<td>x</table>", {0: "40vw"}),
}  # fmt: skip


def page_of(body: str, css: str = CSS) -> str:
    return f'<!doctype html><html><head><meta charset="utf-8"><style>{css}</style></head><body>{body}</body></html>'


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    Image.new("RGB", (4000, 3000), "#456").save(tmp_path / "a.png")
    return tmp_path


def test_layouts_of_known_truth(folder: Path, browser: webdriver.Chrome) -> None:
    """Fitted within half a pixel on 80 viewports at random, with breakpoints to the pixel; two runs alike."""
    text = page_of("".join(body for body, _ in LAYOUTS.values()))
    starts = [text.index(body) + body.index("<img") for body, _ in LAYOUTS.values()]
    (folder / "index.html").write_text(text)
    server = SiteServer(Folders([folder]), {"/index.html": with_places(text, starts, PLACE).encode()})
    session = Session(browser, server.address)
    try:
        runs = [fitted(measure(session, "/index.html")) for _ in range(2)]
        assert runs[0] == runs[1]
        for (name, (_, truth)), found in zip(LAYOUTS.items(), runs[0], strict=True):
            bends = [start for start, _ in found.steps]
            assert bends == [start for start in truth if start < 3840] or name == "columns by minmax", (name, found)
            assert set(bends) >= {start for start in truth if 240 < start < 3000} or name != "columns by minmax"
        chance = random.Random(7)
        session.open("/index.html")
        steady(session)
        for width in [chance.randint(240, 3840) for _ in range(80)]:
            session.set_viewport(width, HEIGHT)
            boxes = look(session)
            for number, (name, (_, truth)) in enumerate(LAYOUTS.items()):
                if boxes[number].shown:
                    said = runs[0][number].on(Device(width, HEIGHT))
                    assert abs(said - boxes[number].width) <= 0.5, (name, width, said, boxes[number].width)
                    own = Fitted(tuple(truth.items()), 0).on(Device(width, HEIGHT))
                    assert abs(own - boxes[number].width) <= 0.6, (name, width, "the truth itself is wrong")
    finally:
        session.set_font(16)
        browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        server.close()


def fitted(page: PageBoxes) -> list[Fitted]:
    assert page.whole
    return [fit_shown(page.widths(number), page.pulls.get(number, {}), HEIGHT) for number in range(len(LAYOUTS))]


def test_rem_is_told_from_px_and_height_from_width(folder: Path) -> None:
    css = "img { display: block } .a { width: 20rem } .b { width: 320px } .c { width: calc(50vw - 3rem) } .d { width: 40vh } .e { width: calc(50vw - 48px) }"
    text = page_of("".join(f'<img class="{name}" src="a.png" alt="">' for name in "abcde"), css)
    assert widths_of(folder, text) == ["20rem", "320px", "calc(50vw - 3rem)", "40vh", "calc(50vw - 48px)"]


def widths_of(folder: Path, text: str) -> list[str]:
    (folder / "index.html").write_text(text)
    sheet = PageToMeasure(
        folder / "index.html", read_text(folder / "index.html"), [one.start() for one in re.finditer("<img", text)]
    )
    (page,) = measured_pages([sheet], Folders([folder]), None, Nobody()).pages.values()
    return [
        ", ".join(css for _, css in fit_shown(page.widths(number), page.pulls.get(number, {}), HEIGHT).steps)
        for number in page.boxes
    ]


def test_pages_that_move_hide_or_are_laid_out_by_scripts(folder: Path) -> None:
    """A box is the box that stands in the end: behind animations, in slides that have not their turn, by scripts."""
    css = """body { margin: 0 } img { width: 50%; display: block } @keyframes grow { from { width: 10px } } .grow { animation: grow 9s }
    .slide { display: none } .turned { transform: scale(.5) } dialog img { width: 200px }"""
    body = f"""<div class="grow">{IMG}</div><div class="slide">{IMG}</div><div class="turned">{IMG}</div><dialog>{IMG}</dialog>
    <div style="height: 3000px"></div><img loading="lazy" src="a.png" alt=""><div id="late"></div>
    <script>const set = () => document.querySelector("body > img").style.width = innerWidth / 4 + "px";
    set(); addEventListener("resize", set); setInterval(() => fetch("/never"), 100);
    setInterval(() => document.body.style.width = Math.random() * 500 + "px", 2000);</script>"""
    widths = widths_of(folder, page_of(body, css))
    assert widths == ["50vw", "50vw", "50vw", "200px", "25vw"]


def test_behaviours_of_images_tell_what_is_cropped_and_what_is_seen_first(folder: Path) -> None:
    css = "body { margin: 0 } .a { width: 100%; height: 300px; object-fit: cover } .b { width: 200px; aspect-ratio: 1; object-fit: cover } .c { width: 100% }"
    text = page_of(
        '<img class="a" src="a.png" alt=""><div style="height: 2000px"></div><img class="b" src="a.png" alt=""><img class="c" src="a.png" alt="">',
        css,
    )
    page = folder / "index.html"
    page.write_text(text)
    places = [(page, one.start()) for one in re.finditer("<img", text)]
    found, measured = behaviours(places, [], [folder], "", None, Nobody())
    assert not measured.faults and [bool(found[place].ratios) for place in places] == [True, True, False]
    assert set(found[places[1]].ratios.values()) == {1.0} and found[places[0]].ratios[240] == pytest.approx(0.8)
    assert found[places[0]].first == pytest.approx((300 / 740, 300 / 900)) and found[places[2]].first == (0, 0)


def test_the_demos_plan_says_what_is_measured(demo: Path, tmp_path: Path) -> None:
    site = Path(shutil.copytree(demo, tmp_path / "site"))
    done = run_sarvel("measure", "--save", cwd=site)
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.count("the plan says the same") == 6 and "6 slots on 3 pages measured\n" in done.stdout
    plan = (site / "sarvel.toml").read_text()
    was, now = (re.sub(r"measured = .*\n", "", text) for text in ((demo / "sarvel.toml").read_text(), plan))
    assert now == was and plan.count("measured = {") == 6
    assert run_sarvel("check", cwd=site).stdout == "no fault found in 4 pages and 2 stylesheets\n"
    assert "  measured  20" in run_sarvel("plan", "card", cwd=site).stdout
    (site / "pages" / "site.css").write_text((site / "pages" / "site.css").read_text() + "article { padding: 10px }")
    (site / "sarvel.toml").write_text(plan.replace('desktop = "560px"', 'desktop = "600px"'))
    assert "hint layout-changed-since" in run_sarvel("check", cwd=site).stdout
    document = json.loads(run_sarvel("measure", "pages/index.html", "pages/history.html", "--json", cwd=site).stdout)
    off = {one["slot"]: (one["off"], one["off_at"] >= 1024) for one in document["slots"] if not one["agrees"]}
    assert off == {"card": (20, False), "panel": (40, True)} or off.keys() == {"card", "panel"}, off


def test_start_finds_the_demos_slots_without_its_plan(demo: Path, tmp_path: Path) -> None:
    site = tmp_path / "site"
    shutil.copytree(demo / "pages", site / "pages")
    shutil.copytree(demo / "masters", site / "masters")
    (site / "pages" / "log.md").unlink()  # which no browser shows as it is
    for page in (site / "pages").glob("*.html"):
        page.write_text(re.sub(r' data-sarvel="\w+"', "", page.read_text()))
    done = run_sarvel("start", "--measure", cwd=site)
    assert done.returncode == 0 and "Run sarvel build" in done.stdout, done.stderr
    plan = (site / "sarvel.toml").read_text()
    of_images = plan.partition("[slots.link]")[0]
    shown = re.findall(r"^sizes = (.*?)    #", of_images, flags=re.MULTILINE)
    assert sorted(shown) == sorted(
        [
            '{ phone = "100vw", desktop = "min(100vw - 4rem, 1280px)" }',
            '{ phone = "calc(100vw - 2rem)", tablet = "calc(50vw - 40px)", desktop = "384px" }',
            '{ phone = "calc(100vw - 2rem)", tablet = "calc(100vw - 3rem)", desktop = "560px" }',
            '{ phone = "calc(100vw - 2rem)", tablet = "calc(100vw - 3rem)", desktop = "960px" }',
            '"96px"',
        ]
    )  # fmt: skip
    assert "phone = 0\ntablet = 640\ndesktop = 1024\n" in plan and plan.count('loading = "eager"') >= 1


BAD = {
    "no images": ("<p>Nothing.", "", "no image of these pages is for a slot of the plan"),
    "leads elsewhere": ('<script>location.href = "other.html"</script>{}', "leads to /pages/other.html; name that page instead", ""),
    "never answers": ("<script>addEventListener('DOMContentLoaded', () => setTimeout(() => { for (;;); }))</script>{}", "look for a script that never ends", ""),
    "script errors": ("<script>nothing.here()</script>{}", "", ""),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_pages_that_cannot_be_measured(name: str, site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    body, fault, refusal = BAD[name]
    if name == "never answers":
        monkeypatch.setattr("sarvel.browser.session._ANSWER", 8.0)
        monkeypatch.setattr("sarvel.browser.session._SCRIPT", 4.0)
    tag = '<img data-sarvel="badge" src="../masters/seal.png" alt="" width="40">'
    (site / "pages" / "index.html").write_text(f"<!doctype html><body>{body.replace('{}', tag)}")
    (site / "pages" / "other.html").write_text(f"<!doctype html><body>{tag}" if not refusal else "<p>Nothing.")
    done = run_sarvel("measure", cwd=site)
    assert "Traceback" not in done.stderr and (refusal or fault) in done.stderr, done.stderr
    assert done.returncode == (2 if refusal else 1 if fault else 0), done.stdout + done.stderr
    assert refusal or ("[slots.badge]" in done.stdout and 'sizes = "40px"' in done.stdout)


def test_what_is_missing_is_a_sentence(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    done = run_sarvel("measure", "none.html", cwd=site)
    assert done.returncode == 2 and done.stderr.startswith(
        "none.html: there is no such page; name one that a browser shows"
    )
    done = run_sarvel("measure", "--driver", "http://127.0.0.1:9", cwd=site)
    assert done.returncode == 2 and done.stderr.startswith("http://127.0.0.1:9: no browser could be started"), (
        done.stderr
    )
    (site / "without" / "selenium").mkdir(parents=True)
    (site / "without" / "selenium" / "__init__.py").write_text("raise ImportError")
    with monkeypatch.context() as without:
        without.setenv("PYTHONPATH", str(site / "without"))
        done = start_sarvel("measure", cwd=site)
        assert done.returncode == 2 and "pip install 'sarvel[browser]'" in done.stderr
    monkeypatch.setenv("PATH", str(site))
    done = run_sarvel("measure", cwd=site)
    assert done.returncode == 2 and "pip install 'sarvel[browser]'; apt install chromium" in done.stderr


def test_a_driver_that_ends_takes_one_page_with_it(site: Path) -> None:
    """Another browser is started for the rest; after some it is given up."""
    tag = '<img data-sarvel="badge" src="../masters/seal.png" alt="" width="40">'
    names = ["a", "b", "c"]
    for name in names:
        (site / "pages" / f"{name}.html").write_text(f"<!doctype html><body>{tag}")
    sheets = [
        PageToMeasure(site / "pages" / f"{name}.html", read_text(site / "pages" / f"{name}.html"), [21])
        for name in names
    ]
    folders, ends = Folders([site]), iter([True, False, False])
    others = set(running("chromedriver", os.getpid()))  # of the tests' own browser

    class Killing(Nobody):
        @contextlib.contextmanager
        def progress(self, label: str, total: int, *, timed: bool = True) -> Iterator[Advance]:
            del label, total, timed

            def advance(_count: int, _what: str) -> None:
                if next(ends):
                    (driver,) = set(running("chromedriver", os.getpid())) - others
                    os.kill(driver, signal.SIGKILL)

            yield advance

    found = measured_pages(sheets, folders, None, Killing(), browsers=1)
    assert len(found.pages) == 2 and len(found.faults) == 1
    assert str(found.faults[0]).endswith("b.html: the browser's driver ended; it was left out"), found.faults
