"""Schemathesis set on a running studio: what the schema allows, and what it does not, at every address."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
import urllib.request
from dataclasses import dataclass
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

CHECKS = (
    "not_a_server_error",
    "status_code_conformance",
    "content_type_conformance",
    "response_schema_conformance",
)
REQUEST_S = 60


@dataclass(frozen=True)
class Fuzzed:
    """How it went: requests made, those that broke something, and what was printed."""

    requests: int
    broken: int
    said: str


class Visitor:
    """Somebody at a studio's pages, without a browser; by name and password where it is no demo."""

    def __init__(self, address: str, name: str = "", password: str = "") -> None:
        self.address = address
        self._cookies = CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._cookies))
        if name:
            self.get("/sign-in/")
            form = f"username={name}&password={password}&csrfmiddlewaretoken={self.token}".encode()
            self._opener.open(f"{address}/sign-in/", form).read()
        self.get("/api/session")

    @property
    def token(self) -> str:
        """What changes need."""
        return next(str(c.value) for c in self._cookies if c.name == "csrftoken")

    @property
    def headers(self) -> dict[str, str]:
        """Headers of a request that may change things."""
        cookies = "; ".join(f"{c.name}={c.value}" for c in self._cookies)
        return {"Cookie": cookies, "X-CSRFToken": self.token, "Referer": f"{self.address}/"}

    def get(self, path: str) -> bytes:
        """What is at a path. Raises OSError when it is refused or nobody answers."""
        data: bytes = self._opener.open(f"{self.address}{path}", timeout=REQUEST_S).read()
        return data


def fuzz(visitor: Visitor, *, seconds: float, examples: int, seed: int) -> Fuzzed:
    """Set the fuzzer on a studio for some seconds at the most."""
    with tempfile.TemporaryDirectory() as folder:
        schema = Path(folder) / "openapi.json"
        schema.write_text(json.dumps(_readable(json.loads(visitor.get("/api/openapi.json")))))
        command = [str(Path(sys.executable).with_name("schemathesis")), "run", str(schema)]
        command += ["--url", visitor.address, "--seed", str(seed), "--max-examples", str(examples)]
        for name, value in visitor.headers.items():
            command += ["-H", f"{name}: {value}"]
        command += ["--phases", "examples,coverage,fuzzing", "--max-time", str(round(seconds)), "--no-color"]
        command += ["--checks", ",".join(CHECKS), "--request-timeout", str(REQUEST_S)]
        command += ["--generation-database", "none"]
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    made = re.search(r"(\d[\d,]*) generated", done.stdout)
    failed = re.search(r"(\d+) unique failures?", done.stdout)
    errors = re.search(r"(\d+) errored", done.stdout)
    broken = sum(int(found[1]) for found in (failed, errors) if found)
    if done.returncode != 0:
        broken = max(broken, 1)
    return Fuzzed(int(made[1].replace(",", "")) if made else 0, broken, done.stdout + done.stderr)


def _readable(node: Any) -> Any:
    """The schema as the fuzzer can read it: for answers it takes tuples for an older dialect's."""
    if isinstance(node, dict):
        found = {key: _readable(value) for key, value in node.items() if key != "prefixItems"}
        return found | {"items": {}} if "prefixItems" in node else found
    return [_readable(value) for value in node] if isinstance(node, list) else node
