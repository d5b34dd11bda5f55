"""Prints: how long a run takes to compose, large files to lie on a panel, and a proof with a full run."""

from __future__ import annotations

import hashlib
import io
import statistics
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from pikepdf import Array, Dictionary, Name, Stream
from PIL import Image, TiffImagePlugin

from giftwrap.bench.demo_job import demo_frame
from giftwrap.bench.figure import Figure, median_seconds
from giftwrap.core.errors import ArtworkError
from giftwrap.core.model import Metal, Placement, Printed, WrapPanel
from giftwrap.core.model.run import Embossed, Foil, Ink, Varnish, White
from giftwrap.core.reading import ARTWORK
from giftwrap.core.reading.artwork import PARSING, read_artwork
from giftwrap.core.reading.reader import EVERYTHING, Reader, start_reading
from giftwrap.core.render.files import shelf
from giftwrap.core.render.proof import proof_job, proof_pass
from giftwrap.core.wrap.printing import compose

SIX = (
    White(covers="placed"),
    Ink(hiding=0.1),
    Foil(),
    Foil(name="Silver", material=Metal(metal="silver", gloss=0.8), hot=False),
    Varnish(height=0.03),
    Embossed(),
)
LABEL = (210.0, 90.0)
PPI = 600.0
PROOF, SAMPLES_TWICE = (480, 300), 9
CREST = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
    '<path d="M30 4c12 14 20 20 20 32a20 20 0 0 1-40 0c0-12 8-18 20-32z"/></svg>'
)
TEXT = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="80mm" viewBox="0 0 200 80">'
    '<rect width="200" height="8" fill="#7a1f35"/><text x="100" y="50" font-family="Fraunces" '
    'font-size="30" text-anchor="middle" fill="#23262b">Velloway</text></svg>'
)


def run() -> Iterator[Figure]:
    """Composing, large files, proofs."""
    start_reading(EVERYTHING)
    yield from _composing()
    yield from _large_files()
    yield from _proofs()


def full_run(width: float, height: float) -> tuple[dict[str, Any], dict[str, bytes]]:
    """What of a panel of a size is printed in six layers, and the files."""
    files, named = {}, {}
    for text in (CREST, TEXT):
        data = text.encode()
        sha256 = hashlib.sha256(data).hexdigest()
        shelf.put(data)
        files[sha256] = data
        named[text] = sha256
    crest = Placement(
        artwork=named[CREST],
        x=width * 0.4,
        y=height * 0.3,
        width=min(width * 0.2, height * 0.5),
        printed=False,
        areas={"Foil": "shape", "Emboss": "shape", "Varnish": "shape"},
    )
    text = Placement(
        artwork=named[TEXT], x=0.02 * width, y=0.05 * height, width=width * 0.95, areas={"White": "shape"}
    )
    edge = crest.model_copy(update={"x": width * 0.7, "areas": {"Silver": "shape"}})
    return {"placements": [text, crest, edge], "run": list(SIX)}, files


def _with(panel: Printed, second: Placement) -> Printed:
    """A panel with another second placement."""
    first, _, third = panel.placements
    return panel.model_copy(update={"placements": [first, second, third]})


