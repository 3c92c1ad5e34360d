from django.contrib.auth.models import AbstractUser

LOCAL = "local"


class User(AbstractUser):
    """Who edits. Everything that is kept has an owner, and a look-up shows what is visible to the one who asks."""


def local_user() -> User:
    """The one user of an installation without a login, made when it is first needed."""
    # Asked for by every request: get_or_create alone would open a transaction each time.
    user = User.objects.filter(username=LOCAL).first()
    return user or User.objects.get_or_create(username=LOCAL, defaults={"first_name": "Local user", "password": "!"})[0]
