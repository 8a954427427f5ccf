"""The booking assistant at work: what a conversation books is in the diary, once; a person goes on where it does not; and live it does what its
rehearsal shows."""

import random
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from django.db import transaction
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.appointments.free import free
from bluffside.core.assistant.talking import free_among
from bluffside.core.engine.signals import Replied
from bluffside.core.facts import Facts
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.steps.booking_assistant import ASSISTANT
from bluffside.core.workflow.files import parse_workflow
from bluffside.server import moving_the_clock
from bluffside.server.appointments import booked_in_talk, booking, offering
from bluffside.server.diary.models import Appointment, Notice
from bluffside.server.events.models import Event
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.messaging.services import take_reply
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from bluffside.server.workflows.bookings import NotBooked
from bluffside.server.workflows.models import Enrolment, Workflow
from tests.core.making import people
from tests.core.test_booking_utterances import ROWS
from tests.server.conftest import NOON, House
from tests.server.living import Free, assert_same, enrolled, happen
from tests.server.test_booking import offers
from tests.server.test_same_as_rehearsed import ON_THE_DATABASE

LANES = [{"id": ending, "ending": ending, "steps": [{"kind": "tag", "id": f"t-{ending}", "tag": ending}]}
         for ending in ("booked", "declined", "later", "person", "none")]  # fmt: skip
TALKS = {
    "name": "Old list, woken up",
    "starts": [{"kind": "by_hand"}],
    "leaves_on": [],
    "steps": [
        {"kind": "text", "id": "ask", "message": {"name": "Still keen?", "body": "Is sailing still on your mind?"}},
        {"kind": "booking_assistant", "id": "talk", "type": "Taster sail", "lanes": LANES},
    ],
}  # fmt: skip


@pytest.fixture
def woken(house: House) -> Iterator[tuple[House, Workflow, Callable[[datetime], None]]]:
    """A workflow that asks and lets the assistant talk, at noon, with a diary of weekdays from ten to one."""
    with clock.at(NOON) as move_to:
        offers(house)
        house.sailing.assistant = {"confirms": "At the slip."}
        house.sailing.save()
        yield house, house.workflow(**TALKS), move_to


def enrol(workflow: Workflow, *contacts: Contact) -> None:
    enrolling.enrol(workflow, [one.pk for one in contacts], "by hand", Cause())
    until_quiet()


def says(contact: Contact, *texts: str, move_to: Callable[[datetime], None]) -> None:
    """They write, each a minute after the last, and the assistant answers."""
    for text in texts:
        take_reply(contact.account, "text", contact.mobile, text, f"in:{contact.pk}:{clock.now()}")
        until_quiet()
        move_to(clock.now() + timedelta(minutes=1))
        until_quiet()


def heard(contact: Contact) -> list[str]:
    sent = Message.objects.filter(contact=contact, name=ASSISTANT).order_by("id")
    return [one.body for one in sent if one.state not in ("cancelled", "queued")]


def tags(contact: Contact) -> set[str]:
    return set(contact.tagged.values_list("tag__name", flat=True))


def test_from_the_first_text_to_the_diary_without_anybody_and_moved_and_cancelled_in_the_same_conversation(
    woken: Any, api: Any
) -> None:
    house, workflow, move_to = woken
    robin = house.contact()
    enrol(workflow, robin)
    says(robin, "Yes please", "thursday", "the second one", move_to=move_to)
    assert heard(robin) == [
        "Tue 3 Mar at 10:00, Tue 3 Mar at 12:00 or Wed 4 Mar at 10:00. Which one?",
        "Thu 5 Mar at 10:00, Thu 5 Mar at 11:00 or Thu 5 Mar at 12:00. Which one?",
        "Booked: Thu 5 Mar at 11:00. At the slip.",
    ]
    one = Appointment.objects.get()
    assert (one.start, one.member, one.state) == (datetime(2026, 3, 5, 11, tzinfo=UTC), house.member, "booked")
    assert tags(robin) == {"booked"} and Enrolment.objects.get().ended == ""  # it still hears them
    told = api("GET", "replies")[1]
    assert told["counts"]["waiting"] == 0 and told["counts"]["by_itself"] == {"assistant": 3}
    says(robin, "thanks!", "can we make it friday instead", "10", move_to=move_to)
    one.refresh_from_db()
    assert (
        one.start == datetime(2026, 3, 6, 10, tzinfo=UTC)
        and heard(robin)[-1] == "Moved: Fri 6 Mar at 10:00. At the slip."
    )
    says(robin, "sorry, can't come any more", move_to=move_to)
    one.refresh_from_db()
    assert one.state == "cancelled" and not Reply.objects.filter(settled_at=None).exists()
    kinds = Event.objects.filter(kind__startswith="appointment.").values_list("kind", flat=True)
    assert Counter(kinds) == {"appointment.booked": 1, "appointment.moved": 1, "appointment.cancelled": 1}


