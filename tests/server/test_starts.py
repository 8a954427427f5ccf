"""Every way a workflow starts, by the server's own services: what happens, what comes by the calendar, the score."""

from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from typing import Any

import pytest

from bluffside.core.scoring.rules import ScoreRules
from bluffside.server import moving_the_clock
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, Task
from bluffside.server.events.models import Event, Pending
from bluffside.server.events.stream import Cause, Happened, dispatch_batch, record, retry_laid_aside
from bluffside.server.messaging import services as messaging
from bluffside.server.people import services as people
from bluffside.server.people.models import Contact, Field
from bluffside.server.people.services import add_contact, add_tags
from bluffside.server.pipeline import services as pipeline
from bluffside.server.pipeline import stages
from bluffside.server.pipeline.models import Deal, Pipeline
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, scoring
from bluffside.server.workflows.models import Enrolment, Expected, Workflow
from tests.server.conftest import NOON, House

END = [{"kind": "note", "id": "n", "text": "here"}]


def starting(house: House, **start: Any) -> Workflow:
    return house.workflow(steps=END, starts=[start], leaves_on=[], name=start["kind"], entry={"again": "always"})


def came(workflow: Workflow) -> list[str]:
    until_quiet()
    return list(Enrolment.objects.filter(workflow=workflow).order_by("id").values_list("why", flat=True))


def deal_of(contact: Contact) -> Deal:
    if not Pipeline.objects.filter(account=contact.account).exists():
        stages.make(contact.account, "Courses", None, ["New", "Asked"])
    return pipeline.create_deal(contact, "Courses", "New", "Ada's course", Decimal(240))


def click_link(contact: Contact, member: Any) -> None:
    message = messaging.write_to(contact, "email", "See https://example.com/courses", member)
    messaging.click(message.id, 1)


HAPPENS: dict[str, tuple[dict[str, Any], Callable[[Contact, House], Any]]] = {
    "tag added": ({"kind": "tag_added", "tags": ["a"]}, lambda c, h: add_tags(c.account, [(c.id, "a", Cause())])),
    "tag removed": (
        {"kind": "tag_removed", "tags": ["a"]},
        lambda c, h: (
            add_tags(c.account, [(c.id, "a", Cause())]),
            people.remove_tags(c.account, [(c.id, "a", Cause())]),
        ),
    ),
    "field changed": (
        {"kind": "field_changed", "field": "boat", "to": "kayak"},
        lambda c, h: people.set_fields(c, {"boat": "Kayak"}),
    ),
    "list joined": (
        {"kind": "list_joined", "list": "regatta"},
        lambda c, h: people.set_list(c.account, [c.id], "regatta", True),
    ),
    "form sent": ({"kind": "form_sent", "form": "Open day"}, lambda c, h: people.form_sent(c, "Open day", {"q": "1"})),
    "lead received": ({"kind": "lead_received", "source": "ad"}, lambda c, h: people.lead_received(c, "ad", {})),
    "keyword": (
        {"kind": "keyword_texted", "keyword": "Sail!"},
        lambda c, h: messaging.take_reply(c.account, "text", c.mobile, "sail", "in:1"),
    ),
    "replied": (
        {"kind": "replied", "channel": "text"},
        lambda c, h: messaging.take_reply(c.account, "text", c.mobile, "hello there", "in:1"),
    ),
    "opted out": (
        {"kind": "opted_out", "channel": "email"},
        lambda c, h: messaging.opt_out(c, "email", "asked to"),
    ),
    "agreed": (
        {"kind": "consent_given", "channel": "email"},
        lambda c, h: people.set_consent(c.account, [c.id], "email", True, "said so"),
    ),
    "link clicked": ({"kind": "link_clicked", "url": "courses"}, lambda c, h: click_link(c, h.member)),
    "deal created": ({"kind": "deal", "pipeline": "Courses"}, lambda c, h: deal_of(c)),
    "deal won": (
        {"kind": "deal", "what": "won"},
        lambda c, h: pipeline.move_deal(deal_of(c), state="won"),
    ),
    "stage changed": (
        {"kind": "stage_changed", "into": "Asked"},
        lambda c, h: pipeline.move_deal(deal_of(c), "Asked"),
    ),
    "appointment booked": (
        {"kind": "appointment", "type": "Taster"},
        lambda c, h: diary.book(c, "Taster", NOON + timedelta(days=5)),
    ),
    "appointment missed": (
        {"kind": "appointment", "what": "missed"},
        lambda c, h: diary.settle(diary.book(c, "Taster", NOON + timedelta(days=5)), Appointment.State.MISSED),
    ),
}


