"""A browser without a screen, as tests and benchmarks drive it."""

from __future__ import annotations

import os
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

WINDOW = (1280, 800)
_FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-gpu-compositing",
    "--force-prefers-reduced-motion",
)


def open_browser(profile: Path, downloads: Path) -> webdriver.Chrome:
    """Start a browser 1280 × 800 px that keeps its profile and what it downloads in these folders."""
    options = Options()
    for flag in (*_FLAGS, f"--user-data-dir={profile}", f"--window-size={WINDOW[0]},{WINDOW[1]}"):
        options.add_argument(flag)
    options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver", env={**os.environ}))
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": WINDOW[0], "height": WINDOW[1], "deviceScaleFactor": 1, "mobile": False},
    )
    return browser
