"""The proof page in a real browser, from a file: what a click and a dragged box give."""

import tomllib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from selenium import webdriver
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By

from tests.conftest import PLAN, run_sarvel

pytestmark = pytest.mark.browser


def test_a_click_and_a_dragged_box_give_lines_and_a_command(browser: webdriver.Chrome, site: Path) -> None:
    two = np.full((400, 800, 3), (90, 120, 150), np.uint8)
    two[150:260, 80:190] = two[150:260, 600:710] = (220, 60, 30)
    for name in ("two.png", "it's.png"):
        Image.fromarray(two).save(site / "masters" / name)
    (site / "pages" / "index.html").write_text(
        '<img data-sarvel="banner" src="../masters/two.png"><img data-sarvel="banner" src="../masters/it\'s.png">'
    )
    (site / "sarvel.toml").write_text(PLAN.split("[masters")[0])
    assert run_sarvel("proof", "--html", cwd=site).returncode == 0
    browser.get((site / "proof.html").as_uri())
    assert not browser.find_element(By.ID, "choices").is_displayed()
    first, second = browser.find_elements(By.CSS_SELECTOR, "article")
    button = first.find_element(By.CSS_SELECTOR, '[data-number="2"]')
    browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", button)
    button.click()
    board = second.find_element(By.CSS_SELECTOR, ".board")
    browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", board)
    wide, high = board.size["width"], board.size["height"]
    ActionChains(browser).move_to_element_with_offset(board, -wide // 4, -high // 4).click_and_hold().move_by_offset(
        10, 10
    ).move_by_offset(wide // 2 - 10, high // 4 - 10).release().perform()
    lines = tomllib.loads(browser.find_element(By.ID, "lines").get_attribute("value") or "")["masters"]
    box = lines["it's.png"]["subject"]
    assert box == pytest.approx([0.25, 0.25, 0.75, 0.5], abs=0.02)
    assert f"subject = {lines['two.png']['subject']}" in (button.get_attribute("data-line") or "").replace("00]", "00]")
    command = browser.find_element(By.ID, "command").get_attribute("value")
    edges = ",".join(f"{edge:.3f}" for edge in box)
    assert command == f"sarvel subjects --choose 'two.png=2' --choose 'it'\\''s.png={edges}'"