@pytest.mark.parametrize("name", HAPPENS)
def test_what_happens_starts_the_workflows_that_start_on_it_and_no_others(house: House, name: str) -> None:
    start, happen = HAPPENS[name]
    workflow = starting(house, **start)
    other = house.workflow(house.pottery, steps=END, starts=[start], leaves_on=[])
    with clock.at(NOON):
        happen(house.contact(), house)
        assert len(came(workflow)) == 1
        assert came(other) == []
        assert not Pending.objects.exists()


def test_newcomers_tasks_and_hand_overs_start_workflows(house: House) -> None:
    added = starting(house, kind="contact_added")
    contact = house.contact()
    assert len(came(added)) == 1
    called = house.workflow(steps=[{"kind": "call", "id": "ring", "about": "it"}], starts=[{"kind": "by_hand"}])
    done = starting(house, kind="task_done", outcomes=["reached"])
    enrolling.enrol(called, [contact.id], "test", Cause())
    until_quiet()
    diary.record_outcome(Task.objects.get(), Task.Outcome.REACHED, house.member)
    assert len(came(done)) == 1
    target = house.workflow(name="Target", steps=END, starts=[{"kind": "handed_over"}], leaves_on=[])
    over = house.workflow(steps=[{"kind": "hand_over", "id": "h", "workflow": "Target"}], starts=[{"kind": "by_hand"}])
    enrolling.enrol(over, [contact.id], "test", Cause())
    assert len(came(target)) == 1
    assert Enrolment.objects.get(workflow=target).depth == 1


def test_one_workflow_takes_people_out_of_others(house: House) -> None:
    contact = house.contact()
    waiting = house.workflow(name="Long", steps=[{"kind": "wait", "id": "w", "duration": "9 days"}], leaves_on=[])
    enrolling.enrol(waiting, [contact.id], "test", Cause())
    until_quiet()
    stopping = house.workflow(
        name="Stop", steps=[{"kind": "stop_others", "id": "s"}, *END], starts=[{"kind": "by_hand"}]
    )
    enrolling.enrol(stopping, [contact.id], "test", Cause())
    until_quiet()
    assert dict(Enrolment.objects.values_list("workflow__name", "ended")) == {
        "Long": "stopped by “Stop”",
        "Stop": "came to the end",
    }


# ---- by the calendar


def test_a_birthday_comes_each_year_at_home_even_when_nobody_looked_for_days(house: House) -> None:
    Field.objects.create(account=house.sailing, name="birthday", kind="date")
    with clock.at(NOON) as move_to:
        here, abroad = house.contact(1), house.contact(2)
        Contact.objects.filter(id=abroad.id).update(zone="Australia/Hobart")
        people.set_fields(here, {"birthday": date(1980, 3, 20)})
        workflow = starting(house, kind="date_comes", field="birthday", at="09:00")
        people.set_fields(abroad, {"birthday": date(1996, 3, 21)})
        until_quiet()
        # A change that makes no event, as a bulk load would: the daily pass finds it.
        third = house.contact(3)
        Contact.objects.filter(id=third.id).update(fields={"birthday": "1990-03-25"})
        move_to(datetime(2026, 4, 2, tzinfo=UTC))  # and for a month nobody looks
        until_quiet()
        rows = Enrolment.objects.filter(workflow=workflow)
        assert set(rows.values_list("contact_id", flat=True)) == {here.id, abroad.id, third.id}
        move_to(datetime(2027, 3, 18, tzinfo=UTC))  # nor for a year
        moving_the_clock.run_through(datetime(2027, 4, 2, tzinfo=UTC), move_to)
        assert rows.count() == 6
        moments = list(rows.filter(joined_at__year=2027).order_by("joined_at").values_list("joined_at", flat=True))
        # 20 March 9:00 in London; 21 March 9:00 in Hobart, which is still on summer time (UTC+11): the 20th, 22:00.
        assert moments[:2] == [datetime(2027, 3, 20, 9, tzinfo=UTC), datetime(2027, 3, 20, 22, tzinfo=UTC)]