def test_a_person_is_fetched_once_told_why_and_what_was_said(woken: Any, api: Any) -> None:
    house, workflow, move_to = woken
    robin = house.contact()
    enrol(workflow, robin)
    says(robin, "yes", "do you have gift vouchers", "hello?", move_to=move_to)
    assert heard(robin)[-1] == "I will have somebody answer you." and tags(robin) == {"person"}
    [notice] = Notice.objects.filter(person=house.member)
    assert notice.text == "The booking assistant asks for somebody: they ask what the assistant has no answer to."
    [note] = Event.objects.filter(kind="note.added")
    assert "Was offered Tue 3 Mar at 10:00" in note.data["text"]
    [row] = api("GET", "replies")[1]["rows"]
    assert (row["contact"], row["text"]) == ("P1", "hello?")
    assert Reply.objects.filter(needs_person=True, settled_at=None).count() == 1


def test_who_wants_no_more_hears_no_more_whatever_was_about_to_be_said(woken: Any) -> None:
    house, workflow, move_to = woken
    robin = house.contact()
    enrol(workflow, robin)
    take_reply(house.sailing, "text", robin.mobile, "yes", "in:1")
    until_quiet()
    assert Message.objects.get(name=ASSISTANT).state == "queued"  # for half a minute
    says(robin, "STOP", move_to=move_to)
    assert heard(robin) == [] and Enrolment.objects.get().ended == "opted out"


def test_its_next_answer_is_seen_before_it_goes_and_somebody_may_send_it_or_go_on_in_its_place(
    woken: Any, api: Any
) -> None:
    house, workflow, move_to = woken
    robin, wren = house.contact(), house.contact(2)
    enrol(workflow, robin, wren)
    for one in (robin, wren):
        take_reply(house.sailing, "text", one.mobile, "yes, after 11", f"in:{one.pk}")
    until_quiet()
    told = api("GET", "replies")[1]
    assert told["counts"]["with_assistant"] == 2 and told["rows"] == []
    assert told["with_assistant"][0]["assistant"].startswith("offers Tue 3 Mar at 11:00")
    dialogue = api("GET", f"replies/{robin.pk}")[1]
    talks = dialogue["talks"]
    assert (talks["understood"], talks["goes_in"], talks["offers_left"]) == ("would come: from 11:00", 30, 2)
    assert talks["says"].startswith("Tue 3 Mar at 11:00, ") and dialogue["said"][-1]["of"] == "assistant"
    assert api("POST", f"replies/{wren.pk}/send-now", {"turn": 1})[0] == 204
    until_quiet()
    assert len(heard(wren)) == 1 and api("POST", f"replies/{wren.pk}/send-now", {"turn": 1})[0] == 409
    assert (
        api("POST", f"replies/{robin.pk}/take-over", {"turn": 7})[0] == 409
    )  # something has come in, for all they know
    status, said = api("POST", f"replies/{robin.pk}/take-over", {"turn": dialogue["turn"]})
    assert (status, said["says"]) == (200, talks["says"])
    move_to(NOON + timedelta(minutes=5))
    until_quiet()
    assert heard(robin) == [] and tags(robin) == {"person"}
    assert api("GET", f"replies/{robin.pk}")[1]["talks"] is None
    answered = api("POST", f"replies/{wren.pk}/answer", {"text": "I will ring you", "channel": "text", "turn": 1})[0]
    says(wren, "the first one", move_to=move_to)
    assert answered == 200 and tags(wren) == {"person"} and not Appointment.objects.exists()
    assert [row["contact"] for row in api("GET", "replies")[1]["rows"]] == ["P2"]


