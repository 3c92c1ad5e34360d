"""Addresses. Everything that is not the API is the front end, which finds its own way from there."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path, register_converter
from django.urls.converters import IntConverter
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView

from noontide.server.jobs.views import JobView
from noontide.server.parts_library.views import PartsView
from noontide.server.places.views import PlaceAtView, PlacesView, PlacesWithinView
from noontide.server.projects import views as projects
from noontide.server.weather_library import views as weather


class KeyConverter(IntConverter):
    """A number that the database can hold; a longer one is nothing that is there."""

    regex = "[0-9]{1,15}"


register_converter(KeyConverter, "key")


@ensure_csrf_cookie
def front_end(request: HttpRequest) -> HttpResponse:
    """The page that carries the workbench."""
    page = settings.WEB_BUILD / "index.html"
    if not page.is_file():
        return HttpResponse(
            "The front end is not built. Run 'make web' in the project's folder.", status=503, content_type="text/plain"
        )
    return HttpResponse(page.read_bytes(), headers={"Cache-Control": "no-cache"})


@ensure_csrf_cookie
def no_such_api(request: HttpRequest) -> HttpResponse:
    body = b'{"type": "/problems/not-found", "title": "There is nothing here", "status": 404}'
    return HttpResponse(body, status=404, content_type="application/problem+json")


urlpatterns = [
    path("api/projects", projects.ProjectsView.as_view()),
    path("api/projects/<key:project_id>", projects.ProjectView.as_view()),
    path("api/projects/<key:project_id>/restore", projects.ProjectRestoreView.as_view()),
    path("api/schemes/<key:scheme_id>", projects.SchemeView.as_view()),
    path("api/schemes/<key:scheme_id>/undo", projects.UndoView.as_view()),
    path("api/schemes/<key:scheme_id>/redo", projects.RedoView.as_view()),
    path("api/schemes/<key:scheme_id>/fork", projects.ForkView.as_view()),
    path("api/schemes/<key:scheme_id>/pin", projects.PinView.as_view()),
    path("api/schemes/<key:scheme_id>/restore", projects.SchemeRestoreView.as_view()),
    path("api/schemes/<key:scheme_id>/revisions", projects.RevisionsView.as_view()),
    path("api/schemes/<key:scheme_id>/working/<slug:key>", projects.WorkingView.as_view()),
    path("api/schemes/<key:scheme_id>/hourly", projects.HourlyView.as_view()),
    path("api/schemes/<key:scheme_id>/moment/<key:interval>", projects.MomentView.as_view()),
    path("api/schemes/<key:scheme_id>/orientation", projects.OrientationView.as_view()),
    path("api/schemes/<key:scheme_id>/voltages/<slug:subarray>", projects.VoltagesView.as_view()),
    path("api/estimate", projects.EstimateView.as_view()),
    path("api/quantities", projects.QuantitiesView.as_view()),
    path("api/design-schema", projects.DesignSchemaView.as_view()),
    path("api/parts", PartsView.as_view()),
    path("api/weather", weather.WeatherLibraryView.as_view()),
    path("api/weather/request", weather.WeatherRequestView.as_view()),
    path("api/weather/<slug:digest>", weather.WeatherYearView.as_view()),
    path("api/weather/<slug:digest>/file", weather.WeatherFileView.as_view()),
    path("api/jobs/<uuid:job_id>", JobView.as_view()),
    path("api/places", PlacesView.as_view()),
    path("api/places/at", PlaceAtView.as_view()),
    path("api/places/within", PlacesWithinView.as_view()),
    path("api/schema", SpectacularAPIView.as_view()),
    re_path(r"^api/", no_such_api),
    re_path(r"^", front_end),
]
