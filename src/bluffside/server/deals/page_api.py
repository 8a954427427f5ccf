"""A deal's own page: who is in it, what is known, what was noted, what comes next, and what has been."""

from collections.abc import Iterable
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from django.db.models import Q
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.phone_numbers import as_written
from bluffside.core.timing.local import LAST, to_local
from bluffside.server.deals.api import DealOwnerOut, DealState, NextOut, next_out, team_of
from bluffside.server.deals.contact_api import DEAL_STATE
from bluffside.server.deals.next_up import NOTHING, last_of, next_of
from bluffside.server.diary.models import Appointment, Task
from bluffside.server.diary.services import STANDING
from bluffside.server.events.models import Event
from bluffside.server.people.api import FieldValueOut, contact_of
from bluffside.server.people.field_kinds import FIELD_KINDS
from bluffside.server.people.values import in_words
from bluffside.server.pipeline import about, services
from bluffside.server.pipeline.counting import likelihoods
from bluffside.server.pipeline.models import Deal, DealField, DealNote, Pipeline, Stage
from bluffside.server.pipeline.services import NEEDS, BadDeal, rests_too_long
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Person
from bluffside.server.practice.words import moment
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.story import SENTENCES

router = Router(tags=["deals"], auth=InAccount())
MOST = 100  # of each sort


class InDealOut(Schema):
    """`part`: what they are in it; "" for whose deal it is. `number` as the country writes it."""

    contact_id: int
    name: str
    part: str
    email: str
    number: str


class DealNoteOut(Schema):
    id: int
    at: str
    by: str
    text: str


class ComesOut(Schema):
    """A task, an appointment, or where a workflow stands. `at` local; None: no time is known."""

    sort: str
    words: str
    at: datetime | None
    who: str
    workflow: int


class WentOut(Schema):
    """`by`: whoever of the team, else the workflow."""

    at: str
    sentence: str
    by: str
    workflow: int


class StageToOut(Schema):
    """`needs`: what must be known before, in words."""

    name: str
    needs: list[str]


class DealPageOut(Schema):
    """`likely`: of a hundred such deals, how many are won; None: nothing is known. `over`: days longer here than meant."""

    id: int
    name: str
    value: Decimal
    currency: str
    pipeline: str
    stage: str
    state: DealState
    why: str
    owner: int | None
    expected_on: date | None
    made: str
    closed: str
    days: int
    over: int
    likely: float | None
    next: NextOut
    people: list[InDealOut]
    fields: list[FieldValueOut]
    notes: list[DealNoteOut]
    comes: list[ComesOut]
    went: list[WentOut]
    stages: list[StageToOut]
    reasons: list[str]
    owners: list[DealOwnerOut]


class DealIn(Schema):
    """What is named is put in the place of what there is."""

    name: str | None = Field(default=None, max_length=200)
    value: Decimal | None = Field(default=None, ge=0, le=10**11)
    expected_on: date | None = None
    owner: int | None = None
    fields: dict[str, str] | None = Field(default=None, max_length=about.MOST_FIELDS)


class InDealIn(Schema):
    contact_id: int
    part: str = Field(default="", max_length=60)


class DealNoteIn(Schema):
    text: str = Field(min_length=1, max_length=4_000)


def _deal(request: AccountRequest, number: int) -> Deal:
    return get_object_or_404(Deal.objects.select_related("contact", "account"), account=request.account, pk=number)


