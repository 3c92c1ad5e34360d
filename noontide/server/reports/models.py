import uuid

from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


class OwnEdition(models.Model):
    """Pages that somebody has chosen and keeps under a name."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    title = models.CharField(max_length=80)
    pages = models.JSONField()
    paper = models.CharField(max_length=8)

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["title", "pk"]


class Letterhead(models.Model):
    """Who somebody's reports are from."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    sender = models.CharField(max_length=120, blank=True)
    contact = models.CharField(max_length=200, blank=True)
    closing = models.TextField(max_length=2000, blank=True)
    colour = models.CharField(max_length=7, blank=True)
    language = models.CharField(max_length=8, default="en")
    logo = models.BinaryField(default=bytes, blank=True)  # PNG
    logo_shape = models.FloatField(default=1.0)  # width over height

    objects = OwnedQuerySet.as_manager()
