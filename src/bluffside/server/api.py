"""The API: every area's router under /api, each account's things under its own path."""

import logging
from typing import Any, cast

from django.db import DataError, IntegrityError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import HttpError, ValidationError
from ninja.parser import Parser
from ninja.renderers import JSONRenderer
from psycopg.errors import QueryCanceled
from psycopg_pool import PoolTimeout

from bluffside.core.messages.merge import BadTemplate
from bluffside.core.workflow.files import place_in_data
from bluffside.core.workflow.plain_data import BadFile, named, read_json, sound
from bluffside.core.workflow.program import GoesRoundTooOften
from bluffside.server.appointments.api import router as appointments
from bluffside.server.appointments.calendars_api import router as calendars
from bluffside.server.appointments.team_api import router as booking
from bluffside.server.capture.forms_api import router as forms
from bluffside.server.capture.incoming_api import router as incoming
from bluffside.server.capture.leads_api import router as leads
from bluffside.server.capture.pages_api import router as pages
from bluffside.server.deals.api import router as deals
from bluffside.server.deals.coming_api import router as deals_to_come
from bluffside.server.deals.contact_api import router as contact_deals
from bluffside.server.deals.list_api import router as listed_deals
from bluffside.server.deals.page_api import router as deal_page
from bluffside.server.deals.pipelines_api import router as pipelines
from bluffside.server.diary.api import router as diary
from bluffside.server.outside.api import mailbox, services
from bluffside.server.outside.api import router as outside
from bluffside.server.people.api import router as people
from bluffside.server.people.duplicates_api import router as duplicates
from bluffside.server.people.hiding import without_addresses
from bluffside.server.people.imports_api import router as imports
from bluffside.server.people.proposals_api import router as proposals
from bluffside.server.people.quick_api import router as quick
from bluffside.server.people.signed import without_own_pages
from bluffside.server.people.sorting_api import router as sorting
from bluffside.server.practice.access import RIGHTS, AccountRequest
from bluffside.server.practice.api import accounts, practice
from bluffside.server.practice.naming import NotAName
from bluffside.server.practice.refusals import BadFields
from bluffside.server.replies.api import router as replies
from bluffside.server.replies.assistant_api import router as replies_assistant
from bluffside.server.results.account_api import router as results
from bluffside.server.results.tables_api import router as result_tables
from bluffside.server.results.workflow_api import router as workflow_results
from bluffside.server.scores.api import router as scores
from bluffside.server.scores.learning_api import router as learned_scores
from bluffside.server.segments.api import router as segments
from bluffside.server.set_up.api import router as set_up
from bluffside.server.set_up.assistant_api import router as assistant
from bluffside.server.set_up.brand_api import router as brand
from bluffside.server.set_up.connections_api import router as connections
from bluffside.server.set_up.myself_api import router as myself
from bluffside.server.set_up.practice_api import live
from bluffside.server.set_up.practice_api import practice as practice_accounts
from bluffside.server.set_up.practice_people_api import router as practice_people
from bluffside.server.set_up.senders_api import router as senders
from bluffside.server.set_up.team_api import router as team
from bluffside.server.signing_in.session_api import router as session
from bluffside.server.workflows.api import router as workflows
from bluffside.server.workflows.attention_api import router as aside
from bluffside.server.workflows.enrolments_api import router as enrolments
from bluffside.server.workflows.files_api import router as mail_files
from bluffside.server.workflows.house_rules import router as house_rules
from bluffside.server.workflows.intakes_api import router as intakes
from bluffside.server.workflows.library_api import router as library
from bluffside.server.workflows.messages_api import router as messages
from bluffside.server.workflows.next_ones_api import router as next_ones
from bluffside.server.workflows.once_api import router as once
from bluffside.server.workflows.outlook_api import router as outlook
from bluffside.server.workflows.pictures_api import router as letter_pictures
from bluffside.server.workflows.rehearsal_api import router as rehearsal
from bluffside.server.workflows.replacing_api import router as replacing
from bluffside.server.workflows.showing_api import router as showings
from bluffside.server.workflows.stopping_api import router as sending
from bluffside.server.workflows.versions_api import router as versions
from bluffside.server.workflows.watch_api import router as watch
from bluffside.server.workflows.wordings_api import router as wording_counts

MOST_FAULTS = 10  # that are told at once

log = logging.getLogger("bluffside.api")


class EachKeyOnce(Parser):
    """A body in which a key stands twice says two things: it is refused."""

    def parse_body(self, request: HttpRequest) -> dict[str, Any]:
        try:
            data = read_json(request.body)
        except (ValueError, RecursionError) as error:
            raise HttpError(400, f"That cannot be read: {error}.") from None
        try:
            sound(data)
        except ValueError as error:
            raise HttpError(422, f"Something in it cannot be kept: {error}.") from None
        return cast(dict[str, Any], data)


