"""Taking the grain out, guided by what is printed where. Only this module knows the library."""

from __future__ import annotations

import logging
from functools import cache
from types import ModuleType

import numpy as np

from giftwrap.core.render.film import Floats

log = logging.getLogger(__name__)


@cache
def _library() -> ModuleType | None:
    try:
        import pyoidn
    except (ImportError, OSError, RuntimeError) as error:
        log.warning("Pictures are not denoised: the denoising library does not load (%s).", error)
        return None
    library: ModuleType = pyoidn
    return library


def can_denoise() -> bool:
    """Whether this machine has the denoising library."""
    return _library() is not None


def denoise(light: Floats, albedo: Floats, normal: Floats, *, fast: bool = False) -> Floats:
    """Denoise linear light, all (h, w, 3). Without the library the light comes back as it was."""
    library = _library()
    if library is None:
        return light
    clean: Floats = library.denoise(
        np.ascontiguousarray(light),
        albedo=np.ascontiguousarray(np.clip(albedo, 0, 1)),
        normal=np.ascontiguousarray(normal),
        hdr=True,
        quality="fast" if fast else "balanced",
    )
    return clean
