"""The demo job as its files tell it: documents, and the artwork they name."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

DEMO_DIR = Path(__file__).resolve().parents[2] / "demo"
ARTWORK_PLACE = "demo:"
"""Before a file's name it stands for the SHA-256 that the file has."""


def demo_story() -> tuple[dict[str, Any], dict[str, bytes]]:
    """The demo job, its artwork named by hashes; and the files of that artwork by name."""
    text = (DEMO_DIR / "job.json").read_text()
    files = {name: (DEMO_DIR / "artwork" / name).read_bytes() for name in json.loads(text)["artwork"]}
    for name, data in files.items():
        text = text.replace(f"{ARTWORK_PLACE}{name}", hashlib.sha256(data).hexdigest())
    return json.loads(text), files
