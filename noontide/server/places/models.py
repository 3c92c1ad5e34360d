from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


class PlaceCode(models.Model):
    """A code of the user's own that stands for a place."""

    code = models.CharField(max_length=40)
    name = models.CharField(max_length=120, blank=True)
    latitude = models.FloatField()
    longitude = models.FloatField()
    elevation = models.FloatField(null=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["code"]
        constraints = [models.UniqueConstraint(fields=["owner", "code"], name="one_place_a_code")]
