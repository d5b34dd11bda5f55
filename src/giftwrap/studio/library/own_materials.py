"""Materials of the studio's own: saved, taken away, pictured, handed on."""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Mapping, Sequence
from pathlib import Path

from django.conf import settings
from django.db import transaction
from pydantic import TypeAdapter, ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.materials.exchange import NamedMaterial, pictures_of, read_materials, write_materials
from giftwrap.core.materials.library import Known
from giftwrap.core.materials.pictured import read_picture
from giftwrap.core.model.document import told_apart
from giftwrap.core.model.panel import pictures_in
from giftwrap.core.model.worked import Pictures
from giftwrap.studio.files import file_path, read_file, refuse_lost, store
from giftwrap.studio.library.models import OwnMaterial

log = logging.getLogger(__name__)

FAMILY = "Our own"
MOST = 2000
"""Materials of a studio."""
_NAMED: TypeAdapter[NamedMaterial] = TypeAdapter(NamedMaterial)


def own_materials() -> list[Known]:
    """All of them, the latest first. What cannot be read any more is left out, and the log says so."""
    return [known for row in OwnMaterial.objects.order_by("-pk") if (known := own_material(row))]


def own_material(row: OwnMaterial) -> Known | None:
    """One of them; None for what cannot be read any more, which the log says."""
    try:
        named = _NAMED.validate_python({"name": row.name, "words": row.words, "material": row.document})
    except ValidationError:
        log.exception("The studio's material “%s” cannot be read.", row.name)
        return None
    source = f"saved here: {row.words}" if row.words else "saved here"
    return Known(f"own-{row.pk}", row.name, FAMILY, row.words, source, named.material, own=True)


def keep(materials: Sequence[NamedMaterial]) -> list[int]:
    """Save materials, each under a name of its own; all of them or none. Returns their numbers.

    Raises PackError when there are too many, ArtworkError when one shows a picture that is not there.
    """
    for one in materials:
        refuse_lost(pictures_in(one))
    with transaction.atomic():
        taken = set(OwnMaterial.objects.values_list("name", flat=True))
        if len(taken) + len(materials) > MOST:
            raise PackError(f"A studio keeps at most {MOST} materials: take some away first.")
        numbers = []
        for one in materials:
            name = told_apart(one.name, taken)
            taken.add(name)
            row = OwnMaterial.objects.create(
                name=name, words=one.words, document=one.material.model_dump(mode="json")
            )
            numbers.append(row.pk)
    return numbers


def handed_on() -> bytes:
    """All of them as a file, the first one saved first; a picture that is lost does not go along."""
    known = own_materials()[::-1]
    named = [NamedMaterial(name=o.name, words=o.words, material=o.material) for o in known]
    kept = {use.sha256: read_file(use.sha256) for one in named for use in pictures_in(one)}
    return write_materials(named, {sha: data for sha, data in kept.items() if data is not None})


def bring(data: bytes, name: str) -> list[int]:
    """Save all materials of a file, with their pictures, or none. Returns their numbers.

    Raises PackError or ArtworkError that says what is wrong, and where.
    """
    materials, pictures = read_materials(data, name)
    here: dict[str, tuple[str, float]] = {}
    for sha, part in pictures_of(materials).items():
        if sent := pictures.get(sha):
            facts, kept = read_picture(sent.data, sent.name, part=sent.part, taken=sent.taken)
            here[sha] = store(kept), facts.depth * abs(sent.steep)
        elif not file_path(sha).exists():
            raise PackError(
                f"{name} names a picture of {part}, {sha[:8]}…, that does not come with it: hand it on again "
                "from where it was made."
            )
    return keep([_renamed(one, here) for one in materials])


def _renamed(one: NamedMaterial, here: Mapping[str, tuple[str, float]]) -> NamedMaterial:
    """A material that calls its pictures as they are called here, and is as deep as they say who do.

    here : what each is called, and how deep it is as a share of its width; 0 where it does not say
    """
    grain, shown = one.material.grain, one.material.pictures
    if grain is None or shown is None:
        return one
    found = {part: here.get(sha, (sha, 0.0)) for part, sha in shown if sha}
    deepest = max((depth for _, depth in found.values()), default=0.0)
    worked = grain.model_copy(
        update={
            "pattern": Pictures(**{part: name for part, (name, _) in found.items()}),
            "depth": min(deepest * grain.scale, 20.0) if deepest > 0 else grain.depth,
        }
    )
    return one.model_copy(update={"material": one.material.model_copy(update={"grain": worked})})


def picture_file(one: Known) -> Path:
    """Where the picture of a material lies: equal ones share it."""
    told = json.dumps(one.material.model_dump(mode="json"), sort_keys=True).encode()
    folder: Path = settings.RENDERS_DIR / "materials"
    return folder / f"{hashlib.sha256(told).hexdigest()[:40]}.webp"


def without_picture(settled: set[int]) -> tuple[int, Known] | None:
    """The first material that has no picture yet, and its number. Those in `settled` are not looked at; what
    has a picture, or cannot be read, is added there."""
    for row in OwnMaterial.objects.exclude(pk__in=settled):
        one = own_material(row)
        if one is not None and not picture_file(one).exists():
            return row.pk, one
        settled.add(row.pk)
    return None
