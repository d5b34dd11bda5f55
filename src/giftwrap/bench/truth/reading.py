"""Type and codes read from finals, against what is read of the artwork itself at the same scale."""

from __future__ import annotations

import io
import subprocess
from collections.abc import Iterator

import barcode
import numpy as np
import segno
import zxingcpp
from barcode.writer import SVGWriter
from PIL import Image

from giftwrap.bench.figure import Figure
from giftwrap.core.formats.pictures import to_8_bit
from giftwrap.core.model import Camera, Purpose, Rectangle, SectionMark, Shot, WrapPanel
from giftwrap.core.render.job import develop, take
from giftwrap.core.render.planning import Limits, Region
from giftwrap.core.stage.camera import px_per_mm
from giftwrap.core.tests.samples import cylinder, even_light, labelled, picture_job, placed
from giftwrap.core.wrap.printing import compose

SIZES = ((1200, 1500), (1920, 2400))
NOISES = (5.0, 1.5)
TYPE = {
    4: "quince orchard pressed winter cellar morning velvet harvest",
    5: "copper garden ripened slowly barrel honey blossom kitchen",
    6: "stirred gentle pepper almond market ribbon clover shelter",
    7: "glass spoon travel letter window autumn silver timber",
    8: "water sugar lemon ginger butter flower bottle summer",
}
"""Words printed at each size in points; no word twice."""
MM_PER_POINT = 25.4 / 72
ARTICLE, ADDRESS = "2012345678903", "https://velloway.example/quince"
SHRUNK = 0.8
"""The least magnification that the standard of retail barcodes allows (from memory)."""
RADIUS, FROM_BASE, WIDE, TALL = 40.0, 30.0, 62.0, 100.0
MARGIN = 4.0
FINER = 4
"""Texels a px at which artwork is drawn before it is brought to the picture's scale, and px a px that
the reader of type is given."""


def run() -> Iterator[Figure]:
    """By size and noise of the final: words read of each size of type, codes read of four."""
    panel, files = _printed()
    for size in SIZES:
        for noise in NOISES:
            picture, own = _pictures(panel, files, size, noise)
            name = f"truth: {size[0]}×{size[1]} to {noise:g} %"
            read, most = _words(picture), _words(own)
            for points, words in TYPE.items():
                found, ceiling = (100 * len(set(words.split()) & one) / 8 for one in (read, most))
                yield Figure(f"{name}, {points}-point words read", found, "%", ceiling, "higher")
            yield Figure(f"{name}, codes read", _codes(picture), "of 4", _codes(own), "higher")


def _pictures(
    panel: WrapPanel, files: dict[str, bytes], size: tuple[int, int], noise: float
) -> tuple[np.ndarray, np.ndarray]:
    """The label in a final of a square bottle, and the artwork itself at the same scale; uint8."""
    square = [SectionMark(height=0, section=Rectangle(depth_ratio=1, corner=0.2))]
    body = cylinder(RADIUS, 190).model_copy(update={"sections": square})
    camera = Camera(lens_mm=85, distance=760, height=100, aim_height=95)
    shot = Shot(camera=camera, purposes=[Purpose(width_px=size[0], height_px=size[1])])
    scale = px_per_mm(camera, size, np.array([[0.0, -RADIUS, FROM_BASE + TALL / 2]]))
    wide, tall = (round(scale * (side + 2 * MARGIN)) for side in (WIDE, TALL))
    top = round(size[1] / 2 - scale * (FROM_BASE + TALL + MARGIN - camera.aim_height))
    region = Region((size[0] - wide) // 2, top, wide, tall)
    job = picture_job(labelled(body, panel), even_light(), shot, files, region)
    film = take(job, Limits(400, noise=noise))
    sheet = compose(panel, files, ppi=FINER * scale * 25.4).picture
    own = sheet.resize((round(WIDE * scale), round(TALL * scale)), Image.Resampling.BOX)
    return to_8_bit(develop(film, job)[1]), np.asarray(own)


def _printed() -> tuple[WrapPanel, dict[str, bytes]]:
    """Type of five sizes, a QR code and an article number, each code at full size and shrunk."""
    lines, down = [], 3.0
    for points, words in TYPE.items():
        half = words.split()[:4], words.split()[4:]
        for line in half:
            down += points * MM_PER_POINT * 1.3
            text = " ".join(line)
            lines.append(f'<text x="3" y="{down:.2f}" font-size="{points * MM_PER_POINT:.3f}">{text}</text>')
    page = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDE}mm" height="40mm" viewBox="0 0 {WIDE} 40" '
        f'font-family="Instrument Sans">{"".join(lines)}</svg>'
    )
    placements, files = [], {}

    def place(data: bytes, *, width: float, x: float, y: float) -> None:
        placement, more = placed(data, width=width, x=x, y=y)
        placements.append(placement)
        files.update(more)

    place(page.encode(), width=WIDE, x=0, y=TALL - 40)
    square, bars = io.BytesIO(), io.BytesIO()
    segno.make(ADDRESS, error="m").save(square, kind="svg", scale=4, border=4)
    place(square.getvalue(), width=22, x=38, y=32)
    place(square.getvalue(), width=22 * SHRUNK, x=40, y=6)
    barcode.get("ean13", ARTICLE, writer=SVGWriter()).write(bars, {"module_width": 0.33, "quiet_zone": 4})
    place(bars.getvalue(), width=37.3, x=1, y=32)
    place(bars.getvalue(), width=37.3 * SHRUNK, x=1, y=6)
    return WrapPanel(from_base=FROM_BASE, width=WIDE, height=TALL, placements=placements), files


def _words(picture: np.ndarray) -> set[str]:
    """Everything that is read of a picture's upper half, enlarged as its reader likes it."""
    image = Image.fromarray(picture[: round(0.46 * len(picture))])
    stream = io.BytesIO()
    image.resize((FINER * image.width, FINER * image.height), Image.Resampling.BICUBIC).save(stream, "PNG")
    command = ["tesseract", "stdin", "stdout", "--psm", "6", "-l", "eng"]
    done = subprocess.run(command, input=stream.getvalue(), capture_output=True, check=True)
    return set(done.stdout.decode().replace(",", " ").split())


def _codes(picture: np.ndarray) -> int:
    """How many of the four codes are read, each by itself; a reader tells two alike only by their place."""
    middle, side = round(0.7 * len(picture)), round(0.6 * picture.shape[1])
    cuts = [slice(round(0.42 * len(picture)), middle), slice(middle, None)]
    halves = [slice(None, side), slice(side, None)]
    found = 0
    for rows in cuts:
        for columns in halves:
            part = np.ascontiguousarray(picture[rows, columns])
            found += bool({code.text for code in zxingcpp.read_barcodes(part)} & {ARTICLE, ADDRESS})
    return found
