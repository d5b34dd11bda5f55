"""MaterialX: surfaces, units, pictures; what is computed, and what is no MaterialX at all."""

from __future__ import annotations

import io
from typing import Any
from unittest import TestCase

import MaterialX as mx  # noqa: N813 - the library's own convention
import numpy as np
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.formats.archives import pack_files
from giftwrap.core.materials.exchange import NamedMaterial, read_materials
from giftwrap.core.materials.materialx import SHADERS, materialx_surfaces
from giftwrap.core.materials.optics import gloss_width
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.reading.reader import EVERYTHING, start_reading


def setUpModule() -> None:
    """What reads them is loaded once, as it is in the web process."""
    start_reading(EVERYTHING)


def document(inputs: str, *, kind: str = "standard_surface", graph: str = "", head: str = "") -> bytes:
    return (
        f'<?xml version="1.0"?><materialx version="1.38" {head}>{graph}'
        f'<{kind} name="S" type="surfaceshader">{inputs}</{kind}>'
        '<surfacematerial name="Old_oak" type="material">'
        '<input name="surfaceshader" type="surfaceshader" nodename="S"/></surfacematerial></materialx>'
    ).encode()


def said(**values: object) -> str:
    """Inputs of a surface: numbers and colours."""
    found = ""
    for name, value in values.items():
        kind, text = ("float", f"{value}") if isinstance(value, float) else ("color3", f"{value}"[1:-1])
        found += f'<input name="{name}" type="{kind}" value="{text}"/>'
    return found


def one(data: bytes) -> Any:
    (found,), pictures = read_materials(data, "oak.mtlx")
    assert isinstance(found, NamedMaterial)
    assert not pictures
    return found.material


OAK = """
<nodegraph name="G">
  <tiledimage name="c" type="color3">
    <input name="file" type="filename" value="maps/oak.png" colorspace="srgb_texture"/>
    <input name="realworldimagesize" type="vector2" value="0.12, 0.06" unit="meter"/>
    <input name="uvtiling" type="vector2" value="2, 2"/></tiledimage>
  <image name="r" type="color3"><input name="file" type="filename" value="maps/orm.png"/></image>
  <extract name="g" type="float"><input name="in" type="color3" nodename="r"/>
    <input name="index" type="integer" value="1"/></extract>
  <image name="n" type="vector3"><input name="file" type="filename" value="maps/oak_n.png"/></image>
  <normalmap name="m" type="vector3"><input name="in" type="vector3" nodename="n"/>
    <input name="scale" type="float" value="0.5"/></normalmap>
  <output name="oc" type="color3" nodename="c"/><output name="or" type="float" nodename="g"/>
  <output name="on" type="vector3" nodename="m"/>
</nodegraph>"""
SHOWN = """
<input name="base_color" type="color3" nodegraph="G" output="oc"/>
<input name="specular_roughness" type="float" nodegraph="G" output="or"/>
<input name="normal" type="vector3" nodegraph="G" output="on"/>"""


def png(values: np.ndarray) -> bytes:
    stream = io.BytesIO()
    Image.fromarray(values).save(stream, "PNG")
    return stream.getvalue()


class FigureTests(TestCase):
    def test_what_is_not_said_is_as_the_standard_has_it(self) -> None:
        """Against the node definitions that come with the standard's own library."""
        library = mx.createDocument()
        mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
        for kind, names in SHADERS.items():
            (definition,) = [
                d
                for d in library.getMatchingNodeDefs(kind)
                if d.getDefaultVersion() or not d.getVersionString()
            ]
            for what, (name, usual) in names.items():
                with self.subTest(kind=kind, what=what):
                    given = definition.getActiveInput(name)
                    self.assertIsNotNone(given, name)
                    value = given.getValue()
                    if (what in ("normal", "depth") and kind != "standard_surface") or value is None:
                        continue
                    np.testing.assert_allclose(
                        np.array(usual),
                        np.array(value if isinstance(value, float) else list(value)),
                        atol=1e-6,
                    )

    def test_opaque(self) -> None:
        made = one(document(said(base_color=(0.5, 0.25, 0.125), specular_roughness=0.5, sheen=0.3)))
        self.assertIsInstance(made, Opaque)
        self.assertEqual((made.colour, made.sheen), ("#bc8963", 0.3))  # IEC 61966-2-1 by hand
        self.assertAlmostEqual(gloss_width(made.gloss), 0.25, delta=0.002)
        self.assertEqual(one(document(said(base=0.5, base_color=(1.0, 1.0, 1.0)))).colour, "#bcbcbc")

    def test_colours_of_screens(self) -> None:
        inputs = '<input name="base_color" type="color3" value="0.5, 0.5, 0.5" colorspace="srgb_texture"/>'
        self.assertEqual(one(document(inputs)).colour, "#808080")
        (found,), _ = read_materials(
            document(said(base_color=(0.2, 0.2, 0.2)), head='colorspace="acescg"'), "a.mtlx"
        )
        self.assertIn("colours of acescg", found.words)

    def test_metal_under_lacquer_and_brushed(self) -> None:
        made = one(
            document(
                said(
                    base_color=(1.0, 0.77, 0.31),
                    metalness=1.0,
                    coat=1.0,
                    coat_roughness=0.1,
                    specular_anisotropy=0.6,
                )
            )
        )
        self.assertIsInstance(made, Metal)
        self.assertEqual(made.metal, "gold")
        self.assertGreater(made.lacquer, 0.5)
        self.assertEqual((made.grain.pattern, made.grain.brushed), ("brushed", 0.6))

    def test_glass_in_the_units_of_its_document(self) -> None:
        inputs = said(
            transmission=1.0, transmission_color=(0.2, 0.6, 0.3), transmission_depth=2.0, specular_IOR=1.6
        )
        for head, depth in (('distanceunit="centimeter"', 20.0), ('distanceunit="inch"', 50.8)):
            made = one(document(inputs, head=head))
            self.assertIsInstance(made, Clear)
            self.assertAlmostEqual(made.depth, depth)
        self.assertEqual(made.refractive_index, 1.6)
        own = '<input name="transmission_depth" type="float" value="3" unit="millimeter"/>'
        self.assertAlmostEqual(one(document(said(transmission=1.0) + own)).depth, 3.0)

    def test_wax(self) -> None:
        made = one(
            document(
                said(subsurface_weight=1.0, subsurface_color=(0.8, 0.7, 0.5), subsurface_radius=2.0),
                kind="open_pbr_surface",
                head='distanceunit="millimeter"',
            )
        )
        self.assertIsInstance(made, Cloudy)
        self.assertAlmostEqual(made.wander, 2 * np.mean([1, 0.5, 0.25]))

    def test_films_in_nm_and_in_microns(self) -> None:
        for kind, values in (
            ("standard_surface", {"thin_film_thickness": 400.0, "thin_film_IOR": 1.4}),
            ("open_pbr_surface", {"thin_film_weight": 1.0, "thin_film_thickness": 0.4, "thin_film_ior": 1.4}),
            (
                "gltf_pbr",
                {"iridescence": 1.0, "iridescence_thickness": 400.0, "iridescence_ior": 1.4, "metallic": 0.0},
            ),
        ):
            film = one(document(said(**values), kind=kind)).film
            self.assertAlmostEqual(film.thickness, 400, places=3)
            self.assertAlmostEqual(film.refractive_index, 1.4, places=6)
        self.assertIsNone(one(document("", kind="open_pbr_surface")).film)

    def test_figures_beyond_all_reason(self) -> None:
        made = one(document(said(base_color=(9.0, -3.0, 0.5), specular_roughness=44.0, specular_IOR=9.0)))
        self.assertEqual((made.colour, made.gloss), ("#ff00bc", 0.0))


