"""Every station can be read by a screen reader: no serious finding of the axe rules (WCAG 2.1 A and AA)."""

from __future__ import annotations

from django.conf import settings

from browser_tests.studio import BrowserTestCase

AXE = settings.BASE_DIR / "web" / "node_modules" / "axe-core" / "axe.min.js"
RUN = """
const done = arguments[0];
axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] }).then((result) => done(
  result.violations
    .filter((v) => ['serious', 'critical'].includes(v.impact))
    .map((v) => `${v.id}: ${v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | ')}`)
))
"""


class AccessTests(BrowserTestCase):
    def test_no_serious_finding_on_any_page(self) -> None:
        self.sign_in()
        pages = {
            "/": "a.job img",
            "/jobs/velloway/form": "[data-test='corner-0']",
            "/jobs/velloway/wrap": "[data-test='placed-0']",
            "/jobs/velloway/set": "[data-test='light-0']",
            "/jobs/velloway/shoot": "[data-test='shoot']",
            "/jobs/velloway/show": "[data-test='shown']",
        }
        for path, sign in pages.items():
            with self.subTest(path):
                self.open(path)
                self.css(sign)
                self.browser.execute_script(AXE.read_text())
                self.assertEqual(self.browser.execute_async_script(RUN), [])

    def test_no_page_complains_in_the_console(self) -> None:
        self.sign_in()
        self.browser.get_log("browser")
        for station in ("form", "wrap", "set", "shoot", "show"):
            self.open(f"/jobs/velloway/{station}")
            self.css(".slip h2")
        loud = [entry for entry in self.browser.get_log("browser") if entry["level"] == "SEVERE"]
        self.assertEqual(loud, [])