def test_who_has_a_time_already_is_heard_about_that_alone(woken: Any) -> None:
    house, workflow, move_to = woken
    robin, wren = house.contact(), house.contact(2)
    one = offering.AppointmentType.objects.get()
    booking.book(one, robin, datetime(2026, 3, 3, 10, tzinfo=UTC))
    enrol(workflow, robin, wren)
    booking.book(one, wren, datetime(2026, 3, 3, 11, tzinfo=UTC))  # on the page, instead of answering
    until_quiet()
    assert tags(robin) == tags(wren) == {"booked"}
    says(robin, "yes", move_to=move_to)
    says(wren, "can I come on thursday instead", "the last one", move_to=move_to)
    assert heard(robin) == [] and Reply.objects.get(contact=robin).settled_at is None
    assert heard(wren)[-1] == "Moved: Thu 5 Mar at 12:00. At the slip."


def test_a_document_that_handed_people_over_and_waited_for_the_booking_goes_on_with_it_at_once(woken: Any) -> None:
    house, _, move_to = woken
    hand = {
        "kind": "booking_assistant",
        "id": "b",
        "type": "Taster sail",
        "opening": "Hi {{ contact.first_name }}, still keen?",
    }
    booked = {"kind": "appointment", "what": "booked"}
    lane = {"id": "yes", "on": booked, "steps": [{"kind": "tag", "id": "t", "tag": "came by"}]}
    wait = {"kind": "wait_for", "id": "w", "limit": "3 days", "lanes": [lane]}
    workflow = house.workflow(name="As it was", steps=[hand, wait], starts=[{"kind": "by_hand"}], leaves_on=[booked])
    robin = house.contact()
    enrol(workflow, robin)
    says(robin, "yes", "the first one", move_to=move_to)
    assert [one.body for one in Message.objects.filter(step="b-begins")] == ["Hi P1, still keen?"]
    assert tags(robin) == {"came by"} and Appointment.objects.count() == 1


