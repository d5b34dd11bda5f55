"""What the test command runs: everything once, and to the first failure."""

from __future__ import annotations

import contextlib
import io
import os
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from giftwrap.launch.checking import Step, run_beside, shares
from giftwrap.launch.provide import ROOT


def saying(code: str) -> Step:
    return Step([sys.executable, "-c", code], Path.cwd())


class ShareTests(TestCase):
    def test_every_test_that_needs_no_browser_is_in_one_share(self) -> None:
        source = ROOT / "src"
        files = {path.parent for path in source.rglob("test_*.py")}
        packages = {".".join(folder.relative_to(source).parts) for folder in files}
        lit, rest = shares()
        self.assertEqual(sorted([*lit, *rest]), sorted(packages))
        self.assertIn("giftwrap.core.render.tests", lit)
        self.assertIn("giftwrap.core.tests", rest)


class LaneTests(TestCase):
    def run_lanes(self, lanes: dict[str, list[Step]]) -> tuple[int, str]:
        said = io.StringIO()
        with contextlib.redirect_stdout(said):
            status = run_beside(lanes, dict.fromkeys(lanes, os.environ))
        return status, said.getvalue()

    def test_both_run_and_say_what_they_have_to(self) -> None:
        status, said = self.run_lanes(
            {"a": [saying("print('one')"), saying("print('two')")], "b": [saying("print('three')")]}
        )
        self.assertEqual(status, 0)
        for words in ("one\n", "two\n", "three\n"):
            self.assertIn(f"\n{words}", said)

    def test_a_lane_ends_at_its_first_failure_and_the_other_goes_on(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            mark = Path(folder) / "mark"
            status, said = self.run_lanes(
                {
                    "a": [saying("raise SystemExit(3)"), saying("print('never')")],
                    "b": [saying("pass"), saying(f"open({str(mark)!r}, 'w')")],
                }
            )
            self.assertEqual(status, 3)
            self.assertNotIn("\nnever", said)
            self.assertTrue(mark.exists())
