from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.db import models

LOCAL = "local"


class User(AbstractUser):
    """Who edits. Everything that is kept has an owner, and a look-up shows what is visible to the one who asks."""


class Habits(models.Model):
    """How a person reads numbers, units and dates, on the screen and on paper."""

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    numbers = models.CharField(max_length=12, blank=True)  # empty: as the language has them
    units = models.CharField(max_length=12, default="metric")
    dates = models.CharField(max_length=20, blank=True)  # empty: with the month in words
    currency = models.CharField(max_length=3, blank=True)  # of new projects; empty: EUR


def local_user() -> User:
    """The one user of an installation without a login, made when it is first needed."""
    # Asked for by every request: get_or_create alone would open a transaction each time.
    user = User.objects.filter(username=LOCAL).first()
    return user or User.objects.get_or_create(username=LOCAL, defaults={"first_name": "Local user", "password": "!"})[0]
