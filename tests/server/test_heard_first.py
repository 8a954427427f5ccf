"""An answer that is there is heard before anything else happens, up to the hand-over to the carrier; and whoever leaves takes
with them what has not gone out yet (core.engine.batch, effects.CallOff). See test_same_as_rehearsed for the property."""

from datetime import datetime, timedelta
from typing import Any

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from bluffside.core.care.house import Care
from bluffside.core.care.pace import Pace
from bluffside.core.care.quiet import QuietHours
from bluffside.server import moving_the_clock
from bluffside.server.capture.preferences import leave
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Task
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.delivery import deliver_batch
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import drop, take_reply
from bluffside.server.people.models import Contact
from bluffside.server.people.services import set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, held, signals
from bluffside.server.workflows.engine import advance_batch
from bluffside.server.workflows.models import Enrolment
from tests.server.conftest import NOON, House

HOUR, SECOND = timedelta(hours=1), timedelta(seconds=1)
REPLIED = {"leaves_on": [{"kind": "replied"}]}


def text(name: str, **more: Any) -> dict[str, Any]:
    return {"kind": "text", "id": name.lower(), "message": {"name": name, "body": name}, **more}


def wait(id: str, length: str) -> dict[str, Any]:
    return {"kind": "wait", "id": id, "duration": length}


def answers(contact: Contact, words: str = "Who is this?") -> None:
    take_reply(contact.account, "text", contact.mobile, words, f"in:{clock.now()}")


def states() -> dict[str, str]:
    return dict(Message.objects.filter(enrolment_id__isnull=False).values_list("name", "state"))


@pytest.mark.parametrize(
    ("replies", "batch"),
    [(0.0, 0.0), (0.4, 0.9), (240.0, 300.0), (-1.0, 0.0)],
    ids=["both at once", "within the second", "workers away for five minutes", "a second before"],
)
def test_who_has_answered_gets_no_further_text(house: House, replies: float, batch: float) -> None:
    contact, ten = house.contact(), NOON + HOUR
    workflow = house.workflow(steps=[text("First"), wait("w", "1 hour"), text("Third")], **REPLIED)
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        move_to(ten + replies * SECOND)
        answers(contact)
        move_to(ten + batch * SECOND)
        until_quiet()
        moving_the_clock.run_through(NOON + 5 * HOUR, move_to)
    assert (Enrolment.objects.get().ended, set(states())) == ("replied", {"First"})