def _composing() -> Iterator[Figure]:
    width, height = LABEL
    what, files = full_run(width, height)
    panel = Printed(width=width, height=height, **what)
    read_artwork(b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>", "first.svg")
    began = time.perf_counter()
    compose(panel, files, ppi=PPI)
    yield Figure("wrap: six layers at 600 ppi", time.perf_counter() - began, "s", 2.0)
    places = iter(np.linspace(60, 100, 40))

    def moved() -> None:
        one = panel.placements[1].model_copy(update={"x": float(next(places))})
        compose(_with(panel, one), files, ppi=PPI)

    yield Figure("wrap: again after moving one", median_seconds(moved, runs=7), "s", 0.3)
    small = iter(np.linspace(60, 100, 60))

    def dragged() -> None:
        one = panel.placements[1].model_copy(update={"x": float(next(small))})
        compose(_with(panel, one), files, ppi=100)

    yield Figure("wrap: a drag composed at 100 ppi", 1000 * median_seconds(dragged, runs=15), "ms", 50)


def _large_files() -> Iterator[Figure]:
    reader = Reader(EVERYTHING[:1])
    reader.start()
    rng = np.random.default_rng(2)
    files = {"a 300 MB layered PDF": _large_pdf, "a TIFF of 20,000 × 10,000 px": _large_tiff}
    for name, made in files.items():
        data = made(rng)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "large"
            path.write_bytes(data)
            size = len(data)
            del data
            try:
                facts = reader.read(
                    f"{PARSING}:artwork_facts", path, "large", limits=ARTWORK, refusal=ArtworkError,
                    filename="large", trial=True,
                )  # fmt: skip
                kind = facts.head["kind"]
                drawn = reader.read(
                    f"{PARSING}:drawn", path, "large", limits=ARTWORK, refusal=ArtworkError, known=True,
                    kind=kind, width_px=1800, height_px=900, what={},
                )  # fmt: skip
            except ArtworkError as error:
                raise SystemExit(f"{name}, {size / 1e6:.0f} MB: {error}") from error
        yield Figure(f"wrap: {name}, read and drawn", facts.seconds + drawn.seconds, "s", 10)
        yield Figure(f"wrap: {name}, peak", max(facts.peak, drawn.peak) / 1e9, "GB", 2)
    reader.stop()


def _large_pdf(rng: np.random.Generator) -> bytes:
    """Ten layers, each with a picture of 30 MB that cannot be made smaller."""
    pdf = pikepdf.new()
    page = pdf.add_blank_page(page_size=(600, 300))
    groups, content = [], []
    pictures, properties = Dictionary(), Dictionary()
    for number in range(10):
        group = pdf.make_indirect(Dictionary(Type=Name.OCG, Name=f"Layer {number}"))
        picture = Stream(pdf, rng.integers(0, 256, 30_000_000, np.uint8).tobytes())
        picture.Type, picture.Subtype, picture.Width, picture.Height = Name.XObject, Name.Image, 5000, 2000
        picture.ColorSpace, picture.BitsPerComponent = Name.DeviceRGB, 8
        pictures[f"/Im{number}"] = pdf.make_indirect(picture)
        properties[f"/L{number}"] = group
        groups.append(group)
        content.append(f"/OC /L{number} BDC q 60 0 0 300 {60 * number} 0 cm /Im{number} Do Q EMC")
    pdf.Root.OCProperties = Dictionary(OCGs=Array(groups), D=Dictionary(ON=Array(groups)))
    page.obj.Resources = Dictionary(XObject=pictures, Properties=properties)
    page.obj.Contents = Stream(pdf, "\n".join(content).encode())
    stream = io.BytesIO()
    pdf.save(stream, compress_streams=False)
    return stream.getvalue()


def _large_tiff(rng: np.random.Generator) -> bytes:
    narrow = Image.fromarray(rng.integers(0, 256, (10_000, 200, 3), np.uint8))
    wide = narrow.resize((20_000, 10_000), Image.Resampling.NEAREST)
    stream = io.BytesIO()
    wide.save(stream, "TIFF", compression="tiff_lzw", tiffinfo=TiffImagePlugin.ImageFileDirectory_v2())
    return stream.getvalue()


def _proofs() -> Iterator[Figure]:
    """A first proof of the demo's bottle, plain and with a full run, in turns in one process."""
    frame, artwork = demo_frame()
    for data in artwork.values():
        shelf.put(data)
    pack = frame.packs[frame.hero()]
    what, _ = full_run(pack.panels[0].width, pack.panels[0].height)
    plain = WrapPanel(**{**pack.panels[0].model_dump(), "name": "Plain"})
    full = plain.model_copy(update=what)
    times: dict[str, list[float]] = {"plain": [], "full": []}
    for number in range(SAMPLES_TWICE):
        for name, panel in (("plain", plain), ("full", full)):
            camera = frame.shot.camera.model_copy(update={"azimuth": float(number)})
            shown = pack.model_copy(update={"panels": [panel]})
            shot = frame.shot.model_copy(update={"camera": camera})
            changes = {"packs": {frame.hero(): shown}, "shot": shot}
            began = time.perf_counter()
            proof_pass(proof_job(frame.model_copy(update=changes), *PROOF), name, 0)
            times[name].append(time.perf_counter() - began)
    ratio = statistics.median(b / a for a, b in zip(times["plain"][1:], times["full"][1:], strict=True))
    yield Figure("wrap: a proof with a full run beside a plain one", ratio, "×", 1.15)
