from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


class OwnPart(models.Model):
    """A datasheet of the user's own, beside those that ship."""

    kind = models.CharField(max_length=40)  # of the core's catalogue
    key = models.CharField(max_length=64)
    datasheet = models.JSONField()
    changed = models.DateTimeField(auto_now=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["kind", "key"]
        constraints = [models.UniqueConstraint(fields=["owner", "kind", "key"], name="one_datasheet_a_part")]


class PartsPreference(models.Model):
    """A named set of preferred parts, with rules of its own where it has them."""

    name = models.CharField(max_length=80)
    body = models.JSONField()
    changed = models.DateTimeField(auto_now=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_set_a_name")]
