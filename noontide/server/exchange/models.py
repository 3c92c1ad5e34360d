import secrets
import uuid

from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


def new_token() -> str:
    """256 bits by chance: nobody finds an address by trying."""
    return secrets.token_urlsafe(32)


class SharedView(models.Model):
    """A revision that whoever has its address may read.

    It holds a copy of the document: the edits of one gesture change a revision after it has been made, and an undo must not change
    what somebody else is looking at.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    token = models.CharField(max_length=64, unique=True, default=new_token)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    scheme = models.ForeignKey("projects.Scheme", on_delete=models.CASCADE, related_name="+")
    project_name = models.CharField(max_length=120)
    customer = models.CharField(max_length=120, blank=True)
    scheme_title = models.CharField(max_length=200)
    revision = models.IntegerField()
    document = models.JSONField()
    edition = models.CharField(max_length=40)
    created = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
