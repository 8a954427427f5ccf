"""Watching who is inside and where, handling them, letting held messages go; and why somebody did not get something."""

from datetime import datetime, timedelta
from typing import Any, Literal

from django.db.models import CharField, Count, F, Func, Q, QuerySet
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.engine.state import FINISHED
from bluffside.core.phone_numbers import values_as_written
from bluffside.core.workflow.document import walk
from bluffside.server.events.models import Event
from bluffside.server.messaging import services as messaging
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.outbox import HELD_BACK
from bluffside.server.people.api import contact_of
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.throttled_cache import lately
from bluffside.server.workflows import handling, signals
from bluffside.server.workflows.api import local_moment, workflow_of
from bluffside.server.workflows.attention_api import AsideMessage, message_out
from bluffside.server.workflows.enrolments_api import EnrolmentRow, enrolment_row
from bluffside.server.workflows.held import let_go
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, IntakePerson, Workflow
from bluffside.server.workflows.versions import published_document
from bluffside.server.workflows.why_not import because

router = Router(tags=["watch"], auth=InAccount())
SHOWN = 100
OVERDUE = timedelta(minutes=10)  # a worker that lives looks at who is due within seconds
Number = Literal["here", "passed", "left"]
Only = Literal["", "inside", "stuck", "paused", "left"]


class LineCount(Schema):
    """`here`: who stands at the line now; `passed`: who has been there and went on; `left`: who left there."""

    step: str
    here: int
    passed: int
    left: int
    held: int


class Watch(Schema):
    """`refused`: how many did not come in, in the last 30 days, since a chain of workflows had led there. `stuck`: set aside with a fault, or due for ten minutes and not looked at. `shown`: how many the list is of.
    `planned`: how many come in by intakes that are under way."""

    published: bool
    planned: int
    lines: list[LineCount]
    enrolments: list[EnrolmentRow]
    shown: int
    inside: int
    ended: int
    set_aside: int
    stuck: int
    paused: int
    held: int
    refused: int


class Handled(Schema):
    """Enrolments by id, or all that stand at a line; `to` is where they are moved."""

    ids: list[int] | None = None
    step: str = ""
    to: str = ""
    why: str = Field(default="", max_length=180)


class Done(Schema):
    count: int


class HeldIn(Schema):
    """Held messages by id; none: all of the workflow."""

    ids: list[int] | None = None
    did: Literal["let_go", "drop"] = "let_go"


class LineOut(Schema):
    step: str
    sentence: str


class BecauseOut(Schema):
    sentence: str
    when: str
    values: dict[str, str]


def _stuck() -> Q:
    return ~Q(fault="") | Q(due_at__lt=clock.now() - OVERDUE)


def _only(rows: QuerySet[Enrolment], only: Only) -> QuerySet[Enrolment]:
    running = rows.filter(ended_at=None)
    return {
        "": rows,
        "inside": running,
        "stuck": running.filter(_stuck()),
        "paused": running.exclude(paused_at=None),
        "left": rows.exclude(ended_at=None),
    }[only]


@router.get("workflows/{int:workflow_id}/watch", response=Watch)
def watch(
    request: AccountRequest,
    account: Path[str],
    workflow_id: int,
    step: str = "",
    number: Number = "here",
    only: Only = "",
) -> Watch:
    """Where people are. With `step`, the people behind one of its numbers: here, passed, or left; else the newest
    hundred."""
    workflow = workflow_of(request, workflow_id)
    enrolments = workflow.enrolments
    running = enrolments.filter(ended_at=None)
    here, been, left = lately(("watch", workflow.id), lambda: _numbers(workflow))
    held = dict(_held(request, workflow).values_list("step").annotate(count=Count("id")))
    rows = _only(enrolments.select_related("contact", "workflow", "version"), only)
    if step:
        rows = _behind(workflow, rows, step, number)
    sentences: dict[int, dict[str, str]] = {}
    shown = rows.count()
    ids = sorted(here.keys() | been.keys() | held.keys())
    return Watch(
        published=workflow.published_id is not None,
        planned=IntakePerson.objects.filter(intake__workflow=workflow, intake__next_at__isnull=False, did="").count(),
        lines=[
            LineCount(
                step=id,
                here=here.get(id, 0),
                passed=max(0, been.get(id, 0) - here.get(id, 0) - left.get(id, 0)),
                left=left.get(id, 0),
                held=held.get(id, 0),
            )
            for id in ids
        ],
        enrolments=[enrolment_row(request, row, sentences) for row in rows.order_by("-joined_at", "-id")[:SHOWN]],
        shown=shown,
        inside=running.count(),
        ended=enrolments.exclude(ended_at=None).count(),
        set_aside=enrolments.exclude(fault="").count(),
        stuck=running.filter(_stuck()).count(),
        paused=running.exclude(paused_at=None).count(),
        held=sum(held.values()),
        refused=_refused(workflow),
    )


def _refused(workflow: Workflow) -> int:
    since = clock.now() - timedelta(days=30)
    events = Event.objects.filter(account=workflow.account, kind="enrolment.refused", at__gt=since)
    return events.filter(data__workflow=workflow.id).count()


def _numbers(workflow: Workflow) -> tuple[dict[str, int], dict[str, int], dict[str, int]]:
    """By line: who is here, who has been here, who left here."""
    here = workflow.enrolments.filter(ended_at=None).exclude(place="").values_list("place").annotate(count=Count("id"))
    been_at = EnrolmentReasons.objects.filter(enrolment__workflow=workflow).annotate(
        step=Func("steps", function="unnest")
    )
    been = been_at.values_list("step").annotate(count=Count("enrolment", distinct=True))
    left = _left_at(workflow).values_list("step").annotate(count=Count("id"))
    return dict(here), dict(been), dict(left)