def test_an_appointment_is_near_once_and_moves_along(house: House) -> None:
    with clock.at(NOON) as move_to:
        workflow = starting(house, kind="appointment_near", before="2 days")
        one = diary.book(house.contact(1), "Taster", NOON + timedelta(days=5))
        two = diary.book(house.contact(2), "Taster", NOON + timedelta(days=6))
        until_quiet()
        diary.move(one, NOON + timedelta(days=9))
        diary.settle(two, Appointment.State.CANCELLED)
        moving_the_clock.run_through(NOON + timedelta(days=30), move_to)
        assert list(Enrolment.objects.filter(workflow=workflow).values_list("joined_at", flat=True)) == [
            NOON + timedelta(days=7)
        ]
        assert Event.objects.filter(kind="appointment.near").count() == 1


def test_a_score_rises_by_rules_and_fades_below_its_mark(house: House) -> None:
    click = {"kind": "link_clicked"}
    rules = {"doing": [{"name": "clicks", "points": 40, "on": click, "half_life": "10 days"}]}
    scoring.set_rules(house.sailing, ScoreRules.model_validate(rules))
    rises = starting(house, kind="score_crossed", way="rises_to", mark=30)
    fades = house.workflow(
        name="fades", steps=END, starts=[{"kind": "score_crossed", "way": "falls_below", "mark": 20}], leaves_on=[]
    )
    with clock.at(NOON) as move_to:
        contact = house.contact()
        record(house.sailing, [Happened("link.clicked", contact.id, {"message": "M", "url": "https://example.com"})])
        assert len(came(rises)) == 1
        assert came(fades) == []
        moving_the_clock.run_through(NOON + timedelta(days=30), move_to)
        # 40 · 2^(-t/10 days) is 20 after ten days.
        [joined] = Enrolment.objects.filter(workflow=fades).values_list("joined_at", flat=True)
        assert abs(joined - (NOON + timedelta(days=10))) < timedelta(seconds=5)
        assert Expected.objects.filter(workflow=fades, at__isnull=False).count() == 0


# ---- what cannot be handed on


def test_an_event_that_cannot_be_handed_on_is_laid_aside_and_those_after_it_go_on(house: House, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    workflow = house.workflow(steps=END, leaves_on=[])
    bad, good = house.contact(1), house.contact(2)
    add_tags(house.sailing, [(bad.id, "taster", Cause()), (good.id, "taster", Cause())])
    real = enrolling.load_facts

    def broken(account: Any, ids: Any, *rest: Any) -> Any:
        if bad.id in ids:
            raise ValueError("a bad day")
        return real(account, ids, *rest)

    with monkeypatch.context() as patched:
        patched.setattr(enrolling, "load_facts", broken)
        dispatch_batch(house.sailing)
    until_quiet()
    assert list(Enrolment.objects.filter(workflow=workflow).values_list("contact_id", flat=True)) == [good.id]
    assert Pending.objects.get().fault == "ValueError: a bad day"
    assert retry_laid_aside(house.sailing) == 1
    until_quiet()
    assert Enrolment.objects.filter(workflow=workflow).count() == 2


def test_a_thing_nobody_listens_to_is_recorded_and_not_handed_on(house: House) -> None:
    add_contact(house.sailing, {"first_name": "Ada"})
    assert Event.objects.filter(kind="contact.added").exists()
    assert not Pending.objects.exists()
