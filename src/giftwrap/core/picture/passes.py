"""Every part of a picture kept apart, in one OpenEXR file.

Parts of the file: the picture with its alpha, one for each lamp, the surround, albedo, normal,
depth in mm, shadow, and masks as Cryptomatte (specification 1.2.0): of every part of every thing, of
things, and of materials.
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
from giftwrap.core.render.coverage import Entries, summed
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
    picture = np.concatenate([film.mean_light(None), film.alpha()[..., None]], axis=2)
    albedo, normal = film.albedo_and_normal()
    return [
        Layer("picture", (*rgb, "A"), picture),
        *(Layer(f"light.{name}", rgb, film.buffer(name)) for name in film.buffers),
        Layer("albedo", rgb, albedo),
        Layer("normal", ("X", "Y", "Z"), normal),
        Layer("depth", ("Z",), film.depth()[..., None], kind="float"),
        Layer("shadow", ("Y",), 1 - film.shade()[..., None]),
        *_mattes(film),
    ]


def _mattes(film: Film) -> list[Layer]:
    """What fills each pixel: told apart by part, by thing and by material."""
    size = (film.height, film.width)
    entries = film.coverage.entries()
    shares = (entries.weights / np.maximum(film.samples[entries.pixels], 1)).astype(np.float32)
    return [
        matte(layer, names, Entries(entries.pixels, entries.ids, shares), size)
        for layer, names in (
            ("CryptoObject", [f"{o.instance}/{o.part}" for o in film.objects]),
            ("CryptoAsset", [o.instance for o in film.objects]),
            ("CryptoMaterial", [o.material for o in film.objects]),
        )
    ]


def matte(name: str, names: Sequence[str], entries: Entries, size: tuple[int, int]) -> Layer:
    """Masks as a Cryptomatte layer.

    names : of each object; objects of one name are one mask
    entries : which objects fill which share of each pixel
    size : height and width in px
    """
    told = {n: number for number, n in enumerate(dict.fromkeys(names))}
    numbers = np.array([told[n] for n in names], dtype=np.uint32)
    merged = summed([Entries(entries.pixels, numbers[entries.ids], entries.weights)])
    ranks = min(RANKS, len(told))
    order = np.lexsort((-merged.weights, merged.pixels))
    pixels = merged.pixels[order]
    starts = np.flatnonzero(np.diff(pixels, prepend=pixels[:1] + np.uint32(1)))
    rank = np.arange(len(pixels)) - np.repeat(starts, np.diff(starts, append=len(pixels)))
    kept = rank < ranks
    ids = np.array([matte_id(n) for n in told], dtype=np.float32)
    pairs = np.zeros((2 * ranks + 2 * (ranks % 2), size[0] * size[1]), np.float32)
    pairs[2 * rank[kept], pixels[kept]] = ids[merged.ids[order][kept]]
    pairs[2 * rank[kept] + 1, pixels[kept]] = merged.weights[order][kept]
    channels = tuple(f"{name}{level:02d}.{c}" for level in range(len(pairs) // 4) for c in "RGBA")
    key = f"cryptomatte/{_hash(name):08x}"[: len("cryptomatte/") + 7]
    manifest = {n: f"{_matte_bits(n):08x}" for n in told}
    metadata = {
        f"{key}/name": name,
        f"{key}/hash": "MurmurHash3_32",
        f"{key}/conversion": "uint32_to_float32",
        f"{key}/manifest": json.dumps(manifest, separators=(",", ":")),
    }
    return Layer(name, channels, np.moveaxis(pairs.reshape(-1, *size), 0, 2), kind="float", metadata=metadata)


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


def _spec(layer: Layer) -> oiio.ImageSpec:
    height, width, channels = layer.pixels.shape
    spec = oiio.ImageSpec(width, height, channels, layer.kind)
    spec.channelnames = layer.channels
    spec.attribute("oiio:subimagename", layer.name)
    spec.attribute("compression", "zip")
    for name, value in layer.metadata.items():
        spec.attribute(name, value)
    return spec