class PictureTests(TestCase):
    def test_in_an_archive(self) -> None:
        """Found from where the document lies; as wide as its size in the real world says, by its repeats."""
        files = {
            "oak/oak.mtlx": document(SHOWN, graph=OAK),
            "oak/maps/oak.png": png(np.full((8, 8, 3), 90, np.uint8)),
            "oak/maps/orm.png": png(np.full((8, 8, 3), 120, np.uint8)),
            "oak/maps/oak_n.png": png(np.full((8, 8, 3), 128, np.uint8)),
        }
        (found,), pictures = read_materials(pack_files(files), "oak.zip")
        self.assertEqual((found.name, found.words), ("Old oak", "MaterialX"))
        grain = found.material.grain
        self.assertAlmostEqual(grain.scale, 60.0)
        self.assertEqual((found.material.colour, grain.share), ("#ffffff", 1.0))
        taken = {part: pictures[sha].taken for part, sha in grain.pattern}
        self.assertEqual(taken, {"colour": "colours", "gloss": "roughness in green", "relief": "normals up"})
        self.assertEqual(pictures[grain.pattern.relief].steep, 0.5)
        self.assertEqual(pictures[grain.pattern.colour].data, files["oak/maps/oak.png"])

    def test_one_that_does_not_come_along(self) -> None:
        with self.assertRaisesRegex(PackError, r"names a picture, maps/oak\.png, that does not come with it"):
            read_materials(document(SHOWN, graph=OAK), "oak.mtlx")

    def test_what_is_computed_is_left_out_and_said(self) -> None:
        graph = """<fractal3d name="f" type="color3"/><contrast name="k" type="color3">
        <input name="in" type="color3" nodename="f"/></contrast>"""
        inputs = '<input name="base_color" type="color3" nodename="k"/>'
        (found,), _ = read_materials(document(inputs, graph=graph), "a.mtlx")
        self.assertEqual(found.words, "MaterialX, without contrast, fractal3d")
        self.assertEqual(found.material.colour, "#e7e7e7")  # 0.8, the standard's own

    def test_graphs_that_go_round(self) -> None:
        graph = """<add name="a" type="color3"><input name="in1" type="color3" nodename="b"/></add>
        <add name="b" type="color3"><input name="in1" type="color3" nodename="a"/></add>"""
        inputs = '<input name="base_color" type="color3" nodename="a"/>'
        self.assertIsInstance(one(document(inputs, graph=graph)), Opaque)


class BadInputTests(TestCase):
    def test_what_is_no_materialx(self) -> None:
        for data, words in (
            (b"<materialx><standard", "is no MaterialX that can be read"),
            (b"<html></html>", "is no MaterialX that can be read|has no material"),
            (b"\xff\xfe<", "is no MaterialX|not text|is not JSON"),
            (document("", kind="lambert"), "has no material with a surface that is known here"),
        ):
            with self.assertRaisesRegex(PackError, words):
                read_materials(data, "a.mtlx")
        with self.assertRaisesRegex(PackError, "neither materials.json nor a file of MaterialX"):
            read_materials(pack_files({"a.txt": b"a"}), "a.zip")

    def test_too_many(self) -> None:
        nodes = "".join(f'<surfacematerial name="m{i}" type="material"/>' for i in range(300))
        with self.assertRaisesRegex(PackError, "has 301 materials"):
            materialx_surfaces(document("", graph=nodes), "a.mtlx")

    def test_nothing_is_read_that_was_not_sent(self) -> None:
        """Documents can name others to be included: those are not looked for."""
        data = document(
            "", head='xmlns:xi="http://www.w3.org/2001/XInclude"', graph='<xi:include href="/etc/hostname"/>'
        )
        self.assertIsInstance(one(data), Opaque)
