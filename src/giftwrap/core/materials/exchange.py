"""Materials and brand colours as open files: JSON, with its pictures in an archive, and CSV for colours."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import math
from collections.abc import Mapping, Sequence
from pathlib import PurePosixPath
from posixpath import relpath
from typing import Annotated, Any, NamedTuple, TypeVar

from pydantic import Field, TypeAdapter, ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.formats.archives import BEGINS, pack_files, unpack_files
from giftwrap.core.materials.colours import hex_of
from giftwrap.core.materials.pictured import PARTS, picture_image
from giftwrap.core.materials.surfaces import Part, Taken
from giftwrap.core.model.document import Document, Name
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.palette import BrandColour
from giftwrap.core.model.worked import Grain, Pictures
from giftwrap.core.reading import PICTURE, read_apart

MAX_BYTES = 4_000_000
MOST = 1000
"""Materials or colours of one file."""
INSIDE, FOLDER = "materials.json", "pictures"
"""In an archive: the materials, and where their pictures are."""
MATERIALX = ".mtlx"
AS_KEPT: dict[Part, Taken] = {"colour": "colours", "gloss": "gloss", "relief": "heights"}
"""How pictures are meant that were handed on from here."""
_KINDS = {"materials": "materials", "colours": "brand colours"}
_HEADS = ("name", "hex", "l", "a", "b", "spot")


class NamedMaterial(Document):
    """A material as it is handed from studio to studio."""

    name: Name
    words: Annotated[str, Field(max_length=200)] = ""
    material: Annotated[Clear | Cloudy | Opaque | Metal, Field(discriminator="kind")]


T = TypeVar("T")
_MATERIALS = TypeAdapter(list[NamedMaterial])
_COLOURS = TypeAdapter(list[BrandColour])


def pictures_of(materials: Sequence[NamedMaterial]) -> dict[str, Part]:
    """The pictures that materials name, by SHA-256, and of what each is."""
    found: dict[str, Part] = {}
    for one in materials:
        for part in PARTS:
            if sha := getattr(one.material.pictures, part, None):
                found[sha] = part
    return found


def write_materials(materials: Sequence[NamedMaterial], pictures: Mapping[str, bytes]) -> bytes:
    """JSON: `{"materials": [{"name", "words", "material"}]}`; where they name pictures, an archive of that,
    `materials.json`, and of PNG files by what the materials call them.

    pictures : as they are kept, by SHA-256; those that are not there are left out
    """
    text = _written({"materials": _MATERIALS.dump_python(list(materials), mode="json")})
    named = {sha: part for sha, part in pictures_of(materials).items() if sha in pictures}
    if not named:
        return text
    drawn = {f"{FOLDER}/{sha}.png": _png(pictures[sha], part) for sha, part in named.items()}
    return pack_files({INSIDE: text, **drawn})


class Sent(NamedTuple):
    """A picture that comes with materials: the file, what people call it, what it is of and how it is meant;
    a relief is `steep` times as steep."""

    data: bytes
    name: str
    part: Part
    taken: Taken
    steep: float = 1.0


def read_materials(data: bytes, name: str) -> tuple[list[NamedMaterial], dict[str, Sent]]:
    """What `write_materials` wrote, or the materials of a MaterialX document, alone or in an archive; and the
    pictures that come with them, by what they call them.

    Raises PackError that says what is wrong, and where.
    """
    if not data.startswith(BEGINS):
        if name.lower().endswith(MATERIALX) or data.lstrip()[:1] == b"<":
            return _of_materialx(data, name, {})
        return _validated(_MATERIALS, _listed(data, name, "materials"), name), {}
    files = unpack_files(data, name, refusal=PackError, relief="hand on fewer materials at once")
    if INSIDE in files:
        where = f"{INSIDE} in {name}"
        materials = _validated(_MATERIALS, _listed(files[INSIDE], where, "materials"), where)
        sent = {}
        for sha, part in pictures_of(materials).items():
            if png := files.get(f"{FOLDER}/{sha}.png"):
                sent[sha] = Sent(png, f"The picture {sha[:8]}… in {name}", part, AS_KEPT[part])
        return materials, sent
    inside = [path for path in files if path.lower().endswith(MATERIALX)]
    if not inside:
        raise PackError(
            f"There is neither {INSIDE} nor a file of MaterialX in {name}: it holds no materials."
        )
    found: list[NamedMaterial] = []
    pictures: dict[str, Sent] = {}
    for path in inside:
        own, sent = _of_materialx(files[path], f"{path} in {name}", _beside(path, files))
        found += own
        pictures |= sent
    return found, pictures


def _beside(path: str, files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Files by how a document at a path names them: from where it is; and by their last names."""
    folder = PurePosixPath(path).parent
    named = {PurePosixPath(other).name: data for other, data in files.items()}
    return named | {relpath(other, folder): data for other, data in files.items()}


def _of_materialx(
    data: bytes, name: str, files: Mapping[str, bytes]
) -> tuple[list[NamedMaterial], dict[str, Sent]]:
    head, _ = read_apart(
        "giftwrap.core.materials.materialx:materialx_surfaces",
        data,
        name,
        limits=PICTURE,
        refusal=PackError,
        filename=name,
    )
    found, pictures = [], {}
    for one in head:
        called: dict[Part, str] = {}
        for part, shown in one["pictures"].items():
            file = files.get(shown["file"]) or files.get(PurePosixPath(shown["file"]).name)
            if file is None:
                raise PackError(
                    f"{name} names a picture, {shown['file']}, that does not come with it: put both into one "
                    "ZIP archive."
                )
            told = json.dumps([part, shown["taken"], one["steep"]]).encode()
            called[part] = hashlib.sha256(told + file).hexdigest()
            pictures[called[part]] = Sent(file, shown["file"], part, shown["taken"], one["steep"])
        material = dict(one["material"])
        if called:
            pattern = Pictures(**called)
            share = 1.0 if pattern.colour else 0.0
            grain = Grain(
                pattern=pattern, scale=one["width"], lies="over", share=share, brushed=one["brushed"]
            )
            material["grain"] = grain.model_dump(mode="json")
        words = "MaterialX" + (f", without {', '.join(one['left_out'])}" if one["left_out"] else "")
        found.append({"name": one["name"], "words": words[:200], "material": material})
    return _validated(_MATERIALS, found, name), pictures