def test_who_is_slower_than_somebody_else_is_offered_other_times(woken: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Somebody books on the page between the look at the diary and the booking."""
    house, workflow, move_to = woken
    robin, wren = house.contact(), house.contact(2)
    enrol(workflow, robin)
    says(robin, "yes", move_to=move_to)
    book, tries = booked_in_talk.DiaryOfTypes.book, list[Any]()

    def once_too_late(self: Any, account: Any, contact_id: int, effect: Any, cause: Cause) -> int:
        if not tries:
            one = offering.open_types(account).first() or offering.AppointmentType.objects.get()
            booking.book(one, wren, effect.start)
        tries.append(effect.start)
        return book(self, account, contact_id, effect, cause)

    monkeypatch.setattr(booked_in_talk.DiaryOfTypes, "book", once_too_late)
    says(robin, "the first one", move_to=move_to)
    assert heard(robin)[-1].startswith("That time has just gone. Tue 3 Mar at 11:00")
    assert [one.contact for one in Appointment.objects.all()] == [wren] and len(tries) == 1
    with pytest.raises(NotBooked):
        book(booked_in_talk.DiaryOfTypes(), house.sailing, robin.pk, _Effect(tries[0]), Cause())  # type: ignore[arg-type]


class _Effect:
    type, instead_of = "Taster sail", ""

    def __init__(self, start: datetime) -> None:
        self.start = start


def test_of_an_old_list_of_a_hundred_none_is_booked_twice_and_none_is_texted_after_they_ended_it(woken: Any) -> None:
    """Answers from the table, each for what had been said to them."""
    house, workflow, move_to = woken
    by_context: dict[str, list[str]] = {}
    for row in ROWS:
        by_context.setdefault(row.context, []).append(row.said)
    chance, contacts = random.Random(23), [house.contact(n) for n in range(1, 101)]
    enrol(workflow, *contacts)
    move_to(NOON + timedelta(minutes=1))
    for _ in range(6):
        for one in Enrolment.objects.filter(ended_at=None).select_related("contact"):
            talk = one.state.talk
            context = talk[1].stage if talk else ""
            if context in by_context:
                text = chance.choice(by_context[context])
                take_reply(house.sailing, "text", one.contact.mobile, text, f"in:{one.contact_id}:{clock.now()}")
        until_quiet()
        move_to(clock.now() + timedelta(minutes=1))
        until_quiet()
    standing = Appointment.objects.filter(state__in=["booked", "confirmed"])
    starts = Counter(standing.values_list("start", flat=True))
    assert standing.count() >= 5 and set(starts.values()) == {1}
    assert not Enrolment.objects.exclude(fault="").exists()
    gone = Event.objects.filter(kind="consent.withdrawn")
    assert gone.exists()
    for event in gone:
        late = Message.objects.filter(contact=event.contact_id, queued_at__gte=event.at, answers_word=False)
        assert not late.exclude(state="cancelled").exists(), event.contact_id
    ended = Counter(
        Contact.objects.filter(pk__in=[one.pk for one in contacts]).values_list("tagged__tag__name", flat=True)
    )
    print(f"of 100: {dict(ended)}, in the diary {standing.count()}")  # read, and told in the notes


# ---- live is what was rehearsed


HOURS = {day: [{"start": "09:00", "end": "17:00"}] for day in ("mon", "tue", "wed", "thu", "fri")}
FIRST, LAST = date(2025, 12, 1), date(2026, 12, 31)


def given_by(house: House) -> Free:
    """The type there is, and what is free of it by its offer alone, before anybody has booked."""
    house.sailing.care = {**house.sailing.care, "opening": {"days": HOURS}}
    house.sailing.save()
    one = offering.make(house.sailing, "Taster sail", house.consultant)
    offering.change(one, {"members": [house.member.pk], "minutes": 60, "every": 60}, house.consultant)
    one.refresh_from_db()
    begin, end = datetime(2025, 12, 1, tzinfo=UTC), datetime(2027, 6, 1, tzinfo=UTC)
    offer, known = offering.offer_of(one), offering.around(one, begin, end)

    def free_of(kind: str, now: datetime) -> Sequence[Any]:
        today = now.date() - timedelta(days=1)
        return free(offer, known, now, today, today + timedelta(days=offer.ahead_days + 2)) if kind == one.name else ()

    return free_of


SAID = st.sampled_from([row.said for row in ROWS])
ANSWERS = st.lists(st.tuples(st.integers(1, 2_000).map(lambda n: timedelta(minutes=n)), SAID), max_size=8)


@pytest.mark.django_db
@given(people(reachable=True), ANSWERS)
@ON_THE_DATABASE
def test_live_is_what_was_rehearsed_with_the_assistant_inside(
    somebody: Facts, answers: list[tuple[timedelta, str]]
) -> None:
    document, joined = parse_workflow(TALKS), datetime(2026, 3, 2, 9, tzinfo=UTC)
    with transaction.atomic():
        with enrolled(document, somebody, joined, given_by) as (house, contact, facts, move_to):
            until_quiet()
            happened, at = [], joined + timedelta(seconds=1)
            for wait, text in answers:
                at += wait
                moving_the_clock.run_through(at - timedelta(microseconds=1), move_to)
                move_to(at)
                if told := happen(at, Replied(text, "text"), contact):
                    happened.append((at, told))
                until_quiet()
            moving_the_clock.run_through(joined + timedelta(days=90), move_to)
        assert_same(house, contact, rehearse(document, facts, joined, happened, lets_go=False))
        transaction.set_rollback(True)


def test_times_are_those_of_the_windows() -> None:
    times = [datetime(2026, 3, 3, 10), datetime(2026, 3, 3, 12)]
    assert list(free_among(times)(())) == times
