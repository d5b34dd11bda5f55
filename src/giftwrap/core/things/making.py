"""From packs and props to the things they look like in space."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping

from cachetools import LRUCache, cached

from giftwrap.core.errors import within
from giftwrap.core.model import Carton, Frame, MadeProp, Pack, Received
from giftwrap.core.model.frame import PROP
from giftwrap.core.things.carton import CartonPack, shape_carton
from giftwrap.core.things.props import shape_prop
from giftwrap.core.things.received import ReceivedPack, shape_received
from giftwrap.core.things.thing import Thing
from giftwrap.core.things.vessel import VesselShape, shape_vessel

KEPT_BYTES = 600_000_000
"""Of things that are kept for the next scene that shows the same packs."""
_lock = threading.Lock()


def _content(pack: Pack, artwork: Mapping[str, bytes], *, coarse: bool = False) -> tuple[str, bool]:
    return pack.model_dump_json(exclude={"form": {"tracing"}}), coarse


KEPT_PROPS_BYTES = 200_000_000


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


def things_in(frame: Frame, shaped: Callable[[Pack], Thing]) -> dict[str, Thing]:
    """What stands in a frame looks like, each thing once, by its key (`Frame.key_of`).

    shaped : how a dressed pack is shaped; a received model that is a prop is shaped as one

    Raises PackError or ArtworkError, with the place in the frame, when something cannot be built.
    """
    things = {}
    for key, pack in frame.shown_packs().items():
        with within(place_of(key)):
            things[key] = shaped(pack)
    for key, prop in frame.shown_props().items():
        with within(place_of(key)):
            things[key] = (
                thing_of_prop(prop) if isinstance(prop, MadeProp) else shaped(Pack(form=prop.received))
            )
    return things


def place_of(key: str) -> str:
    """Where in a frame the document of a thing is."""
    return f"photo_set.props.{key.removeprefix(PROP)}" if key.startswith(PROP) else f"packs.{key}"


@cached(
    LRUCache(KEPT_PROPS_BYTES, getsizeof=_bytes),
    key=lambda prop, coarse=False: (prop.model_dump_json(), coarse),
    lock=threading.Lock(),
)
def thing_of_prop(prop: MadeProp, *, coarse: bool = False) -> Thing:
    """What a prop that is made to measure looks like; the same thing for the same prop."""
    return shape_prop(prop, coarse=coarse)


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
