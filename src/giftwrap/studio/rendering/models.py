"""Orders and the pictures they bring."""

from __future__ import annotations

from django.db import models

from giftwrap.studio.jobs.models import Shot


class Order(models.Model):
    """A request for a final. It keeps its own copy of the documents, so later edits do not touch it."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        CANCELLED = "cancelled"
        FAILED = "failed"

    class Wish(models.TextChoices):
        """What the person has asked of an order on its way."""

        GO_ON = "go_on"
        FINISH = "finish"
        CANCEL = "cancel"

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="orders")
    colourway = models.CharField(max_length=60, blank=True, help_text="its key; none for as it is")
    documents = models.JSONField(help_text="the frame as ordered")
    made_of = models.JSONField(default=dict, help_text="rows and revisions of its documents, by kind")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    samples = models.PositiveIntegerField(help_text="average per pixel, at most")
    noise_limit = models.FloatField(null=True, help_text="per cent at which it is clean enough")
    seconds_limit = models.FloatField(null=True, help_text="of rendering, at most")
    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    wish = models.CharField(max_length=8, choices=Wish, default=Wish.GO_ON)
    samples_done = models.FloatField(default=0)
    noise = models.FloatField(null=True, help_text="per cent of the display's range")
    seconds = models.FloatField(default=0, help_text="time spent rendering so far")
    progress = models.FloatField(default=0, help_text="share of its work that is done, 0..1")
    remaining_seconds = models.FloatField(null=True)
    message = models.TextField(blank=True)
    waiting = models.TextField(blank=True, help_text="why it does not go on just now")
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"order {self.pk}"

    OPEN = (State.QUEUED, State.RUNNING)

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN


class Picture(models.Model):
    """A finished final. Its files are named by its primary key in the renders folder."""

    order = models.OneToOneField(Order, models.CASCADE, related_name="picture")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    samples = models.FloatField()
    noise = models.FloatField(null=True)
    seconds = models.FloatField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"picture {self.pk}"


class Thumbnail(models.Model):
    """A small picture of a shot in a colourway, of the state of the documents that `made_of` tells."""

    shot = models.ForeignKey(Shot, models.CASCADE, related_name="thumbnails")
    colourway = models.CharField(max_length=60, blank=True, help_text="its key; none for as it is")
    made_of = models.CharField(max_length=64, help_text="tells the state of everything it shows")
    problem = models.TextField(blank=True, help_text="why there is no picture of that state")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shot", "colourway"], name="one_thumbnail_a_cell")]

    def __str__(self) -> str:
        return f"thumbnail of shot {self.shot_id} {self.colourway}"
