"""Artwork: designers' files, stored once by their content. Materials that the studio has saved."""

from __future__ import annotations

from django.db import models

from giftwrap.studio.jobs.models import Job


class Artwork(models.Model):
    """A file placed on panels of one job. Equal files share their bytes."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="artwork")
    sha256 = models.CharField(max_length=64)
    filename = models.CharField(max_length=255)
    kind = models.CharField(max_length=8)
    aspect = models.FloatField()
    width_px = models.PositiveIntegerField(null=True)
    height_px = models.PositiveIntegerField(null=True)
    width = models.FloatField(null=True, help_text="the file's own width in mm, if it states one")
    height = models.FloatField(null=True)
    notes = models.JSONField(default=list)
    pages = models.JSONField(default=list, help_text="of a document, mm across and up each")
    inks = models.JSONField(default=list, help_text="its spot inks by name")
    layers = models.JSONField(default=list, help_text="that can be left out, by name")
    fields = models.JSONField(default=dict, help_text="texts that may be filled, by their ids")
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["job", "sha256"], name="one_artwork_a_file")]

    def __str__(self) -> str:
        return self.filename


class OwnMaterial(models.Model):
    """A material of the studio's own: `document` says it in full. Parts that are made of it have a copy."""

    name = models.CharField(max_length=120, unique=True)
    words = models.CharField(max_length=200, blank=True)
    document = models.JSONField()
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class OwnSetUp(models.Model):
    """Lights that the studio has kept: `document` says them in full. Sets that they hang on have a copy."""

    name = models.CharField(max_length=120, unique=True)
    document = models.JSONField()
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class StudioColour(models.Model):
    """A colour that every job has at hand beside its brand's own; `spot` is its ink's name as typed."""

    name = models.CharField(max_length=120, unique=True)
    hex = models.CharField(max_length=7)
    spot = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name
