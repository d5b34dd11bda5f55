"""Files that are meant to do harm, made when they are needed: each a name, a kind of importer and bytes.

The cases follow the list of unsafe uploads in OWASP's File Upload Cheat Sheet (from memory) and what
brought this application down before.
"""

from __future__ import annotations

import base64
import io
import json
import random
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from PIL import Image

Importer = Literal["artwork", "profile", "outline", "photo", "model"]
SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {}>{}</svg>'
PAGE = 'width="60mm" height="40mm" viewBox="0 0 60 40"'


@dataclass(frozen=True)
class Hostile:
    """One file: where it is dropped, what it is called, how it is made.

    heavy : whether it is meant to cost time or memory, not merely to be wrong
    """

    importer: Importer
    name: str
    make: Callable[[], bytes]
    heavy: bool = False


def svg(content: str, page: str = PAGE) -> bytes:
    """An SVG with something in it."""
    return SVG.format(page, content).encode()


def nested(depth: int, tag: str = "g") -> bytes:
    """Groups in groups."""
    return svg(f"<{tag}>" * depth + '<rect width="9" height="9"/>' + f"</{tag}>" * depth)


def long_text(letters: int) -> bytes:
    """One line of very many letters."""
    return svg(f'<text y="20" font-size="4">{"quince " * (letters // 7)}</text>')


def filtered(primitive: str) -> bytes:
    """A rectangle under a filter."""
    return svg(f'<filter id="f">{primitive}</filter><rect width="60" height="40" filter="url(#f)"/>')


def multiplied(levels: int, each: int = 10) -> bytes:
    """References to references: each level shows the one below many times."""
    steps = ['<g id="l0"><path d="M0 0L9 9L3 7Z"/></g>']
    for level in range(1, levels):
        uses = f'<use xlink:href="#l{level - 1}" x="1"/>' * each
        steps.append(f'<g id="l{level}">{uses}</g>')
    return svg(f"<defs>{''.join(steps)}</defs><use xlink:href='#l{levels - 1}'/>")


def boxed(levels: int) -> bytes:
    """Pictures in pictures by data URI, each used many times."""
    inner = svg('<rect width="60" height="40" fill="#b3324c"/>')
    for _ in range(levels):
        uri = "data:image/svg+xml;base64," + base64.b64encode(inner).decode()
        uses = '<use xlink:href="#i" x="1"/>' * 12
        inner = svg(f'<defs><image id="i" width="60" height="40" xlink:href="{uri}"/></defs>{uses}')
    return inner


