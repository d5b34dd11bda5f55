"""A job and its documents, each with every revision it ever had."""

from __future__ import annotations

from typing import ClassVar

from django.db import models
from pydantic import ValidationError

from giftwrap.core import model as core
from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model.document import Document, describe_invalid


class Job(models.Model):
    """One client assignment."""

    slug = models.SlugField(unique=True, max_length=60)
    name = models.CharField(max_length=120)
    client = models.CharField(max_length=120, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return self.name


class RowQuerySet(models.QuerySet):
    """Rows of one kind."""

    def there(self) -> RowQuerySet:
        """Those that have not been removed."""
        return self.filter(removed=None)


class VersionedDocument(models.Model):
    """A row that holds the present state of a document; `Revision` holds all its states.

    Its slug is its key in the job: others refer to it by that, so it never changes.
    """

    kind: ClassVar[str]
    document_type: ClassVar[type[Document]]

    slug = models.SlugField(max_length=60)
    name = models.CharField(max_length=120)
    document = models.JSONField()
    revision = models.PositiveIntegerField()
    position = models.PositiveIntegerField(default=0, help_text="among the job's rows of its kind")
    removed = models.DateTimeField(null=True, help_text="when it was taken away; it can be fetched back")
    changed = models.DateTimeField(auto_now=True)

    objects = RowQuerySet.as_manager()

    class Meta:
        abstract = True
        ordering = ["position", "pk"]

    def __str__(self) -> str:
        return self.name

    def read(self) -> Document:
        """The validated document, of the present version. Raises GiftwrapError when it cannot be read."""
        try:
            return self.document_type.model_validate(self.document)
        except ValidationError as error:
            message, place = describe_invalid(error)
            raise GiftwrapError(f"“{self.name}” cannot be read. {message}", place) from None


class Pack(VersionedDocument):
    kind = "pack"
    document_type = core.Pack
    job = models.ForeignKey(Job, models.CASCADE, related_name="packs")

    class Meta(VersionedDocument.Meta):
        constraints = [models.UniqueConstraint(fields=["job", "slug"], name="one_pack_a_key")]


class PhotoSet(VersionedDocument):
    kind = "set"
    document_type = core.PhotoSet
    job = models.ForeignKey(Job, models.CASCADE, related_name="sets")

    class Meta(VersionedDocument.Meta):
        constraints = [models.UniqueConstraint(fields=["job", "slug"], name="one_set_a_key")]


class Palette(VersionedDocument):
    kind = "palette"
    document_type = core.Palette
    job = models.OneToOneField(Job, models.CASCADE, related_name="palette")


class Colourway(VersionedDocument):
    kind = "colourway"
    document_type = core.Colourway
    job = models.ForeignKey(Job, models.CASCADE, related_name="colourways")

    class Meta(VersionedDocument.Meta):
        constraints = [models.UniqueConstraint(fields=["job", "slug"], name="one_colourway_a_key")]


class Shot(VersionedDocument):
    """A shot says by their keys which set it is on and which pack it is of."""

    kind = "shot"
    document_type = core.Shot
    job = models.ForeignKey(Job, models.CASCADE, related_name="shots")
    paths_per_second = models.FloatField(
        null=True, help_text="measured speed of rendering this shot here, samples × pixels"
    )
    noise_of_one_sample = models.FloatField(
        null=True, help_text="measured noise of this shot in per cent, times √samples"
    )

    class Meta(VersionedDocument.Meta):
        constraints = [models.UniqueConstraint(fields=["job", "slug"], name="one_shot_a_key")]


class Revision(models.Model):
    """One saved state of a document. Undo walks to the parent, redo to the newest child."""

    kind = models.CharField(max_length=12)
    row = models.PositiveBigIntegerField()
    number = models.PositiveIntegerField()
    parent = models.PositiveIntegerField(null=True)
    document = models.JSONField()
    refused = models.BooleanField(default=False, help_text="a stale save that was kept aside")
    author = models.CharField(max_length=150, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["kind", "row", "number"], name="one_revision_a_number")
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.row} revision {self.number}"
