"""The API: every area's router under /api, each account's things under its own path."""

import logging
from typing import Any

from django.db import DataError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from bluffside.server.capture.api import router as capture
from bluffside.server.diary.api import router as diary
from bluffside.server.outside.api import router as outside
from bluffside.server.people.api import router as people
from bluffside.server.people.imports_api import router as imports
from bluffside.server.people.sorting_api import router as sorting
from bluffside.server.practice.api import accounts, session
from bluffside.server.practice.naming import NotAName
from bluffside.server.segments.api import router as segments
from bluffside.server.workflows.api import router as workflows
from bluffside.server.workflows.aside import router as aside
from bluffside.server.workflows.enrolments_api import router as enrolments
from bluffside.server.workflows.house_rules import router as house_rules
from bluffside.server.workflows.intakes_api import router as intakes
from bluffside.server.workflows.library_api import router as library
from bluffside.server.workflows.outlook_api import router as outlook
from bluffside.server.workflows.rehearsal_api import router as rehearsal
from bluffside.server.workflows.versions_api import router as versions
from bluffside.server.workflows.watch_api import router as watch

log = logging.getLogger("bluffside.api")
api = NinjaAPI(title="Bluffside", version="1", docs_url=None, openapi_url=None)
api.add_router("/session", session)
ROUTERS = (
    accounts, people, imports, sorting, segments, capture, diary, workflows, versions, library, rehearsal, intakes, watch, enrolments, outlook, aside,
    house_rules, outside,
)  # fmt: skip
for router in ROUTERS:
    api.add_router("/accounts/{account}/", router)


@api.exception_handler(Http404)
def not_found(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"detail": "There is nothing here."}, status=404)


@api.exception_handler(ValidationError)
def malformed(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """What is wrong and where, as one sentence; nothing was changed."""
    return api.create_response(request, {"detail": "; ".join(map(_fault, error.errors))}, status=422)


@api.exception_handler(NotAName)
def not_a_name(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"detail": str(error)}, status=422)


@api.exception_handler(DataError)
@api.exception_handler(OverflowError)
def beyond(request: HttpRequest, error: Exception) -> HttpResponse:
    """What passes as text or number and is none that a database keeps. The change it was part of is taken back."""
    log.warning("%s: %s", request.path, str(error).strip().split("\n")[0])
    said = "Something in it cannot be kept: a character that no text has, or a number or date that is too far out."
    return api.create_response(request, {"detail": said}, status=422)


def _fault(fault: dict[str, Any]) -> str:
    place = ".".join(str(part) for part in fault["loc"] if part not in ("body", "query", "path"))
    return f"{place}: {fault['msg']}"
