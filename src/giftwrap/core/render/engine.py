"""Starting the light engine, and saying plainly when this machine cannot."""

from __future__ import annotations

import os
import re
from functools import cache
from pathlib import Path
from typing import Any

from giftwrap.core.errors import RenderError

OLDEST_LLVM = 16
"""Older versions abort the whole process on the kernels used here."""
VARIANT = "llvm_ad_rgb"
NO_LLVM = "/no-usable-llvm"
INSTALL_HINT = "apt-get install libllvm19"

_LIBRARY_DIRECTORIES = ("/usr/lib/x86_64-linux-gnu", "/usr/lib/aarch64-linux-gnu", "/usr/lib", "/usr/lib64")
_LIBRARY_NAME = re.compile(r"libLLVM(?:-(\d+))?\.so(?:\.(\d+))?")


def find_llvm() -> str:
    """Path of the newest usable LLVM library.

    Raises RenderError, with the command that installs one, when there is none.
    """
    chosen = os.environ.get("DRJIT_LIBLLVM_PATH")
    candidates = (
        [Path(chosen)]
        if chosen
        else [path for directory in _LIBRARY_DIRECTORIES for path in Path(directory).glob("libLLVM*.so*")]
    )
    versions = {path: _version(path) for path in candidates if path.exists()}
    usable = {path: version for path, version in versions.items() if version >= OLDEST_LLVM}
    if not usable:
        seen = f" (found only version {max(versions.values())})" if versions else ""
        raise RenderError(
            f"Pictures need LLVM {OLDEST_LLVM} or newer, and this machine has none{seen}. Run: {INSTALL_HINT}"
        )
    return str(max(usable, key=lambda path: usable[path]))


@cache
def choose_llvm() -> RenderError | None:
    """Point the compiler at a usable LLVM; where there is none, at nothing rather than at an old one.

    Returns what is wrong, if anything.
    """
    try:
        os.environ["DRJIT_LIBLLVM_PATH"] = find_llvm()
    except RenderError as error:
        os.environ["DRJIT_LIBLLVM_PATH"] = NO_LLVM
        return error
    return None


@cache
def light_engine() -> Any:
    """The renderer library with its variant chosen; started once a process.

    Raises RenderError when this machine has no usable LLVM.
    """
    if (problem := choose_llvm()) is not None:
        raise problem
    import mitsuba

    mitsuba.set_variant(VARIANT)
    mitsuba.set_log_level(mitsuba.LogLevel.Error)
    return mitsuba


def _version(path: Path) -> int:
    match = _LIBRARY_NAME.search(path.resolve().name) or _LIBRARY_NAME.search(path.name)
    return int(match[1] or match[2] or 0) if match else 0