def test_an_answer_at_the_limit_beats_the_limit(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow()  # 72 hours to answer
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        move_to(NOON + 72 * HOUR)
        answers(contact, "yes")
        until_quiet()
    assert set(states()) == {"Hello"} and Task.objects.filter(kind="call").exists()  # the lane of "yes", not of "none"


def test_what_waits_in_the_outbox_is_not_handed_over_while_an_answer_is_unheard(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow(steps=[text("First"), wait("w", "1 hour")], **REPLIED)
    with clock.at(NOON):
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        advance_batch(house.sailing)  # decided, and not handed over yet
        answers(contact)
        assert (deliver_batch(house.sailing), states()) == (0, {"First": "queued"})
        until_quiet()
    message = Message.objects.get(name="First")
    assert (message.state, message.reason) == ("cancelled", "they left before it went (replied)")
    assert Event.objects.filter(kind="message.cancelled", contact_id=contact.id).count() == 1


def test_a_slow_senders_queue_lets_those_go_who_have_answered(house: House) -> None:
    pace = Care(pace={"": Pace(each_minute=1 / 60)})
    Account.objects.filter(id=house.sailing.id).update(care=pace.model_dump(mode="json"))
    house.sailing.refresh_from_db()
    people = [house.contact(number) for number in (1, 2, 3)]
    workflow = house.workflow(steps=[text("First"), wait("w", "9 days")], **REPLIED)
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [one.id for one in people], "test", Cause())
        until_quiet()
        last = (
            Message.objects.filter(state="queued").order_by("-id")[0].contact
        )  # whom of three a batch decides about first is its own
        answers(last, "call me")
        moving_the_clock.run_through(NOON + 9 * HOUR, move_to)
    sent = Message.objects.filter(name="First").values_list("contact_id", "state")
    assert dict(sent) == {one.id: "cancelled" if one == last else "delivered" for one in people}


HANDED = [
    {"kind": "call", "id": "ring", "about": "it", "say": "Hi"},
    {"kind": "print_letter", "id": "post", "letter": {"name": "Letter", "body": "Dear"}},
    text("Held", held=True),
]


@pytest.mark.parametrize("how", ["taken out", "answered"])
def test_whoever_leaves_takes_along_what_has_not_gone_out(house: House, how: str) -> None:
    contact = house.contact()
    workflow = house.workflow(steps=HANDED, **REPLIED)
    with clock.at(NOON):
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        assert (Task.objects.filter(done_at=None).count(), states()) == (2, {"Held": "held"})
        if how == "taken out":
            row = Enrolment.objects.select_related("account", "workflow").get()
            signals.take_out(row, "they rang", house.consultant)
        else:
            answers(contact)
        until_quiet()
    assert (Task.objects.filter(done_at=None).count(), states()) == (0, {"Held": "cancelled"})
    assert Event.objects.filter(kind="task.called_off").count() == 2


def test_however_many_leave_at_once_it_takes_as_many_statements(house: House) -> None:
    """Each had a held text and a call; all of them are asked to go in one batch."""
    call = {"kind": "call", "id": "ring", "about": "it"}
    workflow = house.workflow(steps=[call, text("Held", held=True)], **REPLIED)
    statements = []
    for people in (range(1, 3), range(10, 70)):
        contacts = [house.contact(number) for number in people]
        enrolling.enrol(workflow, [one.id for one in contacts], "test", Cause())
        until_quiet()
        rows = list(workflow.enrolments.filter(ended_at=None).select_related("workflow"))
        signals.take_out_many(house.sailing, rows, "enough", house.consultant)
        with CaptureQueriesContext(connection) as captured:
            assert advance_batch(house.sailing) == len(contacts)
        statements.append(len(captured))
    assert statements[1] <= statements[0]
    assert set(Message.objects.values_list("state", "reason")) == {("cancelled", "they left before it went (enough)")}
    assert not Task.objects.filter(done_at=None).exists()


def test_what_the_script_has_set_going_to_its_end_stays(house: House) -> None:
    enrolling.enrol(house.workflow(steps=HANDED[:2]), [house.contact().id], "test", Cause())
    until_quiet()
    assert (Enrolment.objects.get().ended, Task.objects.filter(done_at=None).count()) == ("came to the end", 2)


# ---- held is not sent

QUESTION = {"kind": "wait_for_reply", "id": "q", "limit": "2 days", "lanes": [
    {"id": "yes", "answer": "yes", "words": ["yes"], "steps": [text("Thanks")]},
    {"id": "none", "answer": "none", "steps": [text("Nudge")]}]}  # fmt: skip
ASKS = [text("Ask", held=True), QUESTION, wait("w", "1 day"), text("Later")]


def asked(house: House, **more: Any) -> tuple[Contact, Message]:
    contact = house.contact()
    enrolling.enrol(house.workflow(steps=ASKS, leaves_on=[], **more), [contact.id], "test", Cause())
    until_quiet()
    return contact, Message.objects.select_related("account").get()


def test_a_wait_after_a_held_message_begins_when_it_goes(house: House) -> None:
    day = timedelta(days=1)
    with clock.at(NOON) as move_to:
        contact, message = asked(house)
        answers(contact, "yes")  # to whom the question never went
        moving_the_clock.run_through(NOON + 5 * day, move_to)
        assert states() == {"Ask": "held"} and Enrolment.objects.get().place == "ask"
        assert held.let_go(message, house.member) == NOON + 5 * day
        moving_the_clock.run_through(NOON + 6 * day, move_to)
        assert (set(states()), Enrolment.objects.get().until) == ({"Ask"}, NOON + 7 * day)
        moving_the_clock.run_through(NOON + 9 * day, move_to)
    assert set(states()) == {"Ask", "Nudge", "Later"}


def test_one_that_is_not_to_go_takes_along_what_follows_up_on_it(house: House) -> None:
    with clock.at(NOON) as move_to:
        _, message = asked(house)
        drop(message, house.member)
        moving_the_clock.run_through(NOON + timedelta(days=9), move_to)
    assert set(states()) == {"Ask", "Later"} and states()["Ask"] == "cancelled"


def test_letting_go_at_night_keeps_the_hours(house: House, api: Any) -> None:
    night, morning = NOON + 15 * HOUR, NOON + 20 * HOUR  # 03:00, 08:00
    quiet = Care(quiet=(QuietHours(),))
    Account.objects.filter(id=house.sailing.id).update(care=quiet.model_dump(mode="json"))
    house.sailing.refresh_from_db()
    with clock.at(NOON) as move_to:
        contact, message = asked(house)
        moving_the_clock.run_through(night, move_to)
        assert api("POST", f"messages/{message.id}/settle", {"did": "let_go"})[1] == {"goes": "Tue 3 Mar, 08:00"}
        moving_the_clock.run_through(morning - SECOND, move_to)
        assert states() == {"Ask": "queued"}
        moving_the_clock.run_through(morning, move_to)
        assert states() == {"Ask": "sent"} and Enrolment.objects.get().arrived_at == morning
        assert Enrolment.objects.get().until == morning + timedelta(days=2)


def test_a_moved_appointment_plans_its_reminders_anew_and_calls_off_what_tells_of_the_old_date(house: House) -> None:
    contact, day = house.contact(), timedelta(days=1)
    remind = {"kind": "around", "id": "before", "offset": "2 days"}
    workflow = house.workflow(
        steps=[remind, text("Soon", held=True)],
        entry={"again": "always"},
        starts=[{"kind": "appointment", "what": "booked"}],
        leaves_on=[],
    )
    with clock.at(NOON) as move_to:
        visit = diary.book(contact, "Taster", NOON + day)
        until_quiet()
        assert Enrolment.objects.get().finished and not states()  # left out: tomorrow is too soon
        diary.move(visit, NOON + 5 * day)
        moving_the_clock.run_through(NOON + 4 * day, move_to)
        assert states() == {"Soon": "held"}
        diary.move(visit, NOON + 9 * day)
        until_quiet()
        assert Message.objects.get().reason == "what it tells of has moved"
        moving_the_clock.run_through(NOON + 8 * day, move_to)
        queued: list[tuple[datetime, str]] = list(Message.objects.order_by("id").values_list("queued_at", "state"))
        assert queued == [(NOON + 3 * day, "cancelled"), (NOON + 7 * day, "held")]
        # Another appointment: who only stays in case the first moves makes room.
        held.let_go(Message.objects.select_related("account").get(state="held"), house.member)
        until_quiet()
        diary.book(contact, "Taster", NOON + 20 * day)
        until_quiet()
        assert [row.ended for row in Enrolment.objects.filter(workflow=workflow).order_by("id")] == [
            "came to the end",
            "",
        ]


# ---- what may mean that they want no more


def test_a_likely_refusal_holds_marketing_until_somebody_has_looked(house: House, api: Any) -> None:
    contact = house.contact()
    workflow = house.workflow(
        steps=[wait("w", "1 hour"), text("Offer"), text("Visit", purpose="service")], leaves_on=[]
    )
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        answers(contact, "who gave you my number")
        move_to(NOON + SECOND)
        answers(contact, "and tell them to stop texting me")
        moving_the_clock.run_through(NOON + 3 * HOUR, move_to)
        assert states() == {}
        [shown] = api("GET", "today")[1]["replies"]
        assert shown["likely_out"], "both are one correspondence"
        assert api("GET", f"workflows/{workflow.id}/watch")[1]["enrolments"][0]["until"] == "somebody has looked"
        stale = {"turn": shown["turn"] - 1, "wants_out": False}
        assert api("POST", f"replies/{contact.id}/decide", stale)[0] == 409
        until_quiet()
        assert states() == {}  # who decides had not seen the other
        api("POST", f"replies/{contact.id}/decide", stale | {"turn": shown["turn"]})
        until_quiet()
        assert set(states()) == {"Offer", "Visit"}  # on from its line


def test_what_waits_in_the_outbox_waits_with_it_and_goes_when_they_want_out(house: House, api: Any) -> None:
    contact, pace = house.contact(), Care(pace={"": Pace(each_minute=1 / 60)})
    Account.objects.filter(id=house.sailing.id).update(care=pace.model_dump(mode="json"))
    house.sailing.refresh_from_db()
    workflow = house.workflow(steps=[text("One"), text("Two"), wait("w", "9 days"), text("Three")], leaves_on=[])
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        answers(contact, "This is spam")
        moving_the_clock.run_through(NOON + 5 * HOUR, move_to)
        assert states() == {"One": "delivered", "Two": "queued"}
        [row] = api("GET", "today")[1]["replies"]
        decided = {"turn": row["turn"], "wants_out": True}
        assert api("POST", f"replies/{contact.id}/decide", decided)[0] == 204
        moving_the_clock.run_through(NOON + timedelta(days=10), move_to)
    assert states() == {"One": "delivered", "Two": "cancelled"}
    assert Enrolment.objects.get().ended == "opted out"
    assert Contact.objects.get().held_channels == []


# ---- words, and stopping everything


def test_who_asks_for_help_has_not_answered(house: House) -> None:
    contact = house.contact()
    workflow = house.workflow(steps=[text("First"), wait("w", "1 hour"), text("Second")], **REPLIED)
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        answers(contact, "help")
        moving_the_clock.run_through(NOON + 2 * HOUR, move_to)
    assert set(states()) == {"First", "Second"}


def test_stopping_everything_takes_calls_and_letters_off_the_list_too(house: House) -> None:
    contact = house.contact()
    later = [wait("w2", "1 day"), HANDED[0] | {"id": "ring-again"}, {"kind": "to_do", "id": "own", "title": "Tidy up"}]
    workflow = house.workflow(steps=[*HANDED[:2], *later], leaves_on=[])
    with clock.at(NOON) as move_to:
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        until_quiet()
        leave(contact)
        moving_the_clock.run_through(NOON + 2 * timedelta(days=1), move_to)
    open_tasks = Task.objects.filter(done_at=None).values_list("title", flat=True)
    assert list(open_tasks) == ["Tidy up"]  # the team's own
    assert Event.objects.filter(kind="task.called_off").count() == 2


def test_a_letter_or_call_that_the_contact_has_asked_not_to_get_is_marked_wherever_it_is_listed(
    house: House, api: Any
) -> None:
    contact = house.contact()
    for kind in ("letter", "call", "to_do"):
        row = {"account": house.sailing, "contact": contact, "key": kind, "kind": kind, "title": kind}
        Task.objects.create(**row, attempts=1, due_at=clock.now(), made_at=clock.now())
    listed = []
    for says in ("", "letter", "all"):
        if says == "letter":
            set_consent(house.sailing, [contact.id], "letter", False, "said so")
        Contact.objects.update(do_not_contact=says == "all")
        today, days = api("GET", "today")[1], api("GET", "diary")[1]["days"]
        marks = {row["kind"]: row["unwanted"] for row in (*today["calls"], *today["to_dos"])}
        assert marks == {item["kind"]: item["unwanted"] for day in days for item in day["items"]}
        listed.append((marks["letter"], marks["call"], marks["to_do"]))
    none = "asked for no contact at all"
    assert listed == [("", "", ""), ("asked for no letters", "", ""), (none, none, "")]
