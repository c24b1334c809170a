"""Pictures of woven pages on devices, of a proof and of a report: page_shots.py SITE PROOF REPORT OUTPUT."""

from __future__ import annotations

import sys
import time
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

SHOTS = [
    ("page-phone.png", "index.html", 360, 740, 2),
    ("page-desktop.png", "index.html", 1280, 800, 1),
    ("page-history.png", "history.html", 1280, 800, 1),
]


def main() -> None:
    """Takes them all."""
    site, proof, report, output = *(Path(one).resolve() for one in sys.argv[1:4]), Path(sys.argv[4])
    options = webdriver.ChromeOptions()
    for flag in (
        "--headless=new",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-background-networking",
        "--hide-scrollbars",
    ):
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    with webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver")) as browser:
        for name, page, width, height, dpr in SHOTS:
            metrics = {"width": width, "height": height, "deviceScaleFactor": dpr, "mobile": width < 800}
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            browser.get((site / page).as_uri())
            time.sleep(1)
            browser.save_screenshot(str(output / name))
        browser.get(report.as_uri())
        browser.save_screenshot(str(output / "report.png"))
        for _ in range(2):  # what is above may grow once it is loaded
            browser.execute_script("document.getElementById('picture-2').scrollIntoView()")
            time.sleep(0.5)
        browser.save_screenshot(str(output / "report-picture.png"))
        browser.get(proof.as_uri())
        browser.find_element("id", "board").send_keys("1")
        browser.save_screenshot(str(output / "subjects-page.png"))
        browser.execute_cdp_cmd("Network.enable", {})
        browser.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*.avif", "*.webp", "*.jpg", "*.png"]})
        browser.get((site / "index.html").as_uri())
        time.sleep(1)
        browser.save_screenshot(str(output / "page-placeholders.png"))


if __name__ == "__main__":
    main()
