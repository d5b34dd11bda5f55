"""A shaped pack as a page draws it."""

import base64
import threading
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
from cachetools import LRUCache, cached

from giftwrap.core import model as core
from giftwrap.core.carton.allowances import ALLOWANCES
from giftwrap.core.carton.dimensions import Dimension, dimensions_of
from giftwrap.core.carton.shape import FoldedComponent
from giftwrap.core.formats.blank_lines import lines_of
from giftwrap.core.materials.optics import deepest_colour
from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.things.carton import CartonPack, carton_facts
from giftwrap.core.things.drawing import draw
from giftwrap.core.things.facts import PackFacts, pack_facts
from giftwrap.core.things.making import shape_pack, things_in
from giftwrap.core.things.outlines import outlines_of
from giftwrap.core.things.received import ReceivedPack, received_facts
from giftwrap.core.things.thing import Piece, Thing
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.laid import Laid
from giftwrap.core.wrap.sleeve import SleeveSheet
from giftwrap.core.wrap.wrapped import WrappedSheet
from giftwrap.studio.files import artwork_of
from giftwrap.studio.jobs.told import CartonOut, Outline, ReceivedOut, VesselOut

KEPT = 48
_lock = threading.Lock()


@cached(LRUCache(KEPT), key=lambda pack: pack.model_dump_json(), lock=_lock)
def shape_for_page(pack: core.Pack) -> VesselShape | CartonPack | ReceivedPack:
    """A dressed pack as pages draw it, with fewer columns. Those that were shaped last are kept: what is
    shown first is saved next.

    Raises GiftwrapError when it cannot be built.
    """
    return shape_pack(pack, artwork_of(pack.artwork_uses()), coarse=True)


def things_of(frame: core.Frame) -> dict[str, Thing]:
    """What stands in a frame looks like, by its keys. Raises GiftwrapError."""
    return things_in(frame, lambda pack: shape_for_page(pack).thing)


def shape_answer(pack: core.Pack) -> bytes:
    """What a page draws as JSON, by the kind of form. Raises GiftwrapError when it cannot be built."""
    shaped = shape_for_page(pack)
    if isinstance(shaped, ReceivedPack):
        return ReceivedOut.model_validate(_received_fields(shaped)).model_dump_json().encode()
    if isinstance(shaped, CartonPack):
        return CartonOut.model_validate(_carton_fields(shaped)).model_dump_json().encode()
    return VesselOut.model_validate(_vessel_fields(shaped)).model_dump_json().encode()


def _received_fields(shaped: ReceivedPack) -> dict[str, Any]:
    front, side = outlines_of(shaped.pieces, 0.0, 90.0)
    return {
        "facts": asdict(received_facts(shaped)),
        "sheets": [_sheet_fields(sheet) for sheet in shaped.sheets],
        "panels": _printed(shaped.panels),
        "surfaces": surfaces_for_page(shaped.pieces),
        "parts": shaped.parts,
        "front": [{"part": part, "points": _outline(ring)} for part, rings in front for ring in rings],
        "side": [{"part": part, "points": _outline(ring)} for part, rings in side for ring in rings],
    }


def _carton_fields(shaped: CartonPack) -> dict[str, Any]:
    carton = shaped.pack.carton
    return {
        "facts": asdict(carton_facts(shaped)),
        "blanks": [
            _blank_fields(one, [] if number else dimensions_of(carton, [one.component]))
            for number, one in enumerate(shaped.shape.components)
        ],
        "sheets": [_sheet_fields(sheet) for sheet in shaped.sheets],
        "panels": _printed(shaped.panels),
        "lies_on": list(shaped.surfaces),
        "allowances": [
            {
                "name": name,
                "words": ALLOWANCES[name].words,
                "value": value,
                "usual": ALLOWANCES[name].usual(carton),
                "by_hand": name in carton.allowances,
            }
            for name, value in shaped.shape.allowances.items()
        ],
        "surfaces": surfaces_for_page(shaped.pieces),
        "parts": shaped.parts,
    }


