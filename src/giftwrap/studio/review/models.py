"""Client links."""

from __future__ import annotations

import secrets

from django.db import models

from giftwrap.studio.jobs.models import Job


def new_token() -> str:
    return secrets.token_urlsafe(24)


class ClientLink(models.Model):
    """A private address that shows one job's pictures to whoever has it."""

    job = models.OneToOneField(Job, models.CASCADE, related_name="client_link")
    token = models.CharField(max_length=64, unique=True, default=new_token)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"client link of {self.job}"
