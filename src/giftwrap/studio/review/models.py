"""Client links, and what clients answer."""

from __future__ import annotations

import secrets

from django.db import models

from giftwrap.core.errors import GiftwrapError
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.rendering.models import Picture


def new_token() -> str:
    return secrets.token_urlsafe(24)


class ClientLink(models.Model):
    """A private address that shows one job's pictures to whoever has it."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="client_link")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"client link of {self.job}"


class Replaced(GiftwrapError):
    """A newer picture has come in place of the one that is answered for."""


class Answer(models.Model):
    """What a client said of a picture: yes, or what to change, and where in it.

    x, y : the place, 0..1 from the picture's left and top
    """

    class Verdict(models.TextChoices):
        APPROVED = "approved"
        CHANGES = "changes"

    picture = models.ForeignKey(Picture, models.CASCADE, related_name="answers")
    verdict = models.CharField(max_length=10, choices=Verdict)
    name = models.CharField(max_length=80)
    remark = models.TextField(blank=True)
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.name}: {self.verdict}"
