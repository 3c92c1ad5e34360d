"""Addresses. Everything that is not the API is the front end, which finds its own way from there."""

from importlib import import_module

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path, register_converter
from django.urls.converters import IntConverter, SlugConverter
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView

from noontide.server.accounts.habits import HabitsView
from noontide.server.demand_library.views import UseLibraryView, UseReadingView
from noontide.server.exchange import sharing
from noontide.server.exchange import views as exchange
from noontide.server.jobs.views import JobView
from noontide.server.parts_library.views import (
    CurveFitView,
    InverterPageView,
    ModulePageView,
    OwnPartView,
    PartsExportView,
    PartsImportView,
    PartsSchemaView,
    PartsView,
    PreferencesView,
    TypedPartView,
)
from noontide.server.places.codes import PlaceCodesView
from noontide.server.places.horizon_view import TerrainHeightView, TerrainHorizonView
from noontide.server.places.pictures import PicturesView, PictureView
from noontide.server.places.region import RegionLayerView
from noontide.server.places.views import PlaceAtView, PlacesView, PlacesWithinView
from noontide.server.problems import as_response, bad_request, server_error
from noontide.server.projects import after_meter_views as after_meter
from noontide.server.projects import circuit_views as circuits
from noontide.server.projects import project_views as projects
from noontide.server.projects import scene_views as scenes
from noontide.server.projects import scheme_views as schemes
from noontide.server.projects.events import events
from noontide.server.projects.housekeeping_views import UnusedPictureView, UnusedUseView, UnusedView, UnusedWeatherView
from noontide.server.projects.scheme_jobs import SCHEME_KINDS, job_view
from noontide.server.recognising import RecogniseView
from noontide.server.reports import files as report_files
from noontide.server.reports import views as reports
from noontide.server.trials import views as trials
from noontide.server.weather_library import views as weather
from noontide.server.weather_library.elevation_view import PlaceElevationView


class KeyConverter(IntConverter):
    """A number that the database can hold; a longer one is nothing that is there."""

    regex = "[0-9]{1,15}"


class DigestConverter(SlugConverter):
    """A digest; the schema tells it from the words that stand in the same place."""


register_converter(KeyConverter, "key")
register_converter(DigestConverter, "digest")


@ensure_csrf_cookie
def front_end(request: HttpRequest) -> HttpResponse:
    """The page that carries the workbench."""
    page = settings.WEB_BUILD / "index.html"
    if not page.is_file():
        return HttpResponse(
            "The front end is not built. Run 'make web' in the project's folder.", status=503, content_type="text/plain"
        )
    nonce = getattr(request, "style_nonce", "")
    content = page.read_text(encoding="utf-8").replace("__STYLE_NONCE__", nonce)
    return HttpResponse(content, headers={"Cache-Control": "no-cache"})


@ensure_csrf_cookie
def no_such_api(request: HttpRequest) -> HttpResponse:
    """An address of the API that is none."""
    return as_response(404, "not-found", "Not found", "There is nothing at this address; see /api/schema.")


handler400 = bad_request
handler500 = server_error

for module in settings.JOB_MODULES:
    import_module(module)