def _blank_fields(one: FoldedComponent, dimensions: Sequence[Dimension]) -> dict[str, Any]:
    blank, paper = one.component.blank, one.component.paper
    left_foot = blank.way_to(0.0, 0.0)
    lines = [(kind, _outline(np.array(line.coords) + left_foot)) for kind, line in lines_of(blank)]
    covering = [] if paper is None else [line for kind, line in lines_of(paper) if kind == "cut"]
    return {
        "name": one.component.name,
        "size": blank.size,
        "grain": blank.grain,
        "cuts": [line for kind, line in lines if kind == "cut"],
        "glue": [line for kind, line in lines if kind == "glue"],
        "perforations": [line for kind, line in lines if kind == "perforation"],
        "embossed": [line for kind, line in lines if kind == "emboss"],
        "paper": [_outline(np.array(line.coords) + left_foot) for line in covering],
        "creases": [
            {
                "name": crease.name,
                "line": _outline(np.array(crease.line.coords) + left_foot),
                "now": round(one.folded.angles[crease.name], 2),
                "step": crease.step,
                "springs": crease.springs,
                "follows": crease.follows and crease.follows.creases[0],
            }
            for crease in blank.creases
        ],
        "panels": [
            {
                "name": panel.name,
                "outline": _outline(np.array(panel.outline.exterior.coords) + left_foot),
                "at": np.round(np.add(panel.outline.representative_point().coords[0], left_foot), 2).tolist(),
            }
            for panel in blank.panels
        ],
        "dimensions": [
            {
                "field": one.field,
                "start": np.round(np.add(one.start, left_foot), 3).tolist(),
                "end": np.round(np.add(one.end, left_foot), 3).tolist(),
            }
            for one in dimensions
        ],
    }


def _vessel_fields(shaped: VesselShape) -> dict[str, Any]:
    body = shaped.pack.vessel.body
    zones = shaped.formed.profile.zones
    walls = {zone.name: body.zone_walls.get(zone.name, body.wall_thickness) for zone in zones}
    drawing = draw(shaped)
    return {
        "facts": _facts(pack_facts(shaped)),
        "drawing": {
            "outer": _outline(drawing.outer),
            "inner": _outline(drawing.inner),
            "contents": None if drawing.contents is None else _outline(drawing.contents),
            "closure": [{"part": o.part, "points": _outline(o.points)} for o in drawing.closure],
            "sections": [
                {
                    "height": section.height,
                    "outer": _outline(section.outer),
                    "inner": None if section.inner is None else _outline(section.inner),
                }
                for section in drawing.sections
            ],
            "limits": drawing.limits,
        },
        "zones": [{**asdict(zone), "wall": walls[zone.name]} for zone in zones],
        "sheets": [_sheet_fields(sheet) for sheet in shaped.sheets],
        "panels": _printed(shaped.panels),
        "surfaces": surfaces_for_page(shaped.pieces),
        "parts": shaped.parts,
    }


def _sheet_fields(sheet: Laid) -> dict[str, Any]:
    wrapped = sheet if isinstance(sheet, WrappedSheet) else None
    sleeve = sheet if isinstance(sheet, SleeveSheet) else None
    path = wrapped.path if wrapped and wrapped.part == core.BODY else sleeve and sleeve.path
    cut = sheet.cut
    return {
        "name": sheet.panel.name,
        "wall": _outline(path.points) if path else [],
        "around": sheet.around,
        "deepest": deepest_colour(sheet.panel.made_of),
        "tapers": wrapped is not None and wrapped.tapers,
        "outline": wrapped and wrapped.development and _outline(wrapped.development.outline),
        "cut": cut and _outline(np.array(cut.exterior.coords)),
        "mean": sheet.stretch.mean,
        "worst": sheet.stretch.worst,
        "pulled": sheet.factors is not None,
        "shrink": sleeve and _outline(np.stack([sleeve.path.lengths(), sleeve.shrink], axis=1)),
    }


def _printed(panels: Sequence[core.Printed]) -> list[dict[str, Any]]:
    """What is printed, without where it lies."""
    return [panel.model_dump(include=set(core.Printed.model_fields)) for panel in panels]


def _facts(facts: PackFacts) -> dict[str, Any]:
    return {**asdict(facts), "empty_g": facts.empty_g, "filled_g": facts.filled_g}


def _outline(points: Array) -> Outline:
    rounded: Outline = np.round(points, 3).tolist()
    return rounded


def surfaces_for_page(pieces: Sequence[Piece]) -> list[dict[str, Any]]:
    """The surfaces of a thing as `told.SurfaceOut` has them."""
    return [
        {
            "name": piece.name,
            "part": piece.part,
            "group": piece.group,
            "panel": piece.panel,
            "material": piece.material,
            "before": piece.before,
            "colour": drawn_colour(piece.material),
            "mesh": _mesh(piece.mesh, with_uvs=piece.panel is not None),
        }
        for piece in pieces
    ]


def _mesh(mesh: Mesh, *, with_uvs: bool) -> dict[str, Any]:
    wide = len(mesh.positions) > 65_535
    return {
        "positions": _text(mesh.positions.astype("<f4")),
        "normals": _text(np.round(mesh.normals * 127).astype(np.int8)),
        "uvs": _text(mesh.uvs.astype("<f4")) if with_uvs else None,
        "faces": _text(mesh.faces.astype("<u4" if wide else "<u2")),
        "wide": wide,
    }


def _text(values: Any) -> str:
    return base64.b64encode(np.ascontiguousarray(values).tobytes()).decode("ascii")