class AsTheirRole(JSONRenderer):
    """Who may not see addresses reads none, wherever it stands; and who may not change people reads no address of a contact's
    own page: it is made to be written through."""

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> Any:
        role = getattr(request, "role", "")
        if role and "addresses" not in RIGHTS[role]:
            data = without_addresses(data, cast(AccountRequest, request).account.region)
        said = super().render(request, data, response_status=response_status)
        return without_own_pages(said) if role and "people" not in RIGHTS[role] else said


api = NinjaAPI(
    title="Bluffside", version="1", docs_url=None, openapi_url=None, parser=EachKeyOnce(), renderer=AsTheirRole()
)
api.add_router("/session", session)
api.add_router("/myself", myself)
api.add_router("/mailbox", mailbox)
api.add_router("/practice", practice)
api.add_router("/practice/", practice_accounts)
api.add_router("/practice/", practice_people)
ROUTERS = (
    accounts, people, quick, duplicates, imports, sorting, proposals, segments, pages, forms, incoming, leads, diary, workflows, versions, library, messages, once, replacing, next_ones, showings, wording_counts, letter_pictures, mail_files, rehearsal, intakes, watch, enrolments, outlook, aside,
    house_rules, outside, services, sending, set_up, live, team, senders, brand, connections, appointments, booking, deals,
    pipelines, contact_deals, listed_deals, deals_to_come, deal_page, scores, learned_scores,
    results, workflow_results, result_tables,
    calendars, replies, replies_assistant, assistant,
)  # fmt: skip
for router in ROUTERS:
    api.add_router("/accounts/{account}/", router)


@api.exception_handler(Http404)
def not_found(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"detail": "There is nothing here."}, status=404)


@api.exception_handler(ValidationError)
def malformed(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """What is wrong and where, as one sentence; nothing was changed."""
    data = read_json(request.body) if request.content_type == "application/json" and request.body else {}
    said = [(str(fault["loc"][-1]), _fault(fault, data)) for fault in error.errors[:MOST_FAULTS]]
    detail = "; ".join(words for _, words in said)
    return api.create_response(request, {"detail": detail, "faults": dict(said)}, status=422)


@api.exception_handler(HttpError)
def refused(request: HttpRequest, error: HttpError) -> HttpResponse:
    """In the words of who refused it: what a parser says, ninja hides behind words of its own."""
    first = error.__cause__ if isinstance(error.__cause__, HttpError) else error
    by_field = {"faults": first.faults} if isinstance(first, BadFields) else {}
    return api.create_response(request, {"detail": str(first)} | by_field, status=first.status_code)


@api.exception_handler(NotAName)
def not_a_name(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"detail": str(error)}, status=422)


@api.exception_handler(BadTemplate)
def not_rendered(request: HttpRequest, error: BadTemplate) -> HttpResponse:
    at = f" (line “{error.step}”)" if error.step else ""
    return api.create_response(request, {"detail": f"A message {error}{at}."}, status=422)


@api.exception_handler(BadFile)
def not_a_document(request: HttpRequest, error: BadFile) -> HttpResponse:
    return api.create_response(request, {"detail": "; ".join(error.faults[:MOST_FAULTS])}, status=422)


@api.exception_handler(GoesRoundTooOften)
def not_played(request: HttpRequest, error: Exception) -> HttpResponse:
    return api.create_response(request, {"detail": f"It cannot be played: {error}."}, status=422)


@api.exception_handler(IntegrityError)
def second(request: HttpRequest, error: IntegrityError) -> HttpResponse:
    """Two did the same at the same moment; what this one asked for is taken back."""
    log.warning("%s: %s", request.path, str(error).strip().split("\n")[0])
    said = "Somebody else did the same at this moment. Look how it is now, and try once more."
    return api.create_response(request, {"detail": said}, status=409)


@api.exception_handler(OperationalError)
def took_too_long(request: HttpRequest, error: OperationalError) -> HttpResponse:
    if not isinstance(error.__cause__, (QueryCanceled, PoolTimeout)):
        raise error
    log.warning("%s: %s", request.path, str(error).strip().split("\n")[0])
    said = "This would take too long, and was given up. Ask for less at once."
    if isinstance(error.__cause__, PoolTimeout):
        said = "The database is too busy at this moment, or does not answer; nothing was changed. Try it once more."
    return api.create_response(request, {"detail": said}, status=503)


@api.exception_handler(DataError)
@api.exception_handler(OverflowError)
def beyond(request: HttpRequest, error: Exception) -> HttpResponse:
    """What passes as text or number and is none that a database keeps. The change it was part of is taken back."""
    log.warning("%s: %s", request.path, str(error).strip().split("\n")[0])
    said = "Something in it cannot be kept: a character that no text has, or a number or date that is too far out."
    return api.create_response(request, {"detail": said}, status=422)


def _fault(fault: dict[str, Any], data: Any) -> str:
    inside = fault["loc"][1:] if fault["loc"][:1] in (("body",), ("query",), ("path",)) else fault["loc"]
    place = tuple(place_in_data(inside, data)) or inside[-1:]
    return f"{named(place)}{fault['msg'].removeprefix('Value error, ')}"
