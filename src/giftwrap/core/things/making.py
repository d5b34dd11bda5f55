"""From what a pack is formed as to the thing it looks like in space."""

from __future__ import annotations

import threading
from collections.abc import Mapping

from cachetools import LRUCache, cached

from giftwrap.core.model import Carton, Pack, Received
from giftwrap.core.things.carton import CartonPack, shape_carton
from giftwrap.core.things.received import ReceivedPack, shape_received
from giftwrap.core.things.thing import Thing
from giftwrap.core.things.vessel import VesselShape, shape_vessel

KEPT_BYTES = 600_000_000
"""Of things that are kept for the next scene that shows the same packs."""
_lock = threading.Lock()


def _content(pack: Pack, artwork: Mapping[str, bytes], *, coarse: bool = False) -> tuple[str, bool]:
    return pack.model_dump_json(exclude={"form": {"tracing"}}), coarse


def _bytes(thing: Thing) -> int:
    return sum(
        sum(values.nbytes for values in vars(mesh).values() if hasattr(values, "nbytes"))
        for mesh in thing.meshes
    )


@cached(LRUCache(KEPT_BYTES, getsizeof=_bytes), key=_content, lock=_lock)
def thing_of(pack: Pack, artwork: Mapping[str, bytes], *, coarse: bool = False) -> Thing:
    """What a dressed pack looks like, of whichever kind it is; the same thing for the same pack.

    artwork : file contents by SHA-256, for what is embossed
    coarse : with fewer columns

    Raises PackError or ArtworkError, naming the field, when it cannot be built.
    """
    return shape_pack(pack, artwork, coarse=coarse).thing


def shape_pack(
    pack: Pack, artwork: Mapping[str, bytes] | None = None, *, coarse: bool = False
) -> VesselShape | CartonPack | ReceivedPack:
    """Build a dressed pack's parts, of whichever kind it is.

    Raises PackError or ArtworkError, naming the field, when it cannot be built.
    """
    if isinstance(pack.form, Carton):
        return shape_carton(pack, artwork, coarse=coarse)
    if isinstance(pack.form, Received):
        return shape_received(pack, artwork or {}, coarse=coarse)
    return shape_vessel(pack, artwork, coarse=coarse)
