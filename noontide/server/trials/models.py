import uuid

from django.db import models

from noontide.server.accounts.visibility import owned_through


class TrialSet(models.Model):
    """A study over the design that a scheme had: a draft at first, then its runs.

    It holds a copy of the document, so that what was run can be run again, whatever has become of the scheme.
    """

    class State(models.TextChoices):
        DRAFT = "draft"
        RUNNING = "running"
        PAUSED = "paused"
        CANCELLED = "cancelled"
        DONE = "done"
        FAILED = "failed"

    uid = models.UUIDField(default=uuid.uuid4, unique=True)
    scheme = models.ForeignKey("projects.Scheme", on_delete=models.CASCADE, related_name="trials")
    name = models.CharField(max_length=120, blank=True)
    study = models.JSONField(null=True)  # null where nothing is loose
    document = models.JSONField()
    revision = models.IntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.DRAFT)
    message = models.CharField(max_length=300, blank=True)
    job = models.UUIDField(null=True)
    total = models.IntegerField(default=0)
    done = models.IntegerField(default=0)
    failed = models.IntegerField(default=0)
    seconds = models.FloatField(default=0.0)  # that it has run for
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = owned_through("scheme__project__owner").as_manager()

    class Meta:
        ordering = ["-id"]


class TrialChunk(models.Model):
    """Runs of a set that came together, by columns."""

    set = models.ForeignKey(TrialSet, on_delete=models.CASCADE, related_name="chunks")
    body = models.BinaryField()

    class Meta:
        ordering = ["id"]
