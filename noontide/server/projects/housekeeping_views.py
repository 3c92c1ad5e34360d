"""What nobody uses, over HTTP."""

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.projects.housekeeping import (
    Freed,
    Unused,
    delete_interval_data,
    delete_picture,
    delete_weather,
    unused_of,
)


class UnusedView(APIView):
    @extend_schema(responses=Unused, operation_id="unused")
    def get(self, request: Request) -> Response:
        """Weather years, pictures and interval data that no design uses, with what deleting them would free."""
        return Response(unused_of(request.user).model_dump(mode="json"))


class UnusedWeatherView(APIView):
    @extend_schema(responses={200: Freed}, operation_id="delete_weather")
    def delete(self, request: Request, digest: str) -> Response:
        """Delete a weather year that no design uses."""
        return Response(delete_weather(request.user, digest).model_dump(mode="json"))


class UnusedUseView(APIView):
    @extend_schema(responses={200: Freed}, operation_id="delete_use")
    def delete(self, request: Request, digest: str) -> Response:
        """Delete interval data that no design uses."""
        return Response(delete_interval_data(request.user, digest).model_dump(mode="json"))


class UnusedPictureView(APIView):
    @extend_schema(responses={200: Freed}, operation_id="delete_picture")
    def delete(self, request: Request, digest: str) -> Response:
        """Delete a picture that no design uses."""
        return Response(delete_picture(digest).model_dump(mode="json"))
