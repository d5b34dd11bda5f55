"""What is set up is what is asked for: a new machine gets every package the code uses."""

from __future__ import annotations

import re
from importlib.metadata import requires
from pathlib import Path
from unittest import TestCase

from packaging.requirements import Requirement
from packaging.utils import canonicalize_name
from packaging.version import Version

from giftwrap.launch.provide import ROOT


def requirements(path: Path) -> dict[str, Requirement]:
    """The packages a file of requirements asks for, by name."""
    lines = (re.sub(r"(^|\s)#.*", "", line).strip() for line in path.read_text().splitlines())
    found = [Requirement(line) for line in lines if line]
    return {canonicalize_name(r.name): r for r in found}


class LockTests(TestCase):
    """The lock file holds the packages asked for and what those need, and nothing else.

    A package installed by hand is there on the machine it was installed on and nowhere else.
    """

    def test_the_lock_file_is_what_is_asked_for_and_all_it_needs(self) -> None:
        locked = requirements(ROOT / "requirements.txt")
        versions = {name: Version(next(iter(r.specifier)).version) for name, r in locked.items()}
        waiting = [(r, extra) for r in requirements(ROOT / "requirements.in").values() for extra in _ways(r)]
        needed: set[tuple[str, str]] = set()
        while waiting:
            requirement, extra = waiting.pop()
            name = canonicalize_name(requirement.name)
            with self.subTest(str(requirement)):
                self.assertIn(name, versions)
                self.assertIn(versions[name], requirement.specifier)
            if (name, extra) in needed or name not in versions:
                continue
            needed.add((name, extra))
            below = (Requirement(line) for line in requires(name) or [])
            waiting += [
                (r, e)
                for r in below
                if r.marker is None or r.marker.evaluate({"extra": extra})
                for e in _ways(r)
            ]
        self.assertEqual(set(versions), {name for name, _ in needed})


def _ways(requirement: Requirement) -> list[str]:
    """The extras it is wanted with, and without any."""
    return ["", *requirement.extras]
