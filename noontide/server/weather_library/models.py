from django.db import models


class WeatherYear(models.Model):
    """A weather year of the library; its file is kept once, by the hash of its content."""

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
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]