def _left_at(workflow: Workflow) -> QuerySet[Any]:
    """The last turn of each who left, with its last line as `step`; who came to the end left nowhere."""
    turns = EnrolmentReasons.objects.filter(
        enrolment__workflow=workflow, enrolment__ended_at__isnull=False, steps__len__gt=0
    )
    turns = turns.exclude(enrolment__ended=FINISHED)
    last = turns.order_by("enrolment_id", "-at", "-id").distinct("enrolment_id")
    step = Func(F("steps"), template="(%(expressions)s)[cardinality(steps)]", output_field=CharField())
    return EnrolmentReasons.objects.filter(id__in=last.values("id")).annotate(step=step).order_by()


def _behind(workflow: Workflow, rows: QuerySet[Enrolment], step: str, number: Number) -> QuerySet[Enrolment]:
    """The enrolments behind a number at a line."""
    if number == "here":
        return rows.filter(place=step, ended_at=None)
    left = list(_left_at(workflow).filter(step=step).values_list("enrolment_id", flat=True))
    if number == "left":
        return rows.filter(id__in=left)
    been = EnrolmentReasons.objects.filter(enrolment__workflow=workflow, steps__contains=[step]).values("enrolment_id")
    return rows.filter(id__in=been).exclude(id__in=left).exclude(place=step, ended_at=None)


Did = Literal["move", "skip", "pause", "resume", "take-out"]


@router.post("workflows/{int:workflow_id}/inside/{did}", response=Done)
def handle(request: AccountRequest, account: Path[str], workflow_id: int, did: Did, given: Handled) -> Done:
    """Moves people to another line, ends their wait, pauses, resumes, or takes them out; one, many, or all at a line."""
    require(request, "people")
    rows = workflow_of(request, workflow_id).enrolments.filter(ended_at=None)
    rows = rows.filter(place=given.step) if given.ids is None else rows.filter(id__in=given.ids)
    ids = list(rows.values_list("id", flat=True))
    by, own = request.person, request.account
    if did == "take-out":
        found = Enrolment.objects.filter(id__in=ids).select_related("workflow", "account")
        signals.take_out_many(own, list(found), given.why, by)
        return Done(count=len(ids))
    if did == "move":
        try:
            return Done(count=handling.move(own, ids, given.to, given.why, by))
        except handling.CannotHandle as error:
            raise HttpError(409, str(error)) from None
    act = {"skip": handling.skip, "pause": handling.pause, "resume": handling.resume}[did]
    return Done(count=act(own, ids, given.why, by))


@router.post("contacts/{int:contact_id}/workflows/{did}", response=Done)
def handle_contact(
    request: AccountRequest, account: Path[str], contact_id: int, did: Literal["pause", "resume"], given: Handled
) -> Done:
    """Pauses, or resumes, everything that runs for one contact."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    ids = list(contact.enrolments.filter(ended_at=None).values_list("id", flat=True))
    act = handling.pause if did == "pause" else handling.resume
    return Done(count=act(request.account, ids, given.why, request.person))


# ---- messages that wait for somebody to let them go


def _held(request: AccountRequest, workflow: Workflow) -> QuerySet[Message]:
    enrolments = workflow.enrolments.values("id")
    held = Message.objects.filter(account=request.account, state=Message.State.HELD, enrolment_id__in=enrolments)
    return held.exclude(reason__in=HELD_BACK)  # these are decided upon where all of them stand (stopping_api.py)


@router.get("workflows/{int:workflow_id}/held", response=list[AsideMessage])
def held_messages(request: AccountRequest, account: Path[str], workflow_id: int) -> list[AsideMessage]:
    rows = _held(request, workflow_of(request, workflow_id)).select_related("contact").order_by("id")
    return [message_out(one, request.account.zone) for one in rows[:SHOWN]]


@router.post("workflows/{int:workflow_id}/held", response=Done)
def settle_held(request: AccountRequest, account: Path[str], workflow_id: int, given: HeldIn) -> Done:
    """Lets held messages go, or drops them; those that somebody else settled meanwhile are left as they are."""
    require(request, "people")
    rows = _held(request, workflow_of(request, workflow_id)).select_related("account")
    rows = rows if given.ids is None else rows.filter(id__in=given.ids)
    done = 0
    for message in rows.order_by("id"):
        try:
            (let_go if given.did == "let_go" else messaging.drop)(message, request.person)
            done += 1
        except messaging.CannotSend:
            continue
    return Done(count=done)


# ---- why not


@router.get("workflows/{int:workflow_id}/published-lines", response=list[LineOut])
def published_lines(request: AccountRequest, account: Path[str], workflow_id: int) -> list[LineOut]:
    """The lines of the published version, to ask about."""
    workflow = workflow_of(request, workflow_id)
    if workflow.published_id is None:
        return []
    steps = walk(published_document(workflow.published_id).steps)
    return [LineOut(step=step.id, sentence=step.describe()) for step in steps if not step.waits]


@router.get("contacts/{int:contact_id}/why-not", response=list[BecauseOut])
def why_not(
    request: AccountRequest, account: Path[str], contact_id: int, workflow_id: int, step: str = ""
) -> list[BecauseOut]:
    """Why this one did not get a line of a workflow; without a line, why they are not inside."""
    contact, workflow = contact_of(request, contact_id), workflow_of(request, workflow_id)

    def when(at: datetime | None) -> str:
        return local_moment(request, at) if at else ""

    return [
        BecauseOut(
            sentence=one.sentence, when=when(one.at), values=values_as_written(one.values, request.account.region)
        )
        for one in because(contact, workflow, step)
    ]
