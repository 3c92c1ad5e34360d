from uuid import uuid4

from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet, owned_through


class Project(models.Model):
    """One site and its customer; holds schemes."""

    uid = models.UUIDField(default=uuid4, unique=True)  # the same wherever the project travels
    copy_of = models.UUIDField(null=True)  # the project that it was brought in beside
    name = models.CharField(max_length=120)
    customer = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=300, blank=True)
    pinned = models.ForeignKey("Scheme", null=True, on_delete=models.SET_NULL, related_name="+")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)
    deleted = models.DateTimeField(null=True, db_index=True)

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-changed"]


class Scheme(models.Model):
    """One alternative design of a project. What it is stands in the revision at its head."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="schemes")
    letter = models.CharField(max_length=3)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    deleted = models.DateTimeField(null=True, db_index=True)

    objects = owned_through("project__owner").as_manager()

    class Meta:
        # By number, not by the clock: a clock that is set back must not change the order of A, B, C.
        ordering = ["id"]


class Revision(models.Model):
    """A state of a scheme's document. Undo and redo move the head along parents and children; nothing is rewritten.

    The edits of one gesture are one revision: its number rises with each of them, from `first_number` on.
    """

    scheme = models.ForeignKey(Scheme, on_delete=models.CASCADE, related_name="revisions")
    number = models.IntegerField()
    first_number = models.IntegerField(default=0)
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="children")
    document = models.JSONField(null=True)  # null where the parent's and the patch make it
    patch = models.JSONField(default=dict)  # what made it from its parent
    is_difference = models.BooleanField(default=False)  # whether the patch makes exactly this document of the parent's
    gesture = models.CharField(max_length=36, blank=True)
    evaluation_key = models.CharField(max_length=64, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["scheme", "number"], name="one_revision_a_number")]


class StoredEvaluation(models.Model):
    """The figures and findings of a design, by the key of all that they depend on: small, and there after a restart."""

    key = models.CharField(max_length=64, primary_key=True)
    body = models.JSONField()
    summary = models.JSONField()  # what a card of the first page shows
    used = models.DateTimeField(auto_now=True, db_index=True)