def flat_png(width: int, height: int, *, mode: int = 0, depth: int = 8) -> bytes:
    """A PNG of one colour, without ever holding its pixels."""
    channels = {0: 1, 2: 3, 6: 4}[mode]
    size = height * (1 + (width * channels * depth + 7) // 8)
    whole, rest = divmod(size, 1_000_000)
    packer = zlib.compressobj(9, zlib.DEFLATED, -15)
    block = packer.compress(b"\0" * 1_000_000) + packer.flush(zlib.Z_FULL_FLUSH)
    end = packer.compress(b"\0" * rest) + packer.flush()
    checksum = (size % 65521) << 16 | 1  # Adler-32 of zeros (RFC 1950, section 8.2)
    packed = b"\x78\xda" + block * whole + end + struct.pack(">I", checksum)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, depth, mode, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def carrying(picture: bytes) -> bytes:
    """An SVG with a bitmap inside."""
    uri = "data:image/png;base64," + base64.b64encode(picture).decode()
    return svg(f'<image width="60" height="40" xlink:href="{uri}"/>')


def noisy(seed: int, size: tuple[int, int] = (120, 90), kind: str = "PNG") -> bytes:
    """A sound picture, of which one part in a hundred bytes is then changed."""
    chance = random.Random(seed)
    image = Image.frombytes("RGB", size, chance.randbytes(size[0] * size[1] * 3))
    stream = io.BytesIO()
    image.save(stream, kind)
    data = bytearray(stream.getvalue())
    for _ in range(len(data) // 100):
        data[chance.randrange(8, len(data))] = chance.randrange(256)
    return bytes(data)


def profile_svg(path: str) -> bytes:
    """A drawing of one line."""
    return svg(f'<path id="profile" d="{path}"/>')


def dxf(entities: str, header: str = "") -> bytes:
    """A DXF drawing of entities as they stand in the file."""
    return f"0\nSECTION\n2\nHEADER\n{header}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n".encode()


def lines(count: int) -> str:
    """Entities of many short lines that do not join."""
    return "".join(f"0\nLINE\n8\n0\n10\n{i}\n20\n0\n11\n{i}.4\n21\n3\n" for i in range(count))


HEAVY: tuple[Hostile, ...] = (
    Hostile("artwork", "300 groups.svg", lambda: nested(300), True),
    Hostile("artwork", "20000 groups.svg", lambda: nested(20_000), True),
    Hostile("artwork", "a million letters.svg", lambda: long_text(1_000_000), True),
    Hostile("artwork", "blur of 1e9.svg", lambda: filtered('<feGaussianBlur stdDeviation="1e9"/>'), True),
    Hostile(
        "artwork", "blur of 400.svg", lambda: filtered('<feGaussianBlur stdDeviation="400"/>' * 60), True
    ),
    Hostile(
        "artwork",
        "turbulence.svg",
        lambda: filtered('<feTurbulence baseFrequency="0.9" numOctaves="100000"/>'),
        True,
    ),
    Hostile(
        "artwork",
        "morphology.svg",
        lambda: filtered('<feMorphology operator="dilate" radius="10000"/>'),
        True,
    ),
    Hostile(
        "artwork",
        "convolve.svg",
        lambda: filtered(f'<feConvolveMatrix order="99" kernelMatrix="{"1 " * 9801}"/>'),
        True,
    ),
    Hostile("artwork", "use of uses.svg", lambda: multiplied(9), True),
    Hostile("artwork", "use in data.svg", lambda: boxed(4), True),
    Hostile("artwork", "picture of 30000.svg", lambda: carrying(flat_png(30_000, 30_000)), True),
    Hostile(
        "artwork", "picture of 20000 in colour.svg", lambda: carrying(flat_png(20_000, 20_000, mode=6)), True
    ),
    Hostile(
        "artwork",
        "thin view.svg",
        lambda: svg('<rect width="9" height="9"/>', 'viewBox="0 0 0.001 90000"'),
        True,
    ),
    Hostile(
        "artwork",
        "thin page.svg",
        lambda: svg('<rect width="9" height="9"/>', 'width="0.1mm" height="99999mm"'),
        True,
    ),
    Hostile(
        "artwork",
        "wide page.svg",
        lambda: svg('<rect width="9" height="9"/>', 'width="99999mm" height="0.1mm"'),
        True,
    ),
    Hostile("artwork", "a million paths.svg", lambda: svg('<path d="M0 0L9 9"/>' * 1_000_000), True),
    Hostile(
        "artwork", "long path.svg", lambda: svg(f'<path d="M0 0{"L9 9L1 4" * 400_000}" stroke="#000"/>'), True
    ),
    Hostile(
        "artwork",
        "dashes.svg",
        lambda: svg('<path d="M0 0H60" stroke="#000" stroke-dasharray="1e-7"/>'),
        True,
    ),
    Hostile(
        "artwork",
        "patterns.svg",
        lambda: svg(
            '<pattern id="p" width="1e-4" height="1e-4" patternUnits="userSpaceOnUse"><rect width="1" height="1"/></pattern><rect width="60" height="40" fill="url(#p)"/>'
        ),
        True,
    ),
    Hostile(
        "artwork",
        "marks.svg",
        lambda: svg(
            f'<marker id="m"><path d="M0 0L9 9"/></marker><path marker-mid="url(#m)" d="M0 0{"L9 9L1 4" * 100_000}"/>'
        ),
        True,
    ),
    Hostile("artwork", "bomb.png", lambda: flat_png(60_000, 60_000), True),
    Hostile("artwork", "119 megapixels.png", lambda: flat_png(10_900, 10_900, mode=6), True),
    Hostile("artwork", "one row.png", lambda: flat_png(100_000, 1), True),
    Hostile("profile", "deep.svg", lambda: nested(5_000), True),
    Hostile("profile", "uses.svg", lambda: multiplied(8), True),
    Hostile("profile", "long.svg", lambda: profile_svg("M30 95" + "L31 94L30 93" * 200_000), True),
    Hostile("profile", "arcs.svg", lambda: profile_svg("M30 95" + "A1 1 0 0 1 31 94" * 60_000), True),
    Hostile("profile", "many lines.dxf", lambda: dxf(lines(30_000)), True),
    Hostile("profile", "large.svg", lambda: svg("<!--" + " " * 21_000_000 + "-->"), True),
    Hostile(
        "outline",
        "large.svg",
        lambda: svg("<!--" + " " * 21_000_000 + "-->" + '<rect width="9" height="9"/>'),
        True,
    ),
    Hostile("outline", "deep.svg", lambda: nested(5_000), True),
    Hostile("outline", "many lines.dxf", lambda: dxf(lines(30_000)), True),
    Hostile("photo", "bomb.png", lambda: flat_png(19_900, 19_900, mode=2), True),
    Hostile("photo", "bomb in grey.png", lambda: flat_png(60_000, 60_000), True),
    Hostile("photo", "deep colour.png", lambda: flat_png(12_000, 12_000, mode=6, depth=16), True),
)
"""What is meant to cost time or memory."""


def _wrong() -> Iterator[Hostile]:
    """What is merely wrong, in ways that parsers trip over."""
    broken = {
        "nothing": b"",
        "zeros": b"\0" * 4000,
        "text": b"quince" * 100,
        "half a tag": b"<svg",
        "not closed": SVG.format(PAGE, "<g>").encode(),
        "entities": b'<!DOCTYPE s [<!ENTITY a "b">]>' + svg("<text>&a;</text>"),
        "many entities": b'<!DOCTYPE s [<!ENTITY a "bbbbbbbb"><!ENTITY c "&a;&a;&a;&a;">]>'
        + svg("<text>&c;</text>"),
        "outside entity": b'<!DOCTYPE s [<!ENTITY a SYSTEM "file:///etc/passwd">]>' + svg("<text>&a;</text>"),
        "outside picture": svg('<image href="http://198.51.100.1/a.png"/>'),
        "outside style": svg("<style>@import url(http://198.51.100.1/a.css);</style>"),
        "file picture": svg('<image xlink:href="file:///etc/passwd" width="9" height="9"/>'),
        "script": svg("<script>alert(1)</script>"),
        "foreign": svg("<foreignObject><p/></foreignObject>"),
        "own use": svg('<g id="a"><use xlink:href="#a"/></g>'),
        "uses in a ring": svg('<g id="a"><use xlink:href="#b"/></g><g id="b"><use xlink:href="#a"/></g>'),
        "own pattern": svg(
            '<pattern id="p" width="1" height="1"><rect width="9" height="9" fill="url(#p)"/></pattern><rect width="9" height="9" fill="url(#p)"/>'
        ),
        "own mask": svg(
            '<mask id="m"><rect width="9" height="9" mask="url(#m)"/></mask><rect width="9" height="9" mask="url(#m)"/>'
        ),
        "own filter": svg(
            '<filter id="f"><feImage xlink:href="#r"/></filter><rect id="r" width="9" height="9" filter="url(#f)"/>'
        ),
        "no size": svg("", ""),
        "no width": svg("", 'width="0" height="0"'),
        "negative": svg("", 'width="-4mm" height="9mm"'),
        "not a number": svg("", 'width="nan" height="inf"'),
        "endless": svg("", 'width="1e999" height="1e999"'),
        "view of nothing": svg("", 'viewBox="0 0 0 0"'),
        "view of words": svg("", 'viewBox="a b c d"'),
        "wide text": "<svg/>".encode("utf-16"),
        "wrong letters": b'<?xml version="1.0" encoding="latin-1"?>'
        + svg("<text>\xe9</text>".encode("latin-1").decode("latin-1")),
        "zeros within": svg("\0\0"),
        "endless points": profile_svg("M30 95L1e400 3L-1e400 9"),
        "points that are none": profile_svg("M30 95LNaN 3L9 Infinity"),
        "far points": profile_svg("M30 95L1e30 3L30 0"),
        "one point": profile_svg("M30 95Z"),
        "broken path": profile_svg("M30 95Q"),
        "a flat arc": profile_svg("M30 95A0 0 0 0 1 31 94A1e-300 1e-300 0 0 1 30 90"),
        "an endless turn": svg('<path transform="scale(1e308) scale(1e308)" d="M1 1L9 9L3 7"/>'),
        "a turn of nothing": svg('<path transform="matrix(0 0 0 0 0 0)" d="M1 1L9 9L3 7"/>'),
        "a turn of words": svg('<path transform="rotate(x)" d="M1 1L9 9L3 7"/>'),
        "a radius of nothing": svg(
            '<circle r="0"/><ellipse rx="-1" ry="nan"/><rect width="1e308" height="1e308"/>'
        ),
    }
    for name, data in broken.items():
        for importer in ("artwork", "profile", "outline"):
            yield Hostile(importer, f"{name}.svg", lambda data=data: data)
        yield Hostile("photo", f"{name}.jpg", lambda data=data: data)
    drawings = {
        "no end": b"0\nSECTION\n2\nENTITIES\n",
        "words": b"0\nLINE\nx\ny\n",
        "no numbers": dxf("0\nLINE\n8\n0\n10\nnan\n20\ninf\n11\n1e400\n21\n-1e400\n"),
        "a bent line": dxf("0\nLWPOLYLINE\n8\n0\n90\n2\n10\n0\n20\n0\n42\n1e300\n10\n9\n20\n9\n42\nnan\n"),
        "a spline of nothing": dxf("0\nSPLINE\n8\n0\n71\n3\n72\n0\n73\n0\n"),
        "a spline of too many": dxf("0\nSPLINE\n8\n0\n71\n40\n72\n99999999\n73\n9\n40\n0\n10\n0\n20\n0\n"),
        "a circle of nothing": dxf("0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n0\n"),
        "a turned ellipse": dxf("0\nELLIPSE\n8\n0\n10\n0\n20\n0\n11\n0\n21\n0\n40\n0\n41\n0\n42\n1e300\n"),
        "its own block": dxf("0\nINSERT\n8\n0\n2\n*Model_Space\n10\n0\n20\n0\n"),
        "wrong units": dxf(lines(3), "9\n$INSUNITS\n70\n-99\n"),
        "half a pair": b"0\nSECTION\n2",
        "binary": bytes(range(256)) * 4,
    }
    for name, data in drawings.items():
        for importer in ("profile", "outline"):
            yield Hostile(importer, f"{name}.dxf", lambda data=data: data)
    for seed in range(6):
        for importer in ("artwork", "photo"):
            yield Hostile(importer, f"changed {seed}.png", lambda seed=seed: noisy(seed))
            yield Hostile(importer, f"changed {seed}.jpg", lambda seed=seed: noisy(seed, kind="JPEG"))


def gltf(change: str = "", **more: object) -> bytes:
    """A glTF file of one triangle with something changed."""
    places = base64.b64encode(struct.pack("<9f", 0, 0, 0, 9, 0, 0, 0, 9, 0)).decode()
    tree = {
        "asset": {"version": "2.0"},
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"byteLength": 36, "uri": f"data:application/octet-stream;base64,{places}"}],
    }
    text = json.dumps({**tree, **more})
    return (text.replace(*change.split("→")) if change else text).encode()


