from datetime import datetime
from typing import Any
from uuid import UUID

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.server.jobs.models import Job
from noontide.server.jobs.running import cancel


class JobAnswer(BaseModel):
    """A job as the API shows it."""

    model_config = ConfigDict(from_attributes=True)

    id: UUID
    kind: str
    state: str
    progress: float
    message: str
    result: dict[str, Any] | None
    created: datetime


def job_answer(job: Job) -> dict:
    return JobAnswer.model_validate(job).model_dump(mode="json")


class JobView(APIView):
    @extend_schema(responses=JobAnswer, operation_id="job")
    def get(self, request: Request, job_id: UUID) -> Response:
        """State, progress and result of a job."""
        return Response(job_answer(get_object_or_404(Job.objects.visible_to(request.user), pk=job_id)))

    @extend_schema(responses={200: JobAnswer}, operation_id="cancel_job")
    def delete(self, request: Request, job_id: UUID) -> Response:
        """Cancel a job."""
        return Response(job_answer(cancel(get_object_or_404(Job.objects.visible_to(request.user), pk=job_id))))
