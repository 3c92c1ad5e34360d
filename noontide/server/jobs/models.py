import uuid

from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


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
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
