"""Lights that the studio has kept, for every job."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.model.arrangement import HangLights
from giftwrap.core.model.document import Name, told_apart
from giftwrap.core.stage.setups import is_neutral
from giftwrap.studio.library.models import OwnSetUp
from giftwrap.studio.numbers import Id

log = logging.getLogger(__name__)
router = Router()
MOST = 200
"""Set-ups of a studio."""


@dataclass(frozen=True)
class Own:
    """A set-up of the studio's own."""

    number: int
    name: str
    how: HangLights

    @property
    def neutral(self) -> bool:
        """Whether its light has no colour of its own."""
        return is_neutral(self.how.lights)


class OwnSetUpOut(Schema):
    """Lights that were kept; `neutral` where they have no colour of their own."""

    number: int
    name: str
    neutral: bool
    how: HangLights


class OwnSetUpIn(Schema):
    name: Name
    how: HangLights


@router.get("/own-set-ups", response=list[OwnSetUpOut])
def own_set_ups_there(request: HttpRequest) -> list[Own]:
    """All that the studio has kept, the latest first."""
    return own_set_ups()


@router.post("/own-set-ups", response=list[OwnSetUpOut])
def keep_set_up(request: HttpRequest, data: OwnSetUpIn) -> list[Own]:
    """Keep lights for every job of the studio, under a name of their own; all there are."""
    with transaction.atomic():
        taken = set(OwnSetUp.objects.values_list("name", flat=True))
        if len(taken) >= MOST:
            raise PackError(f"A studio keeps at most {MOST} set-ups: take some away first.")
        OwnSetUp.objects.create(name=told_apart(data.name, taken), document=data.how.model_dump(mode="json"))
    return own_set_ups()


@router.delete("/own-set-ups/{number}", response=list[OwnSetUpOut])
def take_away_set_up(request: HttpRequest, number: Id) -> list[Own]:
    """Take a set-up away. Lights that hang by it stay."""
    get_object_or_404(OwnSetUp, pk=number).delete()
    return own_set_ups()


def own_set_ups() -> list[Own]:
    """All of them, the latest first. What cannot be read any more is left out, and the log says so."""
    return [own for row in OwnSetUp.objects.order_by("-pk") if (own := _read(row))]


def _read(row: OwnSetUp) -> Own | None:
    try:
        return Own(row.pk, row.name, HangLights.model_validate(row.document))
    except ValidationError:
        log.exception("The studio's set-up “%s” cannot be read.", row.name)
        return None
