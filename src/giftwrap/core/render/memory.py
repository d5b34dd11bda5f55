"""Numbers in memory as kernels read them."""

from __future__ import annotations

from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, DTypeLike

ALIGNMENT = 64
"""Bytes: the widest registers that kernels are compiled for."""


Kind = TypeVar("Kind")


def aligned(kind: type[Kind], values: ArrayLike) -> Kind:
    """An array of the light engine with flat values, at an address its widest reads can start from.

    The engine reads NumPy's memory where it lies, and compiles another kernel for every way an
    array can lie.
    """
    dtype: DTypeLike = np.uint32 if kind.__name__.startswith("UInt") else np.float32
    flat = np.asarray(values, dtype=dtype).ravel()
    room = np.empty(flat.nbytes + ALIGNMENT, np.uint8)
    start = -room.ctypes.data % ALIGNMENT
    held = room[start : start + flat.nbytes].view(dtype)
    held[:] = flat
    make: Any = kind
    array: Kind = make(held)
    return array
