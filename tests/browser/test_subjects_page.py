"""The page of subjects in a real browser, from a file: forty masters by keyboard alone, boxes by mouse, and the rule of crops."""

import csv
import json
import random
import shutil
import time
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from selenium import webdriver
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from sarvel.core.crop.place import Box, kept, place
from sarvel.core.crop.turn import turned, turned_size
from tests.browser.test_report import AXE, RUN
from tests.conftest import PLAN, run_sarvel

pytestmark = pytest.mark.browser

MANY = 40
TURNED = '\n[slots.turned]\nsizes = "20vw"\ncrops = [{ ratio = "9:16", rotate = "right", mirror = true, zoom = 1.5 }]\n'


def two(seed: int) -> Image.Image:
    """A picture with two things that are alike, so that nobody can be sure."""
    pixels = np.full((400, 800, 3), (90, 120, 150), np.uint8)
    x, y = random.Random(seed).randrange(20, 150), random.Random(seed).randrange(20, 250)
    pixels[y : y + 110, x : x + 110] = pixels[y : y + 110, x + 520 : x + 630] = (220, 60, 30)
    return Image.fromarray(pixels)


@pytest.fixture(scope="module")
def many(site_before: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = Path(shutil.copytree(site_before, tmp_path_factory.mktemp("subjects") / "site"))
    for i in range(MANY):
        two(i).save(folder / "masters" / f"m{i:02}, it's.png")
    tags = "".join(
        f'<img data-sarvel="{slot}" src="../masters/m{i:02}, it\'s.png" alt="">'
        for i in range(MANY)
        for slot in ("banner", "turned")
    )
    (folder / "pages" / "index.html").write_text(tags)
    (folder / "sarvel.toml").write_text(PLAN.split("[masters")[0] + TURNED)
    done = run_sarvel("subjects", "--page", cwd=folder)
    assert f"{MANY} masters, {MANY} to decide" in done.stdout
    return folder


@pytest.fixture
def page(many: Path, browser: webdriver.Chrome, tmp_path: Path) -> Iterator[webdriver.Chrome]:
    browser.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(tmp_path)})
    browser.get((many / "subjects.html").as_uri())
    browser.execute_script("localStorage.clear(); decided.clear(); past = []; go(0);")
    browser.get_log("browser")  # type: ignore[no-untyped-call] # selenium; what an earlier page said
    yield browser
    assert browser.get_log("browser") == []  # type: ignore[no-untyped-call] # selenium
    browser.get("about:blank")


def text(page: webdriver.Chrome, name: str) -> str:
    return page.find_element(By.ID, name).text


def saved(folder: Path) -> list[dict[str, str]]:
    """The rows of the file that the page gave."""
    until = time.monotonic() + 30
    while not (folder / "subjects.csv").exists() and time.monotonic() < until:
        time.sleep(0.05)
    with (folder / "subjects.csv").open(newline="") as file:
        return list(csv.DictReader(file))


def test_forty_masters_by_keyboard_alone(many: Path, page: webdriver.Chrome, tmp_path: Path) -> None:
    guesses = page.execute_script("return masters.map((one) => one.guesses)")
    keys = page.switch_to.active_element
    assert keys.get_attribute("id") == "board" and text(page, "left") == f"{MANY} of {MANY} left"
    for i in range(MANY):
        if i % 4 == 3:
            keys.send_keys(
                "1", Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_UP, Keys.SHIFT, Keys.ARROW_DOWN, Keys.SHIFT
            )
        else:
            keys.send_keys("210"[i % 4] if len(guesses[i]) > 1 or i % 4 else "1")
        keys.send_keys(Keys.ENTER)
    assert text(page, "left") == f"All {MANY} decided: save subjects.csv"
    keys.send_keys("s")
    rows = saved(tmp_path)
    assert [row["file"] for row in rows] == [f"m{i:02}, it's.png" for i in range(MANY)]
    for i, row in enumerate(rows):
        box = [float(row[name]) for name in ("left", "top", "right", "bottom")]
        wanted = guesses[i][0]
        if i % 4 == 0:
            wanted = guesses[i][min(1, len(guesses[i]) - 1)]
        elif i % 4 == 2:
            wanted = [0, 0, 1, 1]
        elif i % 4 == 3:
            wanted = [wanted[0] + 0.02, wanted[1] - 0.01, wanted[2] + 0.02, wanted[3]]
        assert box == pytest.approx(wanted, abs=0.002), i
    shutil.copy(tmp_path / "subjects.csv", many / "subjects.csv")
    plan = (many / "sarvel.toml").read_text()
    (many / "sarvel.toml").write_text(plan.replace("[site]", '[site]\nsubjects = "subjects.csv"'))
    subjects = json.loads(run_sarvel("subjects", "--json", cwd=many).stdout)["subjects"]
    (many / "sarvel.toml").write_text(plan)
    assert {one["from"] for one in subjects.values()} == {"import"} and not any(
        one["unsure"] for one in subjects.values()
    )


