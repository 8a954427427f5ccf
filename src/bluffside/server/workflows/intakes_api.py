"""Bringing people in by hand: who would come in and when, who would not and why; then the intake and its progress."""

from collections import defaultdict
from collections.abc import Callable, Collection, Sequence
from datetime import date, datetime
from itertools import groupby

from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.care.trickle import Portion, TooSlow, Trickle
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import CHANNEL_KINDS, CHANNELS, Channel
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.timeline import time_line
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.segments import choosing
from bluffside.server.segments.choosing import Chosen
from bluffside.server.workflows import enrolling, intakes
from bluffside.server.workflows.api import workflow_of
from bluffside.server.workflows.models import Intake, Workflow

router = Router(tags=["intakes"], auth=InAccount())
SHOWN_DAYS = 60
MOST_DEALS = 10_000
SHOWN = 6  # intakes, and people of each reason


class IntakeIn(Schema):
    """Whom: people, or deals by their ids, each for the one whose it is. `begin` is a local time of the account; none: now.
    `trickle`: a few at a time; none: all at once."""

    who: Chosen = Chosen(ids=[])
    deals: list[int] | None = Field(None, max_length=MOST_DEALS)
    begin: datetime | None = None
    trickle: Trickle | None = None


class PlannedDay(Schema):
    day: date
    words: str
    count: int


class IntakePlan(Schema):
    """Who would come in, who would not and why (`names`: the first few of each reason), who of them some messages cannot
    reach; and when. `days`: at most the first 60, by local day."""

    joining: int = 0
    left_out: dict[str, int] = {}
    names: dict[str, list[str]] = {}
    beyond: list[str] = []
    first_message: str = ""
    days: list[PlannedDay] = []
    finishes: str = ""
    problem: str = ""


class IntakeOut(Schema):
    id: int
    workflow_id: int
    workflow: str
    state: Intake.State
    by: str
    made: str
    how: str
    total: int
    came: int
    left_out: dict[str, int]
    next: str
    finishes: str
    fault: str
    may_be_taken_back: int


def _begin(request: AccountRequest, given: IntakeIn) -> datetime:
    if given.begin is None:
        return clock.now()
    return max(to_instant(given.begin.replace(tzinfo=None), request.account.zone), clock.now())


def _chosen(request: AccountRequest, given: IntakeIn) -> tuple[list[int], list[str]]:
    """Contacts, and for which deal of theirs each; without deals none for any."""
    if given.deals is None:
        return choosing.ids(request.account, given.who), []
    deals = Deal.objects.filter(account=request.account, id__in=given.deals).order_by("id")
    return [one.contact_id for one in deals], [one.ref for one in deals]


@router.post("workflows/{int:workflow_id}/intakes/plan", response=IntakePlan)
def intake_plan(request: AccountRequest, account: Path[str], workflow_id: int, given: IntakeIn) -> IntakePlan:
    """What an intake would do. Nobody comes in."""
    return plan_of(request, workflow_of(request, workflow_id), given)


def plan_of(request: AccountRequest, workflow: Workflow, given: IntakeIn) -> IntakePlan:
    begin = _begin(request, given)
    try:
        found = enrolling.coming(workflow, *_chosen(request, given))
        portions = intakes.plan(request.account, len(found.who), begin, given.trickle)
    except (enrolling.CannotEnrol, TooSlow) as error:
        return IntakePlan(problem=f"{str(error)[0].upper()}{str(error)[1:].rstrip('.')}.")
    document, zone = enrolling.document_of(workflow), request.account.zone
    speaking = {step.id: step.speaks for step in walk(document.steps) if step.speaks in CHANNELS}
    held = {step.id for step in walk(document.steps) if isinstance(step, Speaking) and step.held}
    care = account_facts(request.account).care
    times = time_line(document, portions[0].at if portions else begin, zone, care=care)
    acts = [(line.acts.earliest, id) for id, line in times.lines.items() if line.acts and id in speaking]
    first, line = min(acts, default=(None, ""))
    joining = request.account.contacts.filter(id__in=found.contact_ids)
    return IntakePlan(
        joining=len(found.who),
        left_out=dict(found.left_out),
        names=_names(request, found.refused),
        beyond=_beyond(joining, set(speaking.values())),
        first_message="when somebody lets it go" if line in held else moment(first, zone) if first else "",
        days=_days(portions, zone)[:SHOWN_DAYS],
        finishes=moment(portions[-1].at, zone) if portions else "",
    )


