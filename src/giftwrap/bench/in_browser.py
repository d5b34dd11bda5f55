"""The demo running in a home of its own, and a browser without a graphics card in front of it."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from selenium import webdriver

from giftwrap.launch.browser import open_browser
from giftwrap.launch.family import Family, free_port, manage
from giftwrap.launch.provide import provide_browser, provide_pages


@contextmanager
def demo_in_browser(prepare: str = "") -> Iterator[tuple[webdriver.Chrome, str, Path]]:
    """The browser, the demo's address and its home.

    prepare : Python that puts more into its database before it starts
    """
    provide_pages()
    provide_browser()
    with tempfile.TemporaryDirectory(prefix="giftwrap-bench-") as folder:
        home = Path(folder)
        manage(["load_demo", "--signed-in"], home=home, demo=True)
        if prepare:
            manage(["shell", "--no-imports", "-c", prepare], home=home, demo=True)
        family = Family(home, free_port(), demo=True)
        try:
            family.start()
            browser = open_browser(home / "profile", home)
            try:
                yield browser, family.address, home
            finally:
                browser.quit()
        finally:
            family.stop()