def test_what_is_undone_and_what_outlasts_the_page(page: webdriver.Chrome, many: Path) -> None:
    keys = page.switch_to.active_element
    keys.send_keys("1", Keys.ENTER, Keys.ARROW_LEFT, Keys.ARROW_LEFT, "2")
    before = page.execute_script("return [...decided]")
    keys.send_keys("u")
    assert text(page, "left") == f"{MANY - 2} of {MANY} left" and "taken" in text(page, "about")
    keys.send_keys("u")  # both steps to the left at once
    assert "not decided" in text(page, "about")
    keys.send_keys("u")
    assert text(page, "left") == f"{MANY} of {MANY} left" and text(page, "name").startswith("m00")
    keys.send_keys("1", Keys.ENTER, Keys.ARROW_LEFT, Keys.ARROW_LEFT, "2", Keys.BACKSPACE)
    page.get((many / "subjects.html").as_uri())
    assert page.execute_script("return [...decided]") == before and text(page, "left") == f"{MANY - 2} of {MANY} left"


def test_a_dragged_box_and_a_clicked_guess_give_lines_for_the_plan(page: webdriver.Chrome) -> None:
    board = page.find_element(By.ID, "board")
    wide, high = board.size["width"], board.size["height"]
    ActionChains(page).move_to_element_with_offset(board, -wide // 4, -high // 4).click_and_hold().move_by_offset(
        10, 10
    ).move_by_offset(wide // 2 - 10, high // 4 - 10).release().perform()
    page.find_element(By.ID, "next").click()
    left, top, right, bottom = page.execute_script("return masters[1].guesses[0]")
    spot = round(((left + right) / 2 - 0.5) * wide), round(((top + bottom) / 2 - 0.5) * high)
    ActionChains(page).move_to_element_with_offset(board, *spot).click().perform()
    page.find_element(By.ID, "plan").click()
    lines = tomllib.loads(page.find_element(By.ID, "lines").get_attribute("value") or "")["masters"]
    assert lines["m00, it's.png"]["subject"] == pytest.approx([0.25, 0.25, 0.75, 0.5], abs=0.02)
    assert lines["m01, it's.png"]["subject"] == pytest.approx([left, top, right, bottom], abs=6e-4)
    page.find_element(By.ID, "plan").click()


def test_crops_on_the_page_are_those_of_the_program(page: webdriver.Chrome) -> None:
    """The rule is written twice, since a page has no Python: both place thousands of crops alike."""
    chance = random.Random(1)
    cases: list[Any] = []
    for _ in range(2000):
        boxes = []
        for _ in range(chance.choice((1, 1, 2, 3))):
            (left, right), (top, bottom) = (sorted((chance.random(), chance.random())) for _ in range(2))
            boxes.append(chance.choice(([left, top, right, bottom], [left, top, left, top], [0, 0, 1, 1])))
        lean = chance.choice(([0.5, 0.5], [chance.random(), chance.random()]))
        size = chance.randrange(50, 5000), chance.randrange(50, 5000)
        cases.append([*size, chance.choice((9 / 16, 1, 4 / 5, 21 / 9)), boxes, chance.choice((1, 1.5, 4)), lean])
    placed = page.execute_script("return arguments[0].map((one) => place(...one))", cases)
    for (width, height, ratio, boxes, zoom, lean), own in zip(cases, placed, strict=True):
        box = place(width, height, ratio, [Box(*one) for one in boxes], zoom=zoom, lean=(lean[0], lean[1]))
        assert own == pytest.approx([box.left, box.top, box.right, box.bottom], abs=1e-6)


def test_crops_follow_the_box(page: webdriver.Chrome) -> None:
    """Also one that is turned and mirrored: what it loses is what the core's own functions say."""
    keys = page.switch_to.active_element
    for pressed in ("1", Keys.ARROW_LEFT, Keys.ARROW_DOWN, "0"):
        keys.send_keys(pressed)
        said = page.execute_script("return boxesOf(masters[0])[0]")
        shown = page.find_elements(By.CSS_SELECTOR, "#crops li")
        for node, crop in zip(shown, page.execute_script("return masters[0].crops"), strict=True):
            size = turned_size(800, 400, crop["turn"])
            subject = turned(Box(*said), crop["turn"], mirror=crop["mirror"])
            box = place(*size, crop["ratio"], [subject], zoom=crop["zoom"], lean=tuple(crop["lean"]))
            own = [float(edge) for edge in (node.get_attribute("data-box") or "").split()]
            assert own == pytest.approx([box.left, box.top, box.right, box.bottom], abs=1e-6)
            lost = 0.0 if pressed == "0" else 1 - kept(box, subject.times(*size))
            assert ("loses" in node.text) == (lost > 0.001)


@pytest.mark.parametrize("scheme", ["light", "dark"])
@pytest.mark.parametrize("width", [390, 1280])
def test_it_fits_and_an_accessibility_checker_finds_nothing(page: webdriver.Chrome, scheme: str, width: int) -> None:
    size = {"width": width, "height": 844, "deviceScaleFactor": 1, "mobile": False}
    page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
    page.execute_cdp_cmd(
        "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
    )
    try:
        page.find_element(By.ID, "plan").click()
        page.find_element(By.ID, "board").send_keys("1")
        assert page.execute_script("return document.documentElement.scrollWidth") <= width
        if not AXE.exists():
            pytest.skip("no axe-core; scripts/test installs it")
        page.execute_script(AXE.read_text())
        assert page.execute_async_script(RUN) == []
    finally:
        page.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        page.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
