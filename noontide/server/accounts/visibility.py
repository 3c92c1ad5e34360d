"""What a user may see."""

from typing import Self

from django.db import models


class OwnedQuerySet(models.QuerySet):
    """Rows with an owner, directly or through another row."""

    owner_path = "owner"

    def visible_to(self, user: object) -> Self:
        """The rows that belong to a user."""
        return self.filter(**{self.owner_path: user})


def owned_through(path: str) -> type[OwnedQuerySet]:
    """A query set of rows whose owner is that of another row."""
    return type("OwnedQuerySet", (OwnedQuerySet,), {"owner_path": path})
