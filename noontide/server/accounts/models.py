from django.contrib.auth.models import AbstractUser

LOCAL = "local"


class User(AbstractUser):
    """Who edits. Everything that is kept has an owner, and a look-up shows what is visible to the one who asks."""


def local_user() -> User:
    """The one user of an installation without a login, made when it is first needed."""
    user, _ = User.objects.get_or_create(username=LOCAL, defaults={"first_name": "Local user", "password": "!"})
    return user
