"""The report in Chromium: accessible in both schemes, readable without script, and what its script says is what pick says."""

import json
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from sarvel.core.layout.fit import Fit
from tests.browser.conftest import served
from tests.conftest import run_sarvel

pytestmark = pytest.mark.browser

AXE = Path(__file__).parents[1] / "engines" / "node_modules" / "axe-core" / "axe.min.js"
RUN = """
const done = arguments[0];
axe.run(document, {resultTypes: ["violations"]}).then(found => done(found.violations.map(one => [one.impact, one.id, one.nodes[0].html])));
"""


@pytest.fixture(scope="module")
def site(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("report") / "site"
    shutil.copytree(demo, folder)
    assert run_sarvel("report", cwd=folder).returncode == 0
    return folder


@pytest.fixture
def page(site: Path, browser: webdriver.Chrome) -> Iterator[webdriver.Chrome]:
    with served(site) as address:
        browser.get("about:blank")
        browser.get_log("browser")  # type: ignore[no-untyped-call] # selenium; what an earlier page was still fetching
        browser.get(f"{address}/report.html")
        yield browser
        browser.get("about:blank")


def test_the_page_is_small_and_fetches_nothing(site: Path, page: webdriver.Chrome) -> None:
    assert (site / "report.html").stat().st_size < 3_000_000
    fetched = page.execute_script("return performance.getEntriesByType('resource').map(one => one.name)")
    assert [one for one in fetched if not one.startswith("data:") and not one.endswith("/favicon.ico")] == []
    log = page.get_log("browser")  # type: ignore[no-untyped-call] # selenium
    assert [one for one in log if "favicon" not in one["message"]] == []


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_an_accessibility_checker_finds_nothing(page: webdriver.Chrome, scheme: str) -> None:
    if not AXE.exists():
        pytest.skip("no axe-core; scripts/test installs it")
    page.execute_cdp_cmd(
        "Emulation.setEmulatedMedia", {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
    )
    page.execute_script("document.querySelectorAll('details').forEach(one => { one.open = true; })")
    page.execute_script(AXE.read_text())
    assert page.execute_async_script(RUN) == []
    page.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})


@pytest.mark.parametrize("width", [320, 390, 1280, 1600])
def test_the_page_fits_its_window(page: webdriver.Chrome, width: int) -> None:
    page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": width, "height": 844, "deviceScaleFactor": 1, "mobile": False})  # fmt: skip
    assert page.execute_script("return document.documentElement.scrollWidth") <= width
    page.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


@pytest.mark.parametrize("device", ["390x844@3", "700x900@1", "1440x900@2"])
def test_a_typed_device_gets_what_pick_says(site: Path, page: webdriver.Chrome, device: str) -> None:
    typed = page.find_element(By.ID, "typed")
    typed.clear()
    typed.send_keys(device)
    tables = page.find_elements(By.CSS_SELECTOR, "#answer table")
    assert len(tables) == 4
    for table in tables:
        name = table.find_element(By.TAG_NAME, "caption").text.split(":")[0]
        told = sorted(
            (cells[2].text, cells[6].text)
            for row in table.find_elements(By.CSS_SELECTOR, "tbody tr")
            if (cells := row.find_elements(By.TAG_NAME, "td"))
        )
        woven = name.replace("pages/", "public/")
        picked = json.loads(run_sarvel("pick", woven, "--device", device, "--json", cwd=site).stdout)["images"]
        outcomes = [image["devices"][0] for image in picked]
        fits = [(one["url"].rsplit("/", 1)[-1], str(Fit(None, None, None, one["fit"]))) for one in outcomes]
        shown = [one for one in told if "-still-" not in one[0]]  # a poster, which has no candidates to pick from
        assert shown == sorted(fits), name


def test_a_device_that_is_none_is_told(page: webdriver.Chrome) -> None:
    typed = page.find_element(By.ID, "typed")
    typed.clear()
    typed.send_keys("phone")
    assert typed.get_attribute("aria-invalid") == "true"
    assert page.find_element(By.ID, "answer").text == "Write a device as width, height and density: 390x844@3."


def test_the_index_is_filtered_and_sorted(page: webdriver.Chrome) -> None:
    page.find_element(By.ID, "filter").send_keys("lens card")
    shown = [row for row in page.find_elements(By.CSS_SELECTOR, "#index tbody tr") if row.is_displayed()]
    assert len(shown) == 1 and page.find_element(By.ID, "count").text == "1 of 10"
    assert sum(one.is_displayed() for one in page.find_elements(By.TAG_NAME, "article")) == 1
    page.find_element(By.ID, "filter").clear()
    sort = page.find_element(By.XPATH, "//table[@id='index']//th[contains(., 'master weighs')]/button")
    page.execute_script("arguments[0].click()", sort)  # the sections' bar may lie above it
    weights = [int(one.get_attribute("data-value") or 0) for one in page.find_elements(By.CSS_SELECTOR, "#index tbody td:nth-of-type(2)")]  # fmt: skip
    assert weights == sorted(weights, reverse=True)


def test_a_comparison_is_moved_by_keys_and_shows_any_two(page: webdriver.Chrome) -> None:
    place = page.find_element(By.CSS_SELECTOR, "#picture-2 .compare")
    handle = place.find_element(By.CSS_SELECTOR, "input[type=range]")
    handle.send_keys("\ue014" * 5)  # arrow right
    upper = place.find_element(By.CSS_SELECTOR, ".upper")
    assert page.execute_script("return getComputedStyle(arguments[0]).clipPath", upper) == "inset(0px 0px 0px 55%)"
    Select(place.find_elements(By.TAG_NAME, "select")[1]).select_by_visible_text("jpeg")
    jpeg = place.find_element(By.CSS_SELECTOR, "figure[data-view=jpeg] img")
    assert upper.get_attribute("src") == jpeg.get_attribute("src")


def test_without_script_all_is_readable(page: webdriver.Chrome) -> None:
    page.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": True})
    page.refresh()
    try:
        assert len(page.find_elements(By.CSS_SELECTOR, "figure[data-view]")) > 9
        assert all(one.is_displayed() for one in page.find_elements(By.CSS_SELECTOR, "figure[data-view]"))
        assert not page.find_element(By.ID, "typed").is_displayed()
        assert page.find_element(By.CSS_SELECTOR, "details.first summary").is_displayed()
    finally:
        page.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": False})