def _beyond(joining: QuerySet[Contact], channels: Collection[Channel]) -> list[str]:
    """How many of them have no address for what the workflow says, in words."""
    said = []
    for channel in (one for one in CHANNELS if one in channels):
        kind = CHANNEL_KINDS[channel]
        if missing := joining.filter(**{kind.address: ""}).count():
            have = "has" if missing == 1 else "have"
            said.append(f"{missing} of them {have} {kind.no_address}: what goes by {channel} passes them over.")
    return said


def _names(request: AccountRequest, refused: Sequence[tuple[int, str]]) -> dict[str, list[str]]:
    """The first few of those left out, by reason."""
    first: dict[str, list[int]] = defaultdict(list)
    for id, why in refused:
        if len(first[why]) < SHOWN:
            first[why].append(id)
    known = request.account.contacts.in_bulk([id for ids in first.values() for id in ids])
    return {why: [known[id].name for id in ids if id in known] for why, ids in first.items()}


def _days(portions: list[Portion], zone: str) -> list[PlannedDay]:
    by_day = groupby(portions, lambda one: to_local(one.at, zone).date())
    days = [(day, list(some)) for day, some in by_day]
    return [
        PlannedDay(day=day, words=moment(some[0].at, zone), count=sum(one.count for one in some)) for day, some in days
    ]


def _out(request: AccountRequest, row: Intake) -> IntakeOut:
    zone = request.account.zone
    finishes = intakes.finishes(row)
    how = Trickle.model_validate(row.trickle).describe() if row.trickle else "all at once"
    ended = row.state in (Intake.State.TAKEN_BACK,)
    return IntakeOut(
        id=row.id,
        workflow_id=row.workflow_id,
        workflow=row.workflow.name,
        state=Intake.State(row.state),
        by=row.by.name if row.by else "",
        made=moment(row.made_at, zone),
        how=how,
        total=row.total,
        came=row.came,
        left_out=row.left_out,
        next=moment(row.next_at, zone) if row.next_at else "",
        finishes=moment(finishes, zone) if finishes else "",
        fault=row.fault,
        may_be_taken_back=0 if ended else intakes.to_take_back(row).count(),
    )


@router.post("workflows/{int:workflow_id}/intakes", response={201: IntakeOut})
def start_intake(
    request: AccountRequest, account: Path[str], workflow_id: int, given: IntakeIn
) -> tuple[int, IntakeOut]:
    require(request, "people")
    return 201, begun(request, workflow_of(request, workflow_id), given)


def begun(request: AccountRequest, workflow: Workflow, given: IntakeIn) -> IntakeOut:
    """Raises HttpError (409) in words where they cannot come in."""
    try:
        contacts, deals = _chosen(request, given)
        row = intakes.start(workflow, contacts, request.person, _begin(request, given), given.trickle, deals)
    except (enrolling.CannotEnrol, TooSlow) as error:
        raise HttpError(409, str(error)) from None
    return _out(request, row)


def _intakes(request: AccountRequest, workflow: Workflow) -> list[IntakeOut]:
    rows = workflow.intakes.select_related("workflow", "by", "account").order_by("-id")[:SHOWN]
    return [_out(request, row) for row in rows]


@router.get("workflows/{int:workflow_id}/intakes", response=list[IntakeOut])
def list_intakes(request: AccountRequest, account: Path[str], workflow_id: int) -> list[IntakeOut]:
    """The newest first."""
    return _intakes(request, workflow_of(request, workflow_id))


DOES: dict[str, Callable[[Intake], None]] = {"pause": intakes.pause, "resume": intakes.resume, "stop": intakes.stop}


@router.post("intakes/{int:intake_id}/{did}", response=IntakeOut)
def change_intake(request: AccountRequest, account: Path[str], intake_id: int, did: str) -> IntakeOut:
    """`did`: pause, resume, stop, or take-back."""
    require(request, "people")
    row = get_object_or_404(Intake.objects.select_related("workflow", "by"), account=request.account, id=intake_id)
    try:
        if did == "take-back":
            intakes.take_back(row, request.person)
        elif did in DOES:
            DOES[did](row)
        else:
            raise HttpError(404, "An intake cannot do that.")
    except (intakes.CannotChange, TooSlow) as error:
        raise HttpError(409, str(error)) from None
    row.refresh_from_db()
    return _out(request, row)
