"""What the data folder keeps that no design uses, and deleting it: weather years with their files, pictures of the map."""

from collections.abc import Iterator
from pathlib import Path

from django.apps import apps
from django.db import transaction
from django.db.models import Q, QuerySet
from pydantic import BaseModel, Field

from noontide.server.accounts.models import User
from noontide.server.demand_library.models import MeasuredUse
from noontide.server.demand_library.storing import delete_use
from noontide.server.demand_library.storing import files_of as use_files
from noontide.server.places.pictures import kept_pictures, path_of
from noontide.server.problems import Problem
from noontide.server.projects.models import Revision
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import delete_year, files_of


class UnusedItem(BaseModel):
    digest: str
    title: str
    bytes: int = Field(description="that deleting it would free")


class Unused(BaseModel):
    """What no revision of any design names."""

    weather: list[UnusedItem]
    pictures: list[UnusedItem]
    use: list[UnusedItem] = Field(description="interval data of demand")
    bytes: int = Field(description="of all of it")


class Freed(BaseModel):
    bytes: int


def unused_of(user: User) -> Unused:
    """Weather years of a user and pictures that no revision of any design names, deleted designs that can be restored included."""
    years = [year for year in WeatherYear.objects.visible_to(user) if not is_used(year.digest)]
    weather = [UnusedItem(digest=year.digest, title=year.title, bytes=sum(map(_size, files_of(year)))) for year in years]
    pictures = [
        UnusedItem(digest=p.name, title=f"Picture {p.name[:8]}", bytes=_size(p)) for p in kept_pictures() if not is_used(p.name)
    ]
    rows = [row for row in MeasuredUse.objects.visible_to(user) if not is_used(row.digest)]
    use = [UnusedItem(digest=row.digest, title=row.title, bytes=sum(map(_size, use_files(row)))) for row in rows]
    return Unused(weather=weather, pictures=pictures, use=use, bytes=sum(item.bytes for item in (*weather, *pictures, *use)))


def is_used(digest: str) -> bool:
    """Whether a design names it: any revision of a scheme, since an undo must find what it needs, and designs that others keep."""
    return any(rows.exists() for rows in _naming(digest))


def _naming(digest: str) -> Iterator[QuerySet]:
    """What names a digest: revisions, and every other table that keeps designs of schemes, such as trials and shared views, in a field `document`."""
    yield Revision.objects.filter(Q(document__icontains=digest) | Q(patch__icontains=digest))
    for model in apps.get_models():
        names = {field.name for field in model._meta.get_fields()}
        if model is not Revision and {"document", "scheme"} <= names:
            yield model._default_manager.filter(document__icontains=digest)


@transaction.atomic
def delete_weather(user: User, digest: str) -> Freed:
    """Delete a weather year that no design uses, and its file where no other year was read from it.

    Raises
    ------
    Problem
        If there is none, or a design uses it; nothing is deleted then.
    """
    year = WeatherYear.objects.visible_to(user).filter(pk=digest).first()
    if year is None:
        raise Problem(404, "not-found", "No such weather year", "It is not in the library.")
    _refuse_used(digest, year.title)
    return Freed(bytes=delete_year(year))


@transaction.atomic
def delete_interval_data(user: User, digest: str) -> Freed:
    """Delete interval data that no design uses.

    Raises
    ------
    Problem
        If there are none, or a design uses them; nothing is deleted then.
    """
    row = MeasuredUse.objects.visible_to(user).filter(pk=digest).first()
    if row is None:
        raise Problem(404, "not-found", "No such interval data", "They are not in the library.")
    _refuse_used(digest, row.title)
    return Freed(bytes=delete_use(row))


def delete_picture(digest: str) -> Freed:
    """Delete a picture that no design uses.

    Raises
    ------
    Problem
        If there is none, or a design uses it.
    """
    path = path_of(digest)
    if len(digest) != 64 or not path.is_file():
        raise Problem(404, "not-found", "No such picture", "It is deleted already.")
    _refuse_used(digest, "The picture")
    size = _size(path)
    path.unlink()
    return Freed(bytes=size)


def _refuse_used(digest: str, title: str) -> None:
    for rows in _naming(digest):
        by = rows.select_related("scheme__project").first()
        if by is None:
            continue
        where = f"scheme {by.scheme.letter} of {by.scheme.project.name}"
        how = "now or in an earlier revision" if isinstance(by, Revision) else "in its trials or in what was shared of it"
        raise Problem(409, "in-use", "It is in use", f"{title} is used by {where}, {how}. Nothing was deleted.")


def _size(path: Path) -> int:
    return path.stat().st_size if path.is_file() else 0
