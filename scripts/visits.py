"""Visits a page in windows of several sizes: visits.py ADDRESS."""

from __future__ import annotations

import sys
import time

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

WINDOWS = [(360, 740, 3), (700, 900, 1), (1100, 800, 1), (1920, 1080, 1)]


def main() -> None:
    """Visits it."""
    options = webdriver.ChromeOptions()
    for flag in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-background-networking"):
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    with webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver")) as browser:
        for i, (width, height, density) in enumerate(WINDOWS):
            metrics = {"width": width, "height": height, "deviceScaleFactor": density, "mobile": False}
            browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            if not i:
                browser.get(sys.argv[1])
            time.sleep(2)


if __name__ == "__main__":
    main()
