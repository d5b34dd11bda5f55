"""Arrows point one way: web → studio → core."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from graphlib import TopologicalSorter
from pathlib import Path
from unittest import TestCase

CORE = Path(__file__).resolve().parents[1]


def _needs(package: Path, name: str) -> dict[str, set[str]]:
    """Which folders of a package each of its folders imports; what lies beside them counts as one each."""
    needs: dict[str, set[str]] = {}
    for path in package.rglob("*.py"):
        if "tests" in path.parts or "migrations" in path.parts:
            continue
        own = path.relative_to(package).parts[0].removesuffix(".py")
        for node in ast.walk(ast.parse(path.read_text())):
            module = node.module or "" if isinstance(node, ast.ImportFrom) else ""
            if module.startswith(f"{name}."):
                needs.setdefault(own, set()).add(module.split(".")[2])
            elif module == name and isinstance(node, ast.ImportFrom):
                needs.setdefault(own, set()).update(a.name for a in node.names)
    return {own: needed - {own} for own, needed in needs.items()}


def _page_needs(source: Path) -> dict[str, set[str]]:
    needs: dict[str, set[str]] = {}
    for path in (*source.glob("*/*.ts"), *source.glob("*/*.vue")):
        found = re.findall(r"from '@/([a-z]+)/", path.read_text())
        needs.setdefault(path.parent.name, set()).update(set(found) - {path.parent.name})
    return needs


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

    def test_folders_go_one_way(self) -> None:
        """Within core, within the studio, and within the pages: no two folders need each other."""
        for package, name in ((CORE, "giftwrap.core"), (CORE.parent / "studio", "giftwrap.studio")):
            order = list(TopologicalSorter(_needs(package, name)).static_order())  # raises on a circle
            self.assertGreater(len(order), 5)
        pages = CORE.parents[2] / "web" / "src"
        self.assertIn("stores", list(TopologicalSorter(_page_needs(pages)).static_order()))

    def test_importing_core_loads_no_web_framework(self) -> None:
        code = (
            "import sys, giftwrap.core.render.worker, giftwrap.core.things.facts;"
            "print(sorted(m for m in sys.modules if m.split('.')[0] in ('django', 'ninja', 'channels')))"
        )
        result = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(result.stdout.strip(), "[]")
