"""The kinds of props that are made: what each is called, its usual size, what of, and its shape."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from giftwrap.core.materials.library import library
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.prop import MadeProp, PropName
from giftwrap.core.model.worked import Fade, Grain
from giftwrap.core.props import built, grown, stones
from giftwrap.core.props.shaped import exactly

Category = Literal[
    "Built", "Stone", "Wood", "Leaves and flowers", "Fruit and spice", "Cloth", "Water and ice"
]
Shape = Callable[[MadeProp], Mesh | list[Mesh]]

ICE = Clear(refractive_index=1.31, colour="#f4fafc", depth=60, density=0.917)
"""Index and density of ice at 0 °C: a handbook of chemistry and physics, from memory."""
BARK = Opaque(
    colour="#6b5442", gloss=0.08, grain=Grain(pattern="cork", scale=9, colour="#3d2d22", share=0.7, depth=0.6)
)


def _leaf(colour: str, gloss: float = 0.35) -> Opaque:
    return Opaque(
        colour=colour,
        gloss=gloss,
        grain=Grain(pattern="fibres", scale=6, lies="over", colour="#9fb36b", share=0.18),
    )


def _skin(colour: str, blush: str, cover: float, gloss: float, dots: float = 0.15) -> Opaque:
    return Opaque(
        colour=colour,
        gloss=gloss,
        grain=Grain(pattern="flecks", scale=2.2, lies="over", colour="#f3e7b0", share=dots),
        fade=Fade(begins=8, whole=60, colour=blush, cover=cover, gloss=gloss),
    )


PLASTER = Opaque(colour="#dfd9cf", gloss=0.04)
SAND = Opaque(
    colour="#d3bd97",
    gloss=0.05,
    grain=Grain(pattern="flecks", scale=0.7, lies="over", colour="#8a7350", share=0.5),
)
PEEL = Grain(pattern="orange peel", scale=1.6, lies="over", depth=0.12)


_PICTURES = Path(__file__).with_name("pictures")


@dataclass(frozen=True)
class Kind:
    """A kind of prop.

    size : mm across, deep and high that one usually has
    made_of, second : materials, or names of the library's
    edge : radius of its edges in mm; None for what has none to be chosen
    varies : no two are alike
    """

    title: str
    category: Category
    size: tuple[float, float, float]
    shape: Shape
    made_of: Material | str
    second: Material | str | None = None
    edge: float | None = None
    varies: bool = False


def _built(
    title: str,
    size: tuple[float, float, float],
    shape: Shape,
    made_of: Material | str,
    edge: float | None = 1.0,
) -> Kind:
    return Kind(title, "Built", size, shape, made_of, edge=edge)


def _found(
    category: Category, title: str, size: tuple[float, float, float], shape: Shape, *made_of: Material | str
) -> Kind:
    second = made_of[1] if len(made_of) > 1 else None
    return Kind(title, category, size, shape, made_of[0], second, varies=True)


def _said(material: Material | str) -> Material:
    if not isinstance(material, str):
        return material
    return next(one.material for one in library() if one.name == material)


def _coarser(name: str, scale: float) -> Material:
    """A material of the library, its grain of so many mm."""
    material = _said(name)
    assert material.grain is not None
    return material.model_copy(update={"grain": material.grain.model_copy(update={"scale": scale})})


KINDS: dict[PropName, Kind] = {
    "block": _built("Block", (160, 120, 60), built.block, PLASTER),
    "slab": _built("Slab", (260, 180, 18), built.block, _coarser("White marble", 70)),
    "cylinder": _built("Round plinth", (150, 150, 40), built.cylinder, PLASTER),
    "half-cylinder": _built("Half cylinder", (140, 70, 70), built.half_cylinder, PLASTER),
    "steps": _built("Steps", (200, 180, 90), built.steps, PLASTER),
    "arch": _built("Arch", (180, 50, 240), built.arch, PLASTER),
    "frame": _built("Frame", (260, 20, 320), built.frame, "Oak"),
    "ring": _built("Hoop", (220, 26, 220), built.ring, "Brushed brass"),
    "wedge": _built("Ramp", (160, 140, 60), built.wedge, PLASTER),
    "sphere": _built("Ball", (70, 70, 70), built.sphere, PLASTER, None),
    "dome": _built("Half ball", (110, 110, 55), built.dome, PLASTER, None),
    "cone": _built("Cone", (80, 80, 110), built.cone, PLASTER),
    "bowl": _built("Bowl", (140, 140, 62), built.bowl, "Speckled stoneware", None),
    "dish": _built("Dish", (180, 180, 22), built.bowl, "Glazed white porcelain", None),
    "board": _built("Round board", (220, 220, 16), built.cylinder, "Walnut", 2.0),
    "pebble": _found("Stone", "Pebble", (42, 32, 20), stones.pebble, "Slate"),
    "stone": _found("Stone", "Field stone", (110, 84, 62), stones.stone, "Sandstone"),
    "rock": _found("Stone", "Rock", (150, 120, 100), stones.rock, "Granite"),
    "slate": _found("Stone", "Slate slab", (220, 160, 14), stones.slate, "Slate"),
    "crystal": _found("Stone", "Crystal", (26, 26, 64), stones.crystal, "Lead crystal"),
    "sand": _found("Stone", "Heap of sand", (220, 150, 18), stones.sand, SAND),
    "log": _found("Wood", "Log", (110, 110, 90), grown.log, "Oak", BARK),
    "log-slice": _found("Wood", "Slice of a log", (190, 176, 22), grown.log, "Oak", BARK),
    "twig": _found("Wood", "Twig", (200, 80, 26), grown.twig, Opaque(colour="#5a4030", gloss=0.15)),
    "leafy-twig": _found(
        *("Leaves and flowers", "Leafy twig", (220, 130, 34), grown.leafy_twig),
        *(_leaf("#4f6b34"), Opaque(colour="#5a4030", gloss=0.15)),
    ),
    "laurel-leaf": _found(
        "Leaves and flowers", "Laurel leaf", (84, 32, 9), grown.leaf, _leaf("#3f5e2c", 0.5)
    ),
    "willow-leaf": _found("Leaves and flowers", "Willow leaf", (90, 15, 7), grown.leaf, _leaf("#7b9460")),
    "round-leaf": _found("Leaves and flowers", "Round leaf", (46, 40, 7), grown.leaf, _leaf("#8aa596", 0.2)),
    "oak-leaf": _found("Leaves and flowers", "Oak leaf", (96, 52, 12), grown.leaf, _leaf("#a2672c", 0.2)),
    "petal": _found(
        "Leaves and flowers",
        "Petal",
        (34, 30, 10),
        grown.leaf,
        Opaque(colour="#e7a9ae", gloss=0.15, sheen=0.3),
    ),
    "blossom": _found(
        *("Leaves and flowers", "Apple blossom", (46, 46, 16), grown.blossom),
        *(Opaque(colour="#f6e4e2", gloss=0.12, sheen=0.3), Opaque(colour="#d8b13c", gloss=0.1)),
    ),
    "apple": _found(
        "Fruit and spice", "Apple", (76, 76, 84), grown.fruit, _skin("#b8a83a", "#a3211f", 0.88, 0.55), BARK
    ),
    "pear": _found(
        "Fruit and spice", "Pear", (68, 68, 118), grown.fruit, _skin("#b3a949", "#a9783c", 0.45, 0.35), BARK
    ),
    "plum": _found(
        "Fruit and spice",
        "Plum",
        (40, 40, 50),
        grown.fruit,
        Opaque(colour="#3a2342", gloss=0.35, sheen=0.5),
        BARK,
    ),
    "quince": _found(
        "Fruit and spice",
        "Quince",
        (78, 78, 92),
        grown.fruit,
        Opaque(colour="#d3ab33", gloss=0.25, sheen=0.25),
        BARK,
    ),
    "orange": _found(
        "Fruit and spice",
        "Orange",
        (74, 74, 71),
        grown.fruit,
        Opaque(colour="#d46c1a", gloss=0.4, grain=PEEL),
    ),
    "lemon": _found(
        "Fruit and spice", "Lemon", (78, 56, 55), grown.fruit, Opaque(colour="#ecc92f", gloss=0.4, grain=PEEL)
    ),
    "berry": _found(
        "Fruit and spice",
        "Blueberry",
        (14, 14, 12),
        grown.fruit,
        Opaque(colour="#39415f", gloss=0.2, sheen=0.6),
    ),
    "hazelnut": _found(
        *("Fruit and spice", "Hazelnut", (17, 17, 20), grown.fruit),
        Opaque(
            colour="#9a5f2d",
            gloss=0.4,
            grain=Grain(pattern="brushed", scale=3, turn=90, colour="#c08d55", share=0.5),
        ),
    ),
    "cinnamon": _found(
        *("Fruit and spice", "Cinnamon stick", (96, 17, 10), grown.cinnamon),
        Opaque(
            colour="#8a4f27",
            gloss=0.12,
            grain=Grain(pattern="fibres", scale=10, colour="#5e3317", share=0.5, depth=0.1),
        ),
    ),
    "cloth": _found("Cloth", "Cloth in folds", (360, 260, 42), grown.cloth, "Linen"),
    "drop": _found("Water and ice", "Water drop", (9, 8, 2.6), stones.drop, "Water"),
    "bead": Kind("Glass ball", "Water and ice", (24, 24, 24), built.sphere, "Extra white glass"),
    "ice-cube": _found("Water and ice", "Ice cube", (30, 30, 28), stones.ice_cube, ICE),
    "crushed-ice": _found("Water and ice", "Splinter of ice", (22, 16, 13), stones.crushed_ice, ICE),
}
"""All of them, category by category."""


def usual(what: PropName, seed: int = 0) -> MadeProp:
    """One as it usually is."""
    kind = KINDS[what]
    width, depth, height = kind.size
    return MadeProp(
        what=what,
        width=width,
        depth=depth,
        height=height,
        seed=seed,
        edge=kind.edge or 0.0,
        made_of=_said(kind.made_of),
        second=None if kind.second is None else _said(kind.second),
    )


def picture_of(what: PropName) -> Path:
    """Where the picture of a kind is kept."""
    return _PICTURES / f"{what}.webp"


def meshes_of(prop: MadeProp) -> list[Mesh]:
    """Its meshes in the middle of the floor, mm: what `made_of` is of, then what `second` is of."""
    made = KINDS[prop.what].shape(prop)
    meshes = made if isinstance(made, list) else [made]
    return exactly(meshes, (prop.width, prop.depth, prop.height))
