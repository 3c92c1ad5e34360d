from django.conf import settings
from django.db import models

from noontide.server.accounts.visibility import OwnedQuerySet


class WeatherYear(models.Model):
    """A weather year of the library: the uploaded file by hash, how it was read, what was done to it, and its arrays by digest."""

    digest = models.CharField(max_length=64, primary_key=True)  # of all that a simulation depends on
    content_hash = models.CharField(max_length=64, db_index=True)
    file_name = models.CharField(max_length=200)
    title = models.CharField(max_length=200)
    source = models.CharField(max_length=300, blank=True)
    origin = models.CharField(max_length=20, default="file")  # file or service
    latitude = models.FloatField()
    longitude = models.FloatField()
    elevation = models.FloatField()
    step = models.IntegerField()
    utc_offset = models.FloatField()
    year = models.IntegerField()
    is_typical = models.BooleanField()
    notes = models.JSONField(default=list)
    summary = models.JSONField()
    reading = models.JSONField(default=dict)  # how the file was understood
    steps = models.JSONField(default=list)  # what was done to the values since
    created = models.DateTimeField(auto_now_add=True)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="+")

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