@router.get("deals/{int:deal_id}", response=DealPageOut)
def deal_page(request: AccountRequest, account: Path[str], deal_id: int) -> DealPageOut:
    deal, own, now = _deal(request, deal_id), request.account, clock.now()
    deal.account = own
    pipeline = Pipeline.objects.filter(account=own, name=deal.pipeline).prefetch_related("stages").first()
    if pipeline:
        pipeline.account = own
    stages = list(pipeline.stages.all()) if pipeline else []
    here = next((one for one in stages if one.name == deal.stage), Stage(name=deal.stage))
    is_open = deal.state == Deal.State.OPEN
    coming = next_of(own, [deal], now)[deal.pk] if is_open else NOTHING
    known = likelihoods(pipeline).get(deal.stage) if pipeline and is_open else None
    last = last_of(own, [deal.contact_id]).get(deal.contact_id)
    return DealPageOut(
        id=deal.pk, name=deal.name, value=deal.value, currency=own.currency, pipeline=deal.pipeline, stage=deal.stage,
        state=DEAL_STATE[deal.state], why=deal.why, owner=deal.owner_id, expected_on=deal.expected_on,
        made=moment(deal.created_at, own.zone), closed=moment(deal.closed_at, own.zone) if deal.closed_at else "",
        days=max(0, (now - deal.since).days), over=rests_too_long(here, deal.since, now) if is_open else 0, likely=known.value if known else None,
        next=next_out(coming, own, to_local(now, own.zone).date(), last),
        people=_people(deal), fields=_fields(deal), notes=_notes(deal), comes=_comes(deal, now), went=_went(deal),
        stages=[StageToOut(name=one.name, needs=[NEEDS.get(each, f"“{each}”") for each in one.needs]) for one in stages],
        reasons=pipeline.reasons if pipeline else [],
        owners=[DealOwnerOut(id=one.pk, name=one.name) for one in team_of(own)],
    )  # fmt: skip


def _people(deal: Deal) -> list[InDealOut]:
    others = deal.people.select_related("contact").order_by("id")
    some = [(deal.contact, ""), *((one.contact, one.part) for one in others[: about.MOST_PEOPLE])]
    return [
        InDealOut(contact_id=who.pk, name=who.name, part=part, email=who.email,
                  number=as_written(who.mobile, deal.account.region) if who.mobile else "")
        for who, part in some
    ]  # fmt: skip


def _fields(deal: Deal) -> list[FieldValueOut]:
    found = []
    for one in DealField.objects.filter(account=deal.account).order_by("name"):
        value = in_words(deal.fields.get(one.name))
        said = FIELD_KINDS[one.kind].said(value, deal.account.currency) if value else ""
        found.append(FieldValueOut(name=one.name, kind=one.kind, choices=one.choices, value=value, said=said))
    return found


def _notes(deal: Deal) -> list[DealNoteOut]:
    rows = deal.notes.select_related("by").order_by("-at", "-id")[:MOST]
    return [
        DealNoteOut(id=one.pk, at=moment(one.at, deal.account.zone), by=one.by.name if one.by else "", text=one.text)
        for one in rows
    ]


def _comes(deal: Deal, now: datetime) -> list[ComesOut]:
    """All that is to come of the contact, and of workflows what is about this deal or about none."""
    own, found = deal.account, list[ComesOut]()

    def add(sort: str, words: str, at: datetime | None, who: str = "", workflow: int = 0) -> None:
        local = to_local(at, own.zone).replace(tzinfo=None) if at and at.year < 9_000 else None
        found.append(ComesOut(sort=sort, words=words, at=local, who=who, workflow=workflow))

    tasks = Task.objects.filter(account=own, contact=deal.contact_id, done_at=None).select_related("assigned")
    for task in tasks.order_by("due_at")[:MOST]:
        add("task", task.title, task.due_at, task.assigned.name if task.assigned else "")
    booked = Appointment.objects.filter(account=own, contact=deal.contact_id, state__in=STANDING, start__gte=now)
    for one in booked.select_related("member").order_by("start")[:MOST]:
        add("appointment", one.type, one.start, one.member.name if one.member else "")
    inside = Enrolment.objects.filter(account=own, contact=deal.contact_id, ended_at=None).select_related("workflow")
    for each in inside.order_by("joined_at")[:MOST]:
        if each.about.get("deal", deal.ref) == deal.ref:
            add("workflow", each.workflow.name, each.until or each.due_at, "", each.workflow_id)
    return sorted(found, key=lambda one: (one.at is None, one.at or LAST.replace(tzinfo=None)))


