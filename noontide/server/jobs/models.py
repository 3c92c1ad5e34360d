import uuid

from django.db import models


class Job(models.Model):
    """Work that takes longer than an answer may."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"
        INTERRUPTED = "interrupted"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    kind = models.CharField(max_length=40)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    progress = models.FloatField(default=0.0)
    message = models.CharField(max_length=300, blank=True)
    parameters = models.JSONField(default=dict)
    result = models.JSONField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created"]