urlpatterns = [
    path("api/habits", HabitsView.as_view()),
    path("api/files/recognise", RecogniseView.as_view()),
    path("api/projects", projects.ProjectsView.as_view()),
    path("api/projects/<key:project_id>", projects.ProjectView.as_view()),
    path("api/projects/<key:project_id>/restore", projects.ProjectRestoreView.as_view()),
    path("api/projects/<key:project_id>/file", exchange.ProjectFileView.as_view()),
    path("api/projects/file", exchange.ProjectFilesView.as_view()),
    path("api/schemes/<key:scheme_id>/shared", sharing.SharedViewsView.as_view()),
    path("api/shared/<uuid:key>", sharing.SharedViewView.as_view()),
    path("api/shared/<str:token>/view", sharing.ReadViewView.as_view()),
    path("api/shared/<str:token>/year", sharing.ReadViewYearView.as_view()),
    path("api/shared/<str:token>/report", sharing.ReadViewReportView.as_view()),
    path("api/schemes/<key:scheme_id>/take-away", exchange.TakeAwayView.as_view()),
    path("api/schemes/<key:scheme_id>/document", exchange.SchemeDocumentView.as_view()),
    path("api/schemes/<key:scheme_id>/hours", exchange.HoursFileView.as_view()),
    path("api/schemes/<key:scheme_id>/workbook", exchange.WorkbookView.as_view()),
    path("api/schemes/<key:scheme_id>", schemes.SchemeView.as_view()),
    path("api/schemes/<key:scheme_id>/undo", schemes.UndoView.as_view()),
    path("api/schemes/<key:scheme_id>/redo", schemes.RedoView.as_view()),
    path("api/schemes/<key:scheme_id>/fork", schemes.ForkView.as_view()),
    path("api/schemes/<key:scheme_id>/pin", schemes.PinView.as_view()),
    path("api/schemes/<key:scheme_id>/restore", schemes.SchemeRestoreView.as_view()),
    path("api/schemes/<key:scheme_id>/revisions", schemes.RevisionsView.as_view()),
    path("api/schemes/<key:scheme_id>/working/<slug:key>", schemes.WorkingView.as_view()),
    path("api/schemes/<key:scheme_id>/hourly", schemes.HourlyView.as_view()),
    path("api/schemes/<key:scheme_id>/moment/<key:interval>", schemes.MomentView.as_view()),
    path("api/schemes/<key:scheme_id>/sun-paths", schemes.SunPathsView.as_view()),
    path("api/schemes/<key:scheme_id>/compare-weather", schemes.CompareWeatherView.as_view()),
    path("api/schemes/<key:scheme_id>/obstacles", schemes.ObstaclesView.as_view()),
    path("api/schemes/<key:scheme_id>/horizon-effect", schemes.HorizonEffectView.as_view()),
    path("api/schemes/<key:scheme_id>/outline-access", schemes.OutlineAccessView.as_view()),
    path("api/schemes/<key:scheme_id>/planes/<key:day>", schemes.PlanesView.as_view()),
    path("api/schemes/<key:scheme_id>/orientation", schemes.OrientationView.as_view()),
    path("api/schemes/<key:scheme_id>/months", schemes.MonthsView.as_view()),
    path("api/schemes/<key:scheme_id>/curve/<slug:subarray>/<key:interval>", circuits.TrackerCurveView.as_view()),
    path("api/schemes/<key:scheme_id>/find-strings", circuits.FindStringsView.as_view()),
    path("api/schemes/<key:scheme_id>/voltages/<slug:subarray>", circuits.VoltagesView.as_view()),
    path("api/schemes/<key:scheme_id>/preview", circuits.PreviewView.as_view()),
    path("api/schemes/<key:scheme_id>/wiring", circuits.WiringView.as_view()),
    path("api/schemes/<key:scheme_id>/diagram", circuits.DiagramView.as_view()),
    path("api/reports", reports.ReportsView.as_view()),
    path("api/reports/letterhead", reports.LetterheadView.as_view()),
    path("api/reports/letterhead/logo", reports.LogoView.as_view()),
    path("api/reports/<uuid:key>", reports.EditionView.as_view()),
    path("api/schemes/<key:scheme_id>/report", reports.ReportView.as_view()),
    path("api/schemes/<key:scheme_id>/jobs/report", report_files.ReportJobView.as_view()),
    path("api/report-files/<str:name>", report_files.ReportFileOfJobView.as_view()),
    path("api/schemes/<key:scheme_id>/report-file", reports.ReportFileView.as_view()),
    path("api/schemes/<key:scheme_id>/string-sheet", circuits.StringSheetView.as_view()),
    path("api/schemes/<key:scheme_id>/off-grid-sheet", circuits.OffGridSheetView.as_view()),
    path("api/schemes/<key:scheme_id>/bill", circuits.BillView.as_view()),
    path("api/schemes/<key:scheme_id>/scene", scenes.SceneView.as_view()),
    path("api/schemes/<key:scheme_id>/shade", scenes.ShadeView.as_view()),
    path("api/schemes/<key:scheme_id>/shade-table", scenes.ShadeTableView.as_view()),
    path("api/schemes/<key:scheme_id>/light-takers/<slug:surface>/<slug:module>", scenes.LightTakersView.as_view()),
    path("api/schemes/<key:scheme_id>/room/<str:surface>", scenes.RoomView.as_view()),
    path("api/schemes/<key:scheme_id>/scene-reading", scenes.SceneReadingView.as_view()),
    path("api/schemes/<key:scheme_id>/plan/<slug:kind>", scenes.SceneFileView.as_view()),
    path("api/schemes/<key:scheme_id>/demand", after_meter.DemandView.as_view()),
    path("api/schemes/<key:scheme_id>/storage", after_meter.StorageView.as_view()),
    path("api/schemes/<key:scheme_id>/storage/powers", after_meter.StoragePowersView.as_view()),
    path("api/schemes/<key:scheme_id>/storage/off-grid", after_meter.OffGridView.as_view()),
    path("api/schemes/<key:scheme_id>/storage/day", after_meter.StorageDayView.as_view()),
    path("api/schemes/<key:scheme_id>/money", after_meter.MoneyView.as_view()),
    path("api/schemes/<key:scheme_id>/acts/<slug:verb>", after_meter.ActView.as_view()),
    path("api/schemes/<key:scheme_id>/trials", trials.TrialsView.as_view()),
    path("api/schemes/<key:scheme_id>/trials/loosen", trials.LoosenView.as_view()),
    path("api/trials/<key:trial_id>", trials.TrialView.as_view()),
    path("api/trials/<key:trial_id>/start", trials.StartView.as_view()),
    path("api/trials/<key:trial_id>/again", trials.AgainView.as_view()),
    path("api/trials/<key:trial_id>/pause", trials.PauseView.as_view()),
    path("api/trials/<key:trial_id>/cancel", trials.CancelView.as_view()),
    path("api/trials/<key:trial_id>/runs", trials.RunsView.as_view()),
    path("api/trials/<key:trial_id>/runs/<key:number>", trials.RunPlaceView.as_view()),
    path("api/trials/<key:trial_id>/map", trials.MapView.as_view()),
    path("api/trials/<key:trial_id>/effects", trials.EffectsView.as_view()),
    path("api/trials/<key:trial_id>/front", trials.FrontView.as_view()),
    path("api/trials/<key:trial_id>/good", trials.GoodView.as_view()),
    path("api/trials/<key:trial_id>/adopt", trials.AdoptView.as_view()),
    path("api/trials/<key:trial_id>/file", trials.TrialFileView.as_view()),
    path("api/schemes/<key:scheme_id>/events", events),
    path("api/demand-kinds", after_meter.DemandKindsView.as_view()),
    path("api/use", UseLibraryView.as_view()),
    path("api/use/reading", UseReadingView.as_view()),
    path("api/tariffs", after_meter.TariffsView.as_view()),
    path("api/acts", after_meter.VerbsView.as_view()),
    path("api/questions", after_meter.QuestionsView.as_view()),
    path("api/estimate", projects.EstimateView.as_view()),
    path("api/figures", projects.FiguresView.as_view()),
    path("api/quantities", projects.QuantitiesView.as_view()),
    path("api/design-schema", projects.DesignSchemaView.as_view()),
    path("api/parts", PartsView.as_view()),
    path("api/parts/import", PartsImportView.as_view()),
    path("api/parts/export", PartsExportView.as_view()),
    path("api/parts/schema", PartsSchemaView.as_view()),
    path("api/parts/preferences", PreferencesView.as_view()),
    path("api/parts/modules/<slug:key>/page", ModulePageView.as_view()),
    path("api/parts/modules/<slug:key>/fit", CurveFitView.as_view()),
    path("api/parts/inverters/<slug:key>/page", InverterPageView.as_view()),
    path("api/parts/<slug:kind>", TypedPartView.as_view()),
    path("api/parts/<slug:kind>/<slug:key>", OwnPartView.as_view()),
    path("api/weather", weather.WeatherLibraryView.as_view()),
    path("api/weather/synthesise", weather.WeatherSynthesisView.as_view()),
    path("api/weather/reading", weather.WeatherReadingView.as_view()),
    path("api/weather/request", weather.WeatherRequestView.as_view()),
    path("api/weather/region", weather.WeatherRegionView.as_view()),
    path("api/weather/sources", weather.WeatherSourcesView.as_view()),
    path("api/weather/<digest:digest>", weather.WeatherYearView.as_view()),
    path("api/weather/<digest:digest>/quality", weather.WeatherQualityView.as_view()),
    path("api/weather/<digest:digest>/working/<slug:key>", weather.WeatherWorkingView.as_view()),
    path("api/weather/<digest:digest>/file", weather.WeatherFileView.as_view()),
    *(path(f"api/schemes/<key:scheme_id>/jobs/{kind.name}", job_view(kind).as_view()) for kind in SCHEME_KINDS.values()),
    path("api/jobs/<uuid:job_id>", JobView.as_view()),
    path("api/places", PlacesView.as_view()),
    path("api/places/at", PlaceAtView.as_view()),
    path("api/places/elevation", PlaceElevationView.as_view()),
    path("api/places/codes", PlaceCodesView.as_view()),
    path("api/places/horizon", TerrainHorizonView.as_view()),
    path("api/places/height", TerrainHeightView.as_view()),
    path("api/places/region", RegionLayerView.as_view()),
    path("api/pictures", PicturesView.as_view()),
    path("api/pictures/<digest:digest>", PictureView.as_view()),
    path("api/unused", UnusedView.as_view()),
    path("api/unused/weather/<digest:digest>", UnusedWeatherView.as_view()),
    path("api/unused/use/<digest:digest>", UnusedUseView.as_view()),
    path("api/unused/pictures/<digest:digest>", UnusedPictureView.as_view()),
    path("api/places/within", PlacesWithinView.as_view()),
    path("api/schema", SpectacularAPIView.as_view()),
    re_path(r"^api/", no_such_api),
    re_path(r"^", front_end),
]
