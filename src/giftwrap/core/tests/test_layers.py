"""Arrows point one way: web → studio → core."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path
from unittest import TestCase

CORE = Path(__file__).resolve().parents[1]


class LayerTests(TestCase):
    def test_core_imports_neither_django_nor_studio(self) -> None:
        forbidden = ("django", "ninja", "channels", "distributed", "giftwrap.studio", "giftwrap.crew")
        forbidden += ("giftwrap.launch",)
        for path in CORE.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
                if isinstance(node, ast.ImportFrom):
                    names = [node.module or ""]
                for name in names:
                    self.assertFalse(name.startswith(forbidden), f"{path.name} imports {name}")

    def test_studio_and_crew_import_nothing_of_what_starts_and_measures_them(self) -> None:
        for package in ("studio", "crew"):
            for path in (CORE.parent / package).rglob("*.py"):
                text = path.read_text()
                for name in ("giftwrap.launch", "giftwrap.bench"):
                    self.assertNotIn(f"from {name}", text, path)

    def test_importing_core_loads_no_web_framework(self) -> None:
        code = (
            "import sys, giftwrap.core.render.worker, giftwrap.core.things.facts;"
            "print(sorted(m for m in sys.modules if m.split('.')[0] in ('django', 'ninja', 'channels')))"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(result.stdout.strip(), "[]")
