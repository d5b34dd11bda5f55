"""A prop that is made to measure as a thing to be placed."""

from __future__ import annotations

from giftwrap.core.mesh.solids import kernel_solid, smoothed
from giftwrap.core.model import MadeProp
from giftwrap.core.props.kinds import meshes_of
from giftwrap.core.things.thing import Extent, Piece, Thing

FINE_FOR_PAGES = 400
"""A page shows a prop to this share of its size."""
PROPS = "props"
"""The group that props are lit as."""


def shape_prop(prop: MadeProp, *, coarse: bool = False) -> Thing:
    """What a prop looks like: what it is made of, then its stalk, its middle or its bark.

    coarse : with as few triangles as a page needs
    """
    half, deep = prop.width / 2, prop.depth / 2
    meshes = meshes_of(prop)
    if coarse:
        off = max(prop.width, prop.depth, prop.height) / FINE_FOR_PAGES
        meshes = [smoothed(kernel_solid(mesh).simplify(off)) for mesh in meshes]
    pieces = [
        Piece(name, prop.what, PROPS, mesh, material or prop.made_of)
        for name, mesh, material in zip(
            (prop.what, f"{prop.what} 2"), meshes, (prop.made_of, prop.second), strict=False
        )
    ]
    return Thing(tuple(pieces), Extent((-half, -deep, 0.0), (half, deep, prop.height)))