def archive(files: dict[str, bytes]) -> bytes:
    """A ZIP archive."""
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    return stream.getvalue()


def _models() -> Iterator[Hostile]:
    """Models: cut short, lying, in circles, in traps."""
    obj = b"v 0 0 0\nv 9 0 0\nv 0 9 0\nf 1 2 3\n"
    made: dict[str, bytes] = {
        "nothing.glb": b"",
        "head.glb": b"glTF\2\0\0\0\xff\xff\xff\x7f",
        "old.glb": b"glTF\1\0\0\0" + b"\0" * 20,
        "words.gltf": b"{",
        "deep.gltf": b'{"asset":' + b"[" * 100_000,
        "no buffer.gltf": gltf(buffers=[]),
        "outside.gltf": gltf(buffers=[{"byteLength": 36, "uri": "file:///etc/passwd"}]),
        "far.gltf": gltf('"count": 3→"count": 900000'),
        "endless.gltf": gltf('"count": 3→"count": 99999999999'),
        "minus.gltf": gltf('"count": 3→"count": -3'),
        "strange numbers.gltf": gltf("5126→7"),
        "half.gltf": gltf('"byteLength": 36→"byteLength": 35'),
        "stride.gltf": gltf('"buffer": 0,→"buffer": 0, "byteStride": -12,'),
        "itself.gltf": gltf(nodes=[{"mesh": 0, "children": [0]}]),
        "nowhere.gltf": gltf(nodes=[{"mesh": 5}]),
        "large.gltf": gltf(nodes=[{"mesh": 0, "scale": [1e300, 1e300, 1e300]}]),
        "flat.gltf": gltf(nodes=[{"mesh": 0, "scale": [0, 0, 0]}]),
        "words for places.gltf": gltf(nodes=[{"mesh": 0, "translation": ["a", "b", "c"]}]),
        "packed.gltf": gltf(extensionsRequired=["KHR_draco_mesh_compression"]),
        "lists.gltf": gltf(meshes={"a": 1}, nodes="none"),
        "ten million.ply": b"ply\nformat ascii 1.0\nelement vertex 3\nelement face 10000000\nend_header\n",
        "lying.ply": b"ply\nformat binary_little_endian 1.0\nelement vertex 900000\nproperty float x\nend_header\n",
        "lying.stl": b"\0" * 80 + struct.pack("<I", 2_000_000_000) + b"\0" * 500,
        "solid.stl": b"solid facet normal nan nan nan\nouter loop\nvertex a b c\n",
        "range.obj": obj + b"f 1 2 99999999\n",
        "nan.obj": b"v nan inf 0\n" + obj,
        "step.step": b"ISO-10303-21;HEADER;" + b"#1=(" * 5000,
        "up.zip": archive({"../../../tmp/x.obj": obj}),
        "two.zip": archive({"a.obj": obj, "b.obj": obj}),
        "nothing in it.zip": archive({}),
        "bomb.zip": archive({"a.obj": b"\0" * 60_000_000}),
        "entity.3mf": archive({"3D/3dmodel.model": b'<!DOCTYPE a [<!ENTITY b "c">]><model>&b;</model>'}),
        "circle.3mf": archive(
            {
                "3D/3dmodel.model": b'<model xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">'
                b'<resources><object id="1"><components><component objectid="1"/></components></object>'
                b'</resources><build><item objectid="1"/></build></model>'
            }
        ),
    }
    for name, data in made.items():
        yield Hostile("model", name, lambda data=data: data)


def hostile_files() -> tuple[Hostile, ...]:
    """Every one, the heavy ones first."""
    return (*HEAVY, *_wrong(), *_models())
