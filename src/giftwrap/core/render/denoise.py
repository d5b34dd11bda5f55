"""Taking the grain out, guided by what is printed where. Only this module knows the library."""

from __future__ import annotations

import logging
import threading
from functools import cache
from typing import Any

import numpy as np

from giftwrap.core.errors import RenderError
from giftwrap.core.render.film import Floats

log = logging.getLogger(__name__)

SCRATCH_MB = 800
"""Memory for the library to work in: larger pictures are denoised in tiles, to the same picture."""

_lock = threading.Lock()


class _Denoiser:
    """The library's filter for light, kept from one picture to the next."""

    def __init__(self, library: Any, scratch_mb: int = SCRATCH_MB) -> None:
        self._library = library
        self._device = library.Device()
        self._device.commit()
        self._filter = library.Filter(self._device, library.OIDN_FILTER_TYPE_RT)
        self._filter.set_bool("hdr", True)
        self._filter.set_int("maxMemoryMB", scratch_mb)

    def run(self, images: dict[str, Floats], *, fast: bool) -> None:
        """Denoise what is named "color" into what is named "output", all (h, w, 3) and contiguous.

        Raises RenderError, with the library's words, when that fails.
        """
        for name, image in images.items():
            self._filter.set_image(name, image, self._library.OIDN_FORMAT_FLOAT3)
        quality = self._library.OIDN_QUALITY_FAST if fast else self._library.OIDN_QUALITY_BALANCED
        self._filter.set_quality(quality)
        self._filter.commit()
        self._filter.execute()
        if error := self._device.get_error():
            raise RenderError(f"The picture could not be denoised: {error}")


@cache
def _denoiser() -> _Denoiser | None:
    try:
        import pyoidn

        return _Denoiser(pyoidn)
    except (ImportError, OSError, RuntimeError) as error:
        log.warning("Pictures are not denoised: the denoising library does not load (%s).", error)
        return None


def can_denoise() -> bool:
    """Whether this machine has the denoising library."""
    return _denoiser() is not None


def denoise(light: Floats, albedo: Floats, normal: Floats, *, fast: bool = False) -> Floats:
    """Denoise linear light, all (h, w, 3). Without the library the light comes back as it was.

    fast : for proofs, by the library's quickest model

    Raises RenderError when the library fails.
    """
    with _lock:
        denoiser = _denoiser()
        if denoiser is None:
            return light
        clean = np.empty(light.shape, np.float32)
        given = {"color": light, "albedo": np.clip(albedo, 0, 1), "normal": normal}
        images = {name: np.ascontiguousarray(image, np.float32) for name, image in given.items()}
        denoiser.run({**images, "output": clean}, fast=fast)
        return clean
