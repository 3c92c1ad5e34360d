from django.db import models


class Project(models.Model):
    """One site and its customer; holds schemes."""

    name = models.CharField(max_length=120)
    customer = models.CharField(max_length=120, blank=True)
    note = models.CharField(max_length=300, blank=True)
    pinned = models.ForeignKey("Scheme", null=True, on_delete=models.SET_NULL, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)
    deleted = models.DateTimeField(null=True, db_index=True)

    class Meta:
        ordering = ["-changed"]


class Scheme(models.Model):
    """One alternative design of a project. What it is stands in the revision at its head."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="schemes")
    letter = models.CharField(max_length=3)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    deleted = models.DateTimeField(null=True, db_index=True)

    class Meta:
        ordering = ["created", "id"]


class Revision(models.Model):
    """A state of a scheme's document. Undo and redo move the head along parents and children; nothing is rewritten."""

    scheme = models.ForeignKey(Scheme, on_delete=models.CASCADE, related_name="revisions")
    number = models.IntegerField()
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="children")
    document = models.JSONField()
    patch = models.JSONField(default=dict)  # what made it from its parent
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["scheme", "number"], name="one_revision_a_number")]
