"""Every part of a picture kept apart, in one OpenEXR file.

Parts of the file: the picture with its alpha, one for each lamp, the surround, albedo, normal,
depth in mm, shadow, and masks of parts and of materials as Cryptomatte (specification 1.2.0).
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import mmh3
import numpy as np
import OpenImageIO as oiio  # noqa: N813 - the library's own convention

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.formats.pictures import not_written
from giftwrap.core.formats.whole import whole
from giftwrap.core.render.film import Film, Floats

RANKS = 6
"""Masks told apart in one pixel."""


@dataclass(frozen=True)
class Layer:
    """One part of the file. `pixels` is (h, w, channels)."""

    name: str
    channels: tuple[str, ...]
    pixels: Floats
    kind: str = "half"
    metadata: Mapping[str, str] = field(default_factory=dict)


def write_passes(path: Path, film: Film) -> None:
    """Write a film's passes. Raises GiftwrapError when the file cannot be written."""
    layers = passes_of(film)
    specs = [_spec(layer) for layer in layers]
    with whole(path) as partial:
        target = oiio.ImageOutput.create(path.name)
        if target is None or not target.open(str(partial), tuple(specs)):
            raise GiftwrapError(f"{path} cannot be written ({oiio.geterror()}): choose a .exr file.")
        for index, (layer, spec) in enumerate(zip(layers, specs, strict=True)):
            if index and not target.open(str(partial), spec, "AppendSubimage"):
                raise not_written(path, target)
            if not target.write_image(np.ascontiguousarray(layer.pixels, dtype=np.float32)):
                raise not_written(path, target)
        if not target.close():
            raise not_written(path, target)


def passes_of(film: Film) -> list[Layer]:
    """The layers of a film."""
    rgb = ("R", "G", "B")
    picture = np.concatenate([film.mean_light(), film.alpha()[..., None]], axis=2)
    albedo, normal = film.albedo_and_normal()
    return [
        Layer("picture", (*rgb, "A"), picture),
        *(Layer(f"light.{name}", rgb, film.buffer(name)) for name in film.buffers),
        Layer("albedo", rgb, albedo),
        Layer("normal", ("X", "Y", "Z"), normal),
        Layer("depth", ("Z",), film.depth()[..., None], kind="float"),
        Layer("shadow", ("Y",), 1 - film.shade()[..., None]),
        matte("CryptoObject", film.parts, film.part_coverage()),
        matte("CryptoMaterial", *_by_material(film)),
    ]


def matte(name: str, names: Sequence[str], coverage: Floats) -> Layer:
    """Masks as a Cryptomatte layer.

    names : of what the masks are of
    coverage : (names, h, w) share of each pixel
    """
    ranks = min(RANKS, len(names))
    order = np.argsort(-coverage, axis=0, kind="stable")[:ranks]
    shares = np.take_along_axis(coverage, order, axis=0)
    ids = np.array([matte_id(n) for n in names], dtype=np.float32)[order]
    ids = np.where(shares > 0, ids, 0).astype(np.float32)
    pairs = np.stack([ids, shares], axis=1).reshape(2 * ranks, *coverage.shape[1:])
    if len(pairs) % 4:
        pairs = np.concatenate([pairs, np.zeros((2, *coverage.shape[1:]), np.float32)])
    channels = tuple(f"{name}{level:02d}.{c}" for level in range(len(pairs) // 4) for c in "RGBA")
    key = f"cryptomatte/{_hash(name):08x}"[: len("cryptomatte/") + 7]
    manifest = {n: f"{_matte_bits(n):08x}" for n in names}
    metadata = {
        f"{key}/name": name,
        f"{key}/hash": "MurmurHash3_32",
        f"{key}/conversion": "uint32_to_float32",
        f"{key}/manifest": json.dumps(manifest, separators=(",", ":")),
    }
    return Layer(name, channels, np.moveaxis(pairs, 0, 2), kind="float", metadata=metadata)


def matte_id(name: str) -> float:
    """The number that stands for a name in the masks."""
    return float(np.array([_matte_bits(name)], dtype=np.uint32).view(np.float32)[0])


def _hash(name: str) -> int:
    return mmh3.hash(name, 0, signed=False)


def _matte_bits(name: str) -> int:
    """The hash, kept clear of infinities, of what is no number and of denormal numbers."""
    bits = _hash(name)
    exponent = bits >> 23 & 255
    return bits ^ 1 << 23 if exponent in (0, 255) else bits


def _by_material(film: Film) -> tuple[list[str], Floats]:
    names = list(dict.fromkeys(film.materials))
    coverage = film.part_coverage()
    sums = [
        sum(coverage[i] for i, material in enumerate(film.materials) if material == name) for name in names
    ]
    return names, np.array(sums, dtype=np.float32).reshape(-1, film.height, film.width)


def _spec(layer: Layer) -> oiio.ImageSpec:
    height, width, channels = layer.pixels.shape
    spec = oiio.ImageSpec(width, height, channels, layer.kind)
    spec.channelnames = layer.channels
    spec.attribute("oiio:subimagename", layer.name)
    spec.attribute("compression", "zip")
    for name, value in layer.metadata.items():
        spec.attribute(name, value)
    return spec