def _went(deal: Deal) -> list[WentOut]:
    """What happened to the deal, and which workflows were about it; the newest first."""
    rows = Event.objects.filter(
        Q(data__deal=deal.ref) | Q(enrolment_id__in=_about(deal), kind__startswith="enrolment."),
        account=deal.account, contact_id__in=[deal.contact_id, *deal.people.values_list("contact_id", flat=True)],
    ).select_related("actor").order_by("-at", "-id")[:MOST]  # fmt: skip
    acted = {one.enrolment_id for one in rows if one.enrolment_id}
    names = {
        id: (workflow, name)
        for id, workflow, name in Enrolment.objects.filter(id__in=acted).values_list(
            "id", "workflow_id", "workflow__name"
        )
    }
    found = []
    for one in rows:
        workflow, name = names.get(one.enrolment_id or 0, (0, ""))
        if one.kind in SENTENCES:
            found.append(
                WentOut(
                    at=moment(one.at, deal.account.zone), sentence=SENTENCES[one.kind](one.data),
                    by=one.actor.name if one.actor else name, workflow=0 if one.actor else workflow,
                )
            )  # fmt: skip
    return found


def _about(deal: Deal) -> list[int]:
    inside = Enrolment.objects.filter(account=deal.account, contact=deal.contact_id, about__deal=deal.ref)
    return list(inside.order_by("-id").values_list("id", flat=True)[:MOST])


@router.put("deals/{int:deal_id}/people", response=DealPageOut)
def put_in(request: AccountRequest, account: Path[str], deal_id: int, given: InDealIn) -> DealPageOut:
    """Somebody else is in it, or has another part."""
    require(request, "people")
    try:
        about.put_in(_deal(request, deal_id), contact_of(request, given.contact_id), given.part, request.person)
    except BadDeal as error:
        raise HttpError(422, str(error)) from None
    return deal_page(request, account, deal_id)


@router.delete("deals/{int:deal_id}/people/{int:contact_id}", response=DealPageOut)
def take_out(request: AccountRequest, account: Path[str], deal_id: int, contact_id: int) -> DealPageOut:
    require(request, "people")
    about.take_out(_deal(request, deal_id), contact_id)
    return deal_page(request, account, deal_id)


@router.post("deals/{int:deal_id}/notes", response={201: DealPageOut})
def write_note(request: AccountRequest, account: Path[str], deal_id: int, given: DealNoteIn) -> tuple[int, DealPageOut]:
    require(request, "people")
    try:
        about.write_note(_deal(request, deal_id), given.text, request.person)
    except BadDeal as error:
        raise HttpError(422, str(error)) from None
    return 201, deal_page(request, account, deal_id)


@router.delete("deals/{int:deal_id}/notes/{int:note_id}", response=DealPageOut)
def drop_note(request: AccountRequest, account: Path[str], deal_id: int, note_id: int) -> DealPageOut:
    require(request, "people")
    get_object_or_404(DealNote, account=request.account, deal=deal_id, pk=note_id).delete()
    return deal_page(request, account, deal_id)


@router.patch("deals/{int:deal_id}", response={204: None})
def change(request: AccountRequest, account: Path[str], deal_id: int, given: DealIn) -> tuple[int, None]:
    require(request, "people")
    deal = _deal(request, deal_id)
    parts: dict[str, Any] = {name: getattr(given, name) for name in given.model_fields_set}
    if parts.get("owner"):
        parts["owner"] = _one_of(team_of(request.account), parts["owner"])
    try:
        if "fields" in parts:
            parts["fields"] = about.read(request.account, parts["fields"] or {})
        services.change_deal(
            deal,
            {name: "" if name == "name" and said is None else said for name, said in parts.items()},
            request.person,
        )
    except BadDeal as error:
        raise HttpError(422, f"{error} Nothing was changed.") from None
    return 204, None


def _one_of(people: Iterable[Person], number: int) -> Person:
    found = next((one for one in people if one.pk == number), None)
    if found is None:
        raise HttpError(422, "Nobody of the team has that number.")
    return found