def _png(data: bytes, part: Part) -> bytes:
    stream = io.BytesIO()
    picture_image(data, part).save(stream, "PNG", compress_level=4)
    return stream.getvalue()


def write_colours(colours: Sequence[BrandColour]) -> bytes:
    """JSON: `{"colours": [{"name", "hex", "spot"}]}`."""
    return _written({"colours": _COLOURS.dump_python(list(colours), mode="json")})


def write_colours_csv(colours: Sequence[BrandColour]) -> bytes:
    """One colour a line: name, hex, L*, a*, b* and spot."""
    stream = io.StringIO()
    lines = csv.writer(stream, lineterminator="\r\n")  # RFC 4180
    lines.writerow(["name", "hex", "L", "a", "b", "spot"])
    for one in colours:
        lines.writerow([one.name, one.hex, *(f"{value:.2f}" for value in one.lab), one.spot])
    return stream.getvalue().encode()


def read_colours(data: bytes, name: str) -> list[BrandColour]:
    """Brand colours of a JSON or CSV file; Lab counts where there is no hex.

    Raises PackError that says what is wrong, and where.
    """
    if not name.lower().endswith(".csv"):
        return _validated(_COLOURS, _listed(data, name, "colours"), name)
    try:
        return _lines(data, name)
    except csv.Error as error:
        raise PackError(f"{name} is not a table that can be read: {error}.") from None


def _written(value: Any) -> bytes:
    return (json.dumps(value, ensure_ascii=False, indent=1) + "\n").encode()


def _text(data: bytes, name: str) -> str:
    if len(data) > MAX_BYTES:
        raise PackError(f"{name} is {len(data) / 1e6:.0f} MB: it may be at most {MAX_BYTES / 1e6:.0f} MB.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise PackError(f"{name} is not text in UTF-8 (byte {error.start}): save it as that.") from None


def _listed(data: bytes, name: str, what: str) -> list[Any]:
    text = _text(data, name)
    try:
        whole = json.loads(text)
    except json.JSONDecodeError as error:
        raise PackError(
            f"{name} is not JSON: {error.msg.lower()} in line {error.lineno}, column {error.colno}."
        ) from None
    except RecursionError:
        raise PackError(f"{name} is not JSON that can be read: it goes too deep.") from None
    except ValueError:
        raise PackError(
            f"{name} is not JSON that can be read: it has a number of thousands of digits."
        ) from None
    found = whole.get(what) if isinstance(whole, dict) else None
    if not isinstance(found, list):
        raise PackError(f"{name} has no list of {_KINDS[what]}: it begins with {{“{what}”: [ … ]}}.")
    if len(found) > MOST:
        raise PackError(f"{name} has {len(found)} {_KINDS[what]}: at most {MOST} can be brought at once.")
    return found


def _lines(data: bytes, name: str) -> list[BrandColour]:
    text = _text(data, name)
    first = text.split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=max(";,\t", key=first.count))
    heads = [head.strip().lower().rstrip("*") for head in next(rows, [])]
    if "name" not in heads or not ({"hex"} <= set(heads) or {"l", "a", "b"} <= set(heads)):
        raise PackError(f"{name}, line 1: it needs columns “name” and “hex”, or “name”, “L”, “a” and “b”.")
    found: list[BrandColour] = []
    for row in rows:
        said = {head: value.strip() for head, value in zip(heads, row, strict=False) if head in _HEADS}
        if not any(said.values()):
            continue
        if len(found) == MOST:
            raise PackError(
                f"{name} has more brand colours than {MOST}, which is all that can be brought at once."
            )
        where = f"{name}, line {rows.line_num}"
        try:
            found.append(BrandColour.model_validate(_colour(said, where)))
        except ValidationError as error:
            wrong = error.errors()[0]
            raise PackError(f"{where}, {wrong['loc'][0]}: {wrong['msg']}.") from None
    return found


def _colour(said: dict[str, str], where: str) -> dict[str, Any]:
    code = said.get("hex", "")
    if not code:
        try:
            lightness, a, b = (float(said[axis].replace(",", ".")) for axis in ("l", "a", "b"))
            if not all(map(math.isfinite, (lightness, a, b))):
                raise ValueError
        except (KeyError, ValueError):
            raise PackError(
                f"{where}: “{said.get('name', '')}” has neither a hex nor three numbers of Lab."
            ) from None
        code = hex_of((lightness, a, b)).code
    return {
        "name": said.get("name", ""),
        "hex": code if code.startswith("#") else f"#{code}",
        "spot": said.get("spot", ""),
    }


def _validated(kind: TypeAdapter[list[T]], values: Any, name: str) -> list[T]:
    try:
        return kind.validate_python(values)
    except ValidationError as error:
        wrong = error.errors()[0]
        number, *field = wrong["loc"]
        place = " ".join(str(part) for part in field if part not in ("clear", "cloudy", "opaque", "metal"))
        said = f", {place}" if place else ""
        raise PackError(f"{name}, number {int(number) + 1}{said}: {wrong['msg']}.") from None
