"""Living through a made-up story on PostgreSQL by the server's own services, and comparing it with its rehearsal."""

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any
from unittest.mock import patch

from bluffside.core.appointments.free import Free as FreeTime
from bluffside.core.engine.booking_effects import FetchPerson
from bluffside.core.engine.effects import CallWebhook, ChangeSeries, MakeTask, Notify
from bluffside.core.engine.signals import Happened, Replied, Signal
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.rehearse import Rehearsal
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, Notice, Task
from bluffside.server.events import stream
from bluffside.server.events.stream import Cause, listen
from bluffside.server.hooks.models import Call
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import take_reply
from bluffside.server.people import services as people_services
from bluffside.server.people.models import Consent, Contact
from bluffside.server.people.values import plain_score, plain_value
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.keeping import LONGEST, SORTS
from bluffside.server.practice.models import Person
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Version, Workflow
from bluffside.server.workflows.signals import heard_by
from bluffside.server.workflows.versions import program_of
from tests.server.conftest import House, make_house

Free = Callable[[str, datetime], Sequence[FreeTime]]


def nothing_free(house: House) -> Free:
    return lambda kind, now: ()


@contextmanager
def enrolled(
    document: Document, somebody: Facts, joined: datetime, given_by: Callable[[House], Free] = nothing_free
) -> Iterator[tuple[House, Contact, Facts, Any]]:
    """A house, somebody in it who was enrolled at an instant, as the facts stood then, and what moves the clock. `given_by` makes the
    types of appointment that there are, and answers what is free of them, as long as nobody books."""
    house = make_house()
    house.practice.keeping = dict.fromkeys(SORTS, LONGEST)  # years go by, and all of them are compared
    house.practice.save()
    document = parse_workflow(to_data(document) | {"starts": [{"kind": "by_hand"}]})
    contact = put_down(house, somebody)
    facts = load_facts(house.sailing, [contact.id])[contact.id]
    facts = replace(facts, account=replace(facts.account, free=given_by(house)))
    with clock.at(joined) as move_to, patch("bluffside.server.hooks.sending._request", lambda *_: (200, "")):
        publish_and_enrol(house, document, contact.id, joined)
        yield house, contact, facts, move_to


def assert_same(house: House, contact: Contact, played: Rehearsal) -> None:
    """What came of it on PostgreSQL is what the rehearsal shows."""
    faults = list(Enrolment.objects.exclude(fault="").values_list("fault", flat=True))
    assert not faults
    kept = [r["sentence"] for turn in EnrolmentReasons.objects.order_by("id") for r in turn.reasons if r["step"]]
    assert kept == [r.sentence for moment in played.moments for r in moment.reasons if r.step]
    sent = list(
        Message.objects.filter(answers_word=False, enrolment_id__isnull=False)  # beside an entry for their calendar
        .order_by("id")
        .values_list("queued_at", "channel", "name", "body")
    )
    assert sent == [(at, one.channel, one.name, one.body) for at, one in played.messages]
    assert Enrolment.objects.get().ended == played.state.ended
    effects = Counter(type(effect) for _, effect in played.effects)
    assert Task.objects.count() == effects[MakeTask]
    assert Notice.objects.count() == effects[Notify] + effects[FetchPerson]
    assert Call.objects.count() == effects[CallWebhook] + effects[ChangeSeries]
    now, then = load_facts(house.sailing, [contact.id])[contact.id].contact, played.contact
    assert (now.tags, now.lists, dict(now.fields)) == (then.tags, then.lists, known(then.fields))
    assert (now.channel_order, now.owner) == (then.channel_order, then.owner)
    assert plain_score(now.score) == plain_score(then.score)
    assert [replace(deal, owner="") for deal in now.deals] == list(then.deals)
    assert [(a.start, a.state) for a in now.appointments] == [(a.start, a.state) for a in then.appointments]
    states = {(c.channel, c.purpose): c.state for c in then.consents}
    assert {(c.channel, c.purpose): c.state for c in now.consents} == states


def known(fields: Any) -> dict[str, Any]:
    return {name: value for name, value in fields.items() if value is not None}


