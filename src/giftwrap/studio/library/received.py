"""Received models: reading them in, and what can be done to them that needs their geometry."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from typing import Any, Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from PIL import Image
from pydantic import Field

from giftwrap.core import model as core
from giftwrap.core.errors import ArtworkError, ModelError
from giftwrap.core.materials.pictured import read_picture
from giftwrap.core.materials.surfaces import Part, Taken
from giftwrap.core.model.palette import Entries
from giftwrap.core.model.worked import Pictures
from giftwrap.core.received.beginning import KeptSurface, begin, merged, replaced, resized, split
from giftwrap.core.received.kept import KeptModel, kept_model
from giftwrap.core.received.reading import CHORD, LEAST_CHORD, MAX_BYTES, MOST_CHORD, ReadMaterial, read_model
from giftwrap.studio.files import artwork_of, contents_of, name_of, store
from giftwrap.studio.jobs import services
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.library.artwork import add_artwork
from giftwrap.studio.room import take_room

router = Router()
MOST_FILES = 60
ADVICE = "Reduce its triangles, or send its parts one by one."


class ReadModelOut(Schema):
    """A model as a pack's form begins, and the materials that go into the palette with it."""

    received: core.Received
    entries: Entries


class ReplaceIn(Schema):
    """A model, and a newer one that was read to take its place."""

    old: core.Received
    newer: core.Received


class PartsIn(Schema):
    """A model, and by their numbers those of its parts that something is done to."""

    received: core.Received
    parts: list[int] = Field(min_length=1, max_length=200)


class ResizeIn(Schema):
    """A pack that is a model, and mm of the unit it is to be in."""

    pack: core.Pack
    unit_mm: float = Field(gt=0, le=1e6, allow_inf_nan=False)


@router.post("/jobs/{slug}/models/read", response=ReadModelOut)
def read_in(
    request: HttpRequest,
    slug: str,
    file: list[UploadedFile] = File(...),
    chord: float = Query(CHORD, ge=LEAST_CHORD, le=MOST_CHORD),
) -> Any:
    """Read a model and keep it; nothing in the job changes but that its pictures are in the library.

    file : the model, or it and the files it needs; chord : mm that facets of a STEP model keep to it
    """
    job = get_object_or_404(Job, slug=slug)
    source, name = _together(file)
    read = read_model(source, name, chord=chord)
    notes: list[str] = []
    palette = services.palette_of(job).read()
    assert isinstance(palette, core.Palette)
    repeating = {mesh.material for mesh in read.meshes if mesh.repeats}
    pictures = [
        None if number in repeating else _picture(job, material, notes)
        for number, material in enumerate(read.materials)
    ]
    surfaces = [
        _surface(material, notes, repeats=number in repeating)
        for number, material in enumerate(read.materials)
    ]
    begun = begin(read, store(read.data), name, pictures, palette.entries, surfaces=surfaces)
    received = begun.received.model_copy(update={"notes": [*begun.received.notes, *notes][:60]})
    return {"received": received, "entries": dict(begun.entries)}


@router.post("/received/replace", response=core.Received)
def replace_model(request: HttpRequest, data: ReplaceIn) -> core.Received:
    """A newer file in the place of a model: what was decided about its parts stays with them."""
    return replaced(data.old, data.newer, _kept(data.old), _kept(data.newer))


@router.post("/received/split", response=core.Received)
def split_part(request: HttpRequest, data: PartsIn) -> core.Received:
    """A model with a part of it as the pieces that hang together."""
    return split(data.received, data.parts[0], _kept(data.received).bodies)


@router.post("/received/merge", response=core.Received)
def merge_parts(request: HttpRequest, data: PartsIn) -> core.Received:
    """A model with some of its parts as one."""
    return merged(data.received, data.parts)


@router.post("/received/resize", response=core.Pack)
def resize_model(request: HttpRequest, data: ResizeIn) -> core.Pack:
    """A pack that is a model in another unit; labels stay where they lie on it."""
    return resized(data.pack, data.unit_mm)


def _together(files: list[UploadedFile]) -> tuple[bytes | Path, str]:
    """What was sent as one file: several go into an archive."""
    if len(files) == 1:
        return contents_of(files[0], MAX_BYTES, "a model", ADVICE), name_of(files[0])
    total = sum(file.size or 0 for file in files)
    if len(files) > MOST_FILES or total > MAX_BYTES:
        raise ModelError(
            f"{len(files)} files of {total / 1e6:.0f} MB are too many: a model may have {MOST_FILES} of "
            f"{MAX_BYTES / 1e6:.0f} MB together. {ADVICE}"
        )
    take_room(total)
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_STORED) as archive:
        for file in files:
            archive.writestr(name_of(file), file.read())
    return stream.getvalue(), name_of(files[0])


def _picture(job: Job, material: ReadMaterial, notes: list[str]) -> tuple[str, float] | None:
    """A material's picture in the library: its SHA-256 and its width over its height."""
    if material.picture is None:
        return None
    with Image.open(io.BytesIO(material.picture), formats=["PNG", "JPEG"]) as picture:
        suffix: Literal["png", "jpg"] = "png" if picture.format == "PNG" else "jpg"
    try:
        row = add_artwork(job, material.picture, f"{material.name[:200]}.{suffix}")
    except ArtworkError as error:
        notes.append(error.message)
        return None
    return row.sha256, row.aspect


def _surface(material: ReadMaterial, notes: list[str], *, repeats: bool) -> KeptSurface | None:
    """A material's pictures of gloss and relief, and of colour where that repeats, kept; what cannot be used
    is said."""
    names: dict[str, str] = {}
    depth = 0.0
    wanted: list[tuple[bytes | None, Part, Taken]] = [
        (material.picture if repeats else None, "colour", "colours"),
        (material.rough, "gloss", "roughness in green"),
        (material.facing, "relief", "normals up"),
    ]
    for data, part, taken in wanted:
        if data is None:
            continue
        try:
            facts, kept = read_picture(data, f"The {part} of “{material.name}”", part=part, taken=taken)
        except ArtworkError as error:
            notes.append(error.message)
            continue
        names[part] = store(kept)
        depth = max(depth, facts.depth * abs(material.steep))
    return KeptSurface(Pictures(**names), depth) if names else None


def _kept(received: core.Received) -> KeptModel:
    """What was kept of a model. Raises ArtworkError when it is gone."""
    use = received.artwork_uses()[:1]
    return kept_model(received.model, artwork_of(use)[received.model])
