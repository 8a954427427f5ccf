"""The forecast is true: with punctual carriers and nothing new, what it says of the next seven days is what then goes out, by
day, channel and workflow. It plays the core, and knows what is planned: intakes, dates, what starts by them."""

from collections import Counter
from datetime import date, datetime, timedelta
from typing import Any

import pytest
from django.db import transaction
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from bluffside.core.care.trickle import Trickle
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.server import moving_the_clock
from bluffside.server.diary import services as diary
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message
from bluffside.server.people import services as people
from bluffside.server.people.models import Contact, Field
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, forecast, intakes
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.core.making import any_workflows, joinings
from tests.core.making import people as somebody
from tests.server.conftest import NOON, House
from tests.server.living import enrolled

WEEK = timedelta(days=7)
Rows = Counter[tuple[date, int | None, str]]


def said(house: House, until: datetime) -> Rows:
    rows: Rows = Counter()
    for one in forecast.forecast(house.sailing, until).rows:
        if one.channel:
            rows[one.day, one.workflow_id, one.channel] += one.count
    return rows


def went(house: House, since: datetime) -> Rows:
    of = dict(Enrolment.objects.values_list("id", "workflow_id"))
    sent = Message.objects.filter(queued_at__gt=since).exclude(state="held")
    return Counter(
        (to_local(one.queued_at, house.sailing.zone).date(), of.get(one.enrolment_id or 0), one.channel) for one in sent
    )


def text(name: str) -> dict[str, Any]:
    return {"kind": "text", "id": name.lower(), "message": {"name": name, "body": name}}


def start(house: House, name: str, steps: list[Any], **more: Any) -> Workflow:
    return house.workflow(name=name, steps=steps, leaves_on=[], **more)


def test_the_next_days_are_foretold_with_intakes_birthdays_reminders_and_what_starts_by_them(house: House) -> None:
    Field.objects.create(account=house.sailing, name="birthday", kind="date")
    contacts = [house.contact(number) for number in range(1, 25)]
    wait = {"kind": "wait", "id": "w", "duration": "2 days"}
    tag = {"kind": "tag", "id": "t", "tag": "greeted"}
    with clock.at(NOON) as move_to:
        series = start(house, "Series", [text("One"), wait, text("Two")])
        start(
            house, "Birthday", [text("Happy"), tag], starts=[{"kind": "date_comes", "field": "birthday", "at": "09:00"}]
        )
        start(house, "After", [wait, text("Again")], starts=[{"kind": "tag_added", "tags": ["greeted"]}])
        remind = {"kind": "around", "id": "b", "offset": "1 day"}
        start(house, "Visit", [remind, text("Soon")], starts=[{"kind": "appointment", "what": "booked"}])
        for number, contact in enumerate(contacts[:5]):
            people.set_fields(contact, {"birthday": date(1990, 3, 3 + number)})
            diary.book(contact, "Taster", NOON + timedelta(days=2 + 2 * number))
        enrolling.enrol(series, [one.id for one in contacts[20:]], "test", Cause())
        intakes.start(series, [one.id for one in contacts[:20]], house.consultant, NOON, Trickle(count=4, each="day"))
        until_quiet()
        foretold = said(house, NOON + WEEK)
        moving_the_clock.run_through(NOON + WEEK, move_to)
    assert foretold == went(house, NOON)
    by_workflow = Counter[str]()
    names = dict(Workflow.objects.values_list("id", "name"))
    for (_, id, _), count in foretold.items():
        by_workflow[names[id or 0]] += count
    assert (by_workflow["Birthday"], by_workflow["After"], by_workflow["Visit"]) == (5, 5, 4)
    assert by_workflow["Series"] > 20


@pytest.mark.django_db
@given(any_workflows(), somebody(), joinings, st.timedeltas(timedelta(), timedelta(days=20)))
@settings(
    max_examples=15,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
    phases=[Phase.explicit, Phase.reuse, Phase.generate],
)
def test_whatever_the_workflow_the_forecast_comes_true(
    document: Document, facts: Any, joined: datetime, later: timedelta
) -> None:
    """Of anybody, some time after they joined."""
    with transaction.atomic():
        with enrolled(document, facts, joined) as (house, _, _, move_to):
            moving_the_clock.run_through(joined + later, move_to)
            foretold = said(house, clock.now() + WEEK)
            since = clock.now()
            moving_the_clock.run_through(since + WEEK, move_to)
            assert foretold == went(house, since)
        transaction.set_rollback(True)


def test_who_reads_a_forecast_of_very_many_gets_one(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    """Beyond MOST people alike are counted together; it says the same of people who are alike."""
    contacts = [house.contact(number) for number in range(1, 6)]
    workflow = start(house, "Series", [{"kind": "wait", "id": "w", "duration": "1 day"}, text("One")])
    with clock.at(NOON):
        enrolling.enrol(workflow, [one.id for one in contacts], "test", Cause())
        until_quiet()
        exact = said(house, NOON + WEEK)
        monkeypatch.setattr(forecast, "MOST", 3)
        assert said(house, NOON + WEEK) == exact == Counter({(date(2026, 3, 3), workflow.id, "text"): 5})
    assert Contact.objects.count() == 5


def test_a_forecast_of_very_many_knows_their_dates_and_who_is_planned_to_come(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    Field.objects.create(account=house.sailing, name="birthday", kind="date")
    contacts = [house.contact(number) for number in range(1, 21)]
    with clock.at(NOON) as move_to:
        series = start(house, "Series", [text("One"), {"kind": "wait", "id": "w", "duration": "2 days"}, text("Two")])
        greet = [text("Happy"), {"kind": "tag", "id": "t", "tag": "greeted"}]
        start(house, "Birthday", greet, starts=[{"kind": "date_comes", "field": "birthday"}])
        start(house, "After", [text("Again")], starts=[{"kind": "tag_added", "tags": ["greeted"]}])
        for contact in contacts[:6]:
            people.set_fields(contact, {"birthday": date(1990, 3, 4)})
        intakes.start(series, [one.id for one in contacts[6:]], house.consultant, NOON, Trickle(count=4, each="day"))
        until_quiet()
        monkeypatch.setattr(forecast, "MOST", 3)
        foretold = said(house, NOON + WEEK)
        moving_the_clock.run_through(NOON + WEEK, move_to)
    assert foretold == went(house, NOON) and sum(foretold.values()) > 30