def put_down(house: House, somebody: Facts) -> Contact:
    """The made-up person as rows, in an account with the made-up care."""
    account, told = house.sailing, somebody.contact
    account.zone, account.care = somebody.account.zone, somebody.account.care.model_dump(mode="json")
    account.save()
    for name in ("Mel", "Theo"):
        Person.objects.create(email=f"{name}@team.example.com", name=name, practice=house.practice, is_consultant=True)
    now = told.added or somebody.contact.score.earned[0].as_of if told.score.earned else datetime(2026, 1, 1)
    contact = Contact.objects.create(
        account=account,
        **{name: getattr(told, name) for name in ("first_name", "email", "mobile", "zone", "post", "push", "social")},
        fields={name: plain_value(value) for name, value in told.fields.items()},
        channel_order=list(told.channel_order),
        score=plain_score(told.score),
        added_at=now,
    )
    people_services.add_tags(account, [(contact.id, tag, Cause()) for tag in told.tags])
    for said in told.consents:
        Consent.objects.create(
            account=account, contact=contact, channel=said.channel, purpose=said.purpose, state=said.state, at=now
        )
    for deal in told.deals:
        own = {"created_at": deal.created, "since": deal.since, "ref": deal.id}
        Deal.objects.create(account=account, contact=contact, pipeline=deal.pipeline, stage=deal.stage, **own)
    for one in told.appointments:
        Appointment.objects.create(account=account, contact=contact, type=one.type, start=one.start)
    return contact


def at_instants(
    joined: datetime, history: Sequence[tuple[timedelta, Signal]]
) -> list[tuple[datetime, Replied | Event]]:
    # Not at the instant of joining: the batch of that instant has been before anything else can happen.
    at, found = joined + timedelta(seconds=1), list[tuple[datetime, Replied | Event]]()
    for wait, signal in history:
        at += wait
        if isinstance(signal, Replied):
            found.append((at, signal))
        elif isinstance(signal, Happened):
            found.append((at, replace(signal.event, at=at)))
    return found


def happen(at: datetime, one: Replied | Event, contact: Contact) -> Replied | Event | None:
    """Has it happen now, by the server's own services; as it is to be told to a rehearsal, None when it could not be."""
    account = contact.account
    if isinstance(one, Replied):
        address = contact.mobile if one.channel == "text" else contact.email
        reply = take_reply(account, one.channel, address, one.text, f"in:{at}") if address else None
        return replace(one, message=reply.message.name if reply.message else "") if reply else None
    match one.kind:
        case "tag.added":
            return one if people_services.add_tags(account, [(contact.id, one.data["tag"], Cause())]) else None
        case "form.sent":
            people_services.form_sent(contact, one.data["form"], {})
        case "consent.withdrawn":
            people_services.set_consent(account, [contact.id], one.data["channel"], False, "said so")
        case "link.clicked":
            stream.record(account, [stream.Happened("link.clicked", contact.id, dict(one.data))])
        case "field.changed":
            if contact.fields.get("birthday") == one.data["new"].isoformat():
                return None
            people_services.set_fields(contact, {"birthday": one.data["new"]})
        case _:
            return _appointment(one, contact)
    return one


def _appointment(one: Event, contact: Contact) -> Event | None:
    if one.kind == "appointment.booked":
        if one.data["start"] < one.at:
            return None
        made = diary.book(contact, one.data["type"], one.data["start"])
        return replace(one, data=one.data | {"appointment": str(made.id)})
    standing = Appointment.objects.filter(contact=contact, state__in=["booked", "confirmed"]).order_by("id").first()
    if standing is None:
        return None
    if one.kind == "appointment.moved":
        diary.move(standing, one.data["start"])
    else:
        diary.settle(standing, Appointment.State.CANCELLED)
    return replace(one, data=one.data | {"appointment": str(standing.id)})


def publish_and_enrol(house: House, document: Document, contact_id: int, joined: datetime) -> None:
    """Publishes past the checks, which are not what is tested here."""
    account, data = house.sailing, to_data(document)
    workflow = Workflow.objects.create(account=account, name=document.name, draft=data, changed_at=joined)
    workflow.published = Version.objects.create(
        account=account, workflow=workflow, number=1, document=data, published_at=joined
    )
    workflow.save()
    listen(account, heard_by(program_of(workflow.published.id), document))
    enrolling.enrol(workflow, [contact_id], "rehearsed", Cause())
