"""What glTF materials are here: metals, clear things and everything else, and the pictures on them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from giftwrap.core.materials.others import SEEN_THROUGH, frost_of, hex_of, look_of
from giftwrap.core.model.material import Clear, Material
from giftwrap.core.received.found import FoundMaterial
from giftwrap.core.received.looks import usable_picture

MM_PER_METRE = 1000.0
THICK = 10.0
"""Mm of a clear thing that its colour is said for where the file does not."""


def materials_of(
    tree: dict[str, Any], image: Callable[[Any], bytes | None]
) -> tuple[tuple[FoundMaterial, ...], list[str]]:
    """Every material of a glTF file in its order, and what is to be said about them.

    image : a picture's bytes by its number
    """
    found, notes = [], []
    textures = tree.get("textures", [])
    for index, material in enumerate(tree.get("materials", [])):
        name = str(material.get("name") or f"material {index + 1}")[:120]
        plain = material.get("pbrMetallicRoughness", {})
        older = material.get("extensions", {}).get("KHR_materials_pbrSpecularGlossiness", {})

        def taken(information: Any, what: str, name: str = name) -> bytes | None:
            source = _picture_of(information, textures)
            if source is None:
                return None
            picture, problem = usable_picture(image(source), f"the {what} “{name}”")
            notes.extend([problem] if problem else [])
            return picture

        picture = taken(plain.get("baseColorTexture") or older.get("diffuseTexture"), "picture on")
        rough = taken(plain.get("metallicRoughnessTexture"), "picture of gloss on")
        relief = material.get("normalTexture")
        facing = taken(relief, "picture of relief on")
        steep = _number(relief.get("scale"), 1.0) if isinstance(relief, dict) else 1.0
        look = _look(material, white=picture is not None)
        found.append(FoundMaterial(name, look, picture, rough, facing, steep))
    return tuple(found), notes


def _picture_of(information: Any, textures: Sequence[dict[str, Any]]) -> int | None:
    """The number of the picture that a texture shows."""
    index = information.get("index") if isinstance(information, dict) else None
    if type(index) is not int or not 0 <= index < len(textures):
        return None
    texture = textures[index]
    webp = texture.get("extensions", {}).get("EXT_texture_webp", {}).get("source")
    source = texture.get("source", webp)
    return source if type(source) is int else None


def _look(material: dict[str, Any], *, white: bool) -> Material:
    plain = material.get("pbrMetallicRoughness", {})
    extensions = material.get("extensions", {})
    older = extensions.get("KHR_materials_pbrSpecularGlossiness", {})
    *colour, opacity = _numbers(
        plain.get("baseColorFactor", older.get("diffuseFactor")), (1.0, 1.0, 1.0, 1.0)
    )
    metal = _number(plain.get("metallicFactor"), 0.0 if older else 1.0)
    rough = _number(
        plain.get("roughnessFactor"), 1.0 - _number(older.get("glossinessFactor"), 1.0) if older else 1.0
    )
    if plain.get("metallicRoughnessTexture") and "metallicFactor" not in plain:
        metal = 0.0  # a map says where; most of what is sent here is no metal
    passes = _number(extensions.get("KHR_materials_transmission", {}).get("transmissionFactor"), 0.0)
    if passes > 0.5 or (material.get("alphaMode") == "BLEND" and opacity < SEEN_THROUGH):
        return _clear(colour, rough, extensions)
    return look_of((1.0, 1.0, 1.0) if white else colour, metal, rough)


def _clear(colour: Sequence[float], rough: float, extensions: dict[str, Any]) -> Clear:
    volume = extensions.get("KHR_materials_volume", {})
    depth = _number(volume.get("attenuationDistance"), 0.0) * MM_PER_METRE
    if 0 < depth < 5000:
        colour = _numbers(volume.get("attenuationColor"), (1.0, 1.0, 1.0))
    index = _number(extensions.get("KHR_materials_ior", {}).get("ior"), 1.5)
    return Clear(
        refractive_index=min(max(index, 1.0), 2.6),
        colour=hex_of(colour),
        depth=depth if 0 < depth < 5000 else THICK,
        frost=frost_of(rough),
    )


def _number(value: Any, usual: float) -> float:
    return float(value) if isinstance(value, int | float) and abs(value) < 1e6 else usual


def _numbers(value: Any, usual: tuple[float, ...]) -> tuple[float, ...]:
    if isinstance(value, list) and len(value) == len(usual):
        return tuple(_number(v, u) for v, u in zip(value, usual, strict=True))
    return usual
