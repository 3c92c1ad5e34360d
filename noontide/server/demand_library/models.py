from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


class MeasuredUse(models.Model):
    """Interval data of a meter: the uploaded file by hash, how it was read, and its values by digest."""

    digest = models.CharField(max_length=64, primary_key=True)  # of the values and their place in time
    content_hash = models.CharField(max_length=64, db_index=True)
    file_name = models.CharField(max_length=200)
    title = models.CharField(max_length=200)
    first_day = models.CharField(max_length=10)
    step = models.IntegerField()
    days = models.IntegerField()
    energy = models.FloatField()
    peak = models.FloatField()
    reading = models.JSONField(default=dict)
    notes = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
