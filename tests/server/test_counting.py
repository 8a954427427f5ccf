"""Sums by day are what the rows say, whatever came, whenever and in whichever order it came; each outcome on the day that earned it."""

import random
from collections import Counter
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.db import transaction
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from bluffside.core.timing.local import to_local
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.server import moving_the_clock
from bluffside.server.diary import services as diary
from bluffside.server.events.models import Event, Uncounted
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Link, Message, Reply
from bluffside.server.messaging.services import click, take_reply
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_tags, set_consent
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.results.counting import count_days
from bluffside.server.results.models import JoinedSum, LineSum, MessageSum, TaskSum, UncountedDay
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling, signals, writing
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Workflow
from tests.server.conftest import NOON, House

DAY = timedelta(days=1)
TEXT = {"kind": "text", "id": "t", "message": {"name": "Hello", "body": "Shall we? https://tern.example.com/book"}}
MAIL = {
    "kind": "email",
    "id": "m",
    "message": {"name": "Ways", "subject": "Ways", "body": "Look: https://tern.example.com"},
}
WAIT = {"kind": "wait", "id": "w", "duration": "2 days"}
CALL = {"kind": "call", "id": "c", "about": "the course", "say": "Hello"}
BOOKED = {"happens": [{"kind": "appointment", "what": "booked"}], "within": "30 days", "worth": "250"}
SERIES = {"steps": [TEXT, WAIT, MAIL, CALL], "leaves_on": [{"kind": "replied"}], "aim": BOOKED, "hours": None}


def begin(house: House, *contacts: Contact, **changes: Any) -> Workflow:
    workflow = house.workflow(**SERIES | {"starts": [{"kind": "by_hand"}]} | changes)
    for one in contacts:
        set_consent(house.sailing, [one.id], "text", True, "said so")
        set_consent(house.sailing, [one.id], "email", True, "said so")
    enrolling.enrol(workflow, [one.id for one in contacts], "test", Cause())
    return workflow


def by_day(account: Account, *counts: str) -> dict[date, tuple[Any, ...]]:
    """What the messages' sums say, by day, but for days on which all is nothing."""
    rows = MessageSum.objects.filter(account=account)
    found: dict[date, list[Any]] = {}
    for row in rows:
        known = found.setdefault(row.day, [0] * len(counts))
        for number, count in enumerate(counts):
            known[number] += getattr(row, count)
    return {day: tuple(values) for day, values in found.items() if any(values)}


def test_what_comes_late_is_counted_on_the_day_that_earned_it_once(house: House) -> None:
    contact, said = house.contact(), NOON.date()
    with clock.at(NOON) as move_to:
        begin(house, contact, leaves_on=[], steps=[TEXT])
        moving_the_clock.run_through(NOON + timedelta(minutes=5), move_to)
        assert by_day(house.sailing, "tried", "delivered", "with_link", "replied") == {said: (1, 1, 1, 0)}
        moving_the_clock.run_through(NOON + 25 * DAY, move_to)
        link = Link.objects.get()
        click(link.message_id, 1, robot=True)
        until_quiet()
        assert by_day(house.sailing, "clicked") == {}
        for _ in range(2):
            click(link.message_id, 1)
        diary.book(contact, "Course", clock.now() + DAY)
        until_quiet()
        assert by_day(house.sailing, "clicked", "booked", "reached", "worth") == {said: (1, 1, 1, Decimal(250))}
        moving_the_clock.run_through(NOON + 40 * DAY, move_to)
        for number in range(2):
            take_reply(house.sailing, "text", contact.mobile, "yes please", f"late-{number}")
        diary.book(contact, "Course", clock.now() + DAY)  # too late to have come of it
        until_quiet()
    assert by_day(house.sailing, "replied", "booked", "reached") == {said: (1, 1, 1)}
    joined = JoinedSum.objects.get()
    assert (joined.day, joined.joined, joined.reached, joined.worth, joined.days) == (said, 1, 1, 250, {"25": 1})
    assert not Uncounted.objects.exists() and not UncountedDay.objects.exists()


def test_a_day_is_the_accounts_and_another_time_zone_counts_all_of_them_anew(house: House) -> None:
    late = NOON.replace(hour=23, minute=30)
    with clock.at(late) as move_to:
        begin(house, house.contact(), steps=[TEXT])
        moving_the_clock.run_through(late + timedelta(minutes=5), move_to)
        assert set(by_day(house.sailing, "tried")) == {late.date()}
        Account.objects.filter(pk=house.sailing.pk).update(zone="Europe/Athens")
        until_quiet()
    assert set(by_day(house.sailing, "tried")) == {late.date() + DAY}
    assert set(JoinedSum.objects.values_list("day", flat=True)) == {late.date() + DAY}


def test_days_of_which_not_everything_is_kept_any_more_stay_as_they_were(house: House) -> None:
    with clock.at(NOON) as move_to:
        begin(house, house.contact(), steps=[TEXT])
        moving_the_clock.run_through(NOON + timedelta(minutes=5), move_to)
        before = by_day(house.sailing, "tried", "delivered")
        house.practice.keeping = {"events": 13, "reasons": 13}
        house.practice.save()
        move_to(NOON + 500 * DAY)
        Message.objects.all().delete()
        account = Account.objects.select_related("practice").get(pk=house.sailing.pk)
        count_days(account, [NOON.date()])
        assert by_day(house.sailing, "tried", "delivered") == before
        move_to(NOON + 300 * DAY)
        count_days(account, [NOON.date()])
        assert by_day(house.sailing, "tried", "delivered") == {}


def test_another_aim_is_decided_anew_for_everybody_who_ever_came_in(house: House) -> None:
    contacts = [house.contact(n) for n in range(3)]
    with clock.at(NOON) as move_to:
        workflow = begin(house, *contacts, aim=None)
        moving_the_clock.run_through(NOON + DAY, move_to)
        add_tags(house.sailing, [(contacts[0].id, "keen", Cause())])
        diary.book(contacts[1], "Course", clock.now() + DAY)
        until_quiet()
        assert not Enrolment.objects.exclude(reached_at=None).exists()

        def aims_at(aim: dict[str, Any] | None) -> list[int]:
            row = Workflow.objects.select_related("account").get(id=workflow.id)
            document = parse_workflow(to_data(writing.draft_of(row)) | {"aim": aim})
            row = writing.save_draft(row, document, row.revision, house.consultant)
            writing.publish(row, row.revision, house.consultant)
            until_quiet()
            reached = Enrolment.objects.exclude(reached_at=None).order_by("contact_id")
            assert sum(JoinedSum.objects.values_list("reached", flat=True)) == reached.count()
            return list(reached.values_list("contact_id", flat=True))

        assert aims_at({"happens": [{"kind": "tag_added", "tags": ["keen"]}]}) == [contacts[0].id]
        assert aims_at(BOOKED) == [contacts[1].id]
        assert aims_at(None) == []


def test_who_is_held_back_gets_nothing_by_any_way_and_is_watched_for_the_aim_all_the_same(house: House) -> None:
    contacts = [house.contact(n) for n in range(40)]
    with clock.at(NOON) as move_to:
        entry = {"again": "always", "hold_back": 4}
        workflow = begin(house, *contacts, entry=entry)
        moving_the_clock.run_through(NOON + 3 * DAY, move_to)
        held = set(Enrolment.objects.filter(held_back=True).values_list("contact_id", flat=True))
        assert 3 <= len(held) <= 18
        came = enrolling.enrol(workflow, [one.id for one in contacts], "by another way", Cause())
        assert {id for id, _ in came.ids}.isdisjoint(held)
        assert came.left_out["held back on purpose, to compare"] == len(held)
        diary.book(Contact.objects.get(id=min(held)), "Course", clock.now() + DAY)
        until_quiet()
    assert not Message.objects.filter(contact_id__in=held).exists()
    [joined] = JoinedSum.objects.filter(day=NOON.date())
    assert (joined.held, joined.joined, joined.held_reached, joined.reached) == (len(held), 40 - len(held), 1, 0)


def test_sums_hold_nobodys_name_address_or_words(house: House) -> None:
    with clock.at(NOON) as move_to:
        contact = take_reply(
            house.sailing, "text", "+447700900777", "Ann here, ring me on 07700 900777", "first"
        ).contact  # type: ignore[union-attr]
        workflow = begin(house, contact, leaves_on=[])
        moving_the_clock.run_through(NOON + timedelta(minutes=5), move_to)
        said = "550 no such user ann@example.com, tried +44 7700 900777"
        Message.objects.update(state="failed", reason=said)
        signals.take_out_many(house.sailing, list(workflow.enrolments.all()), "Ann moved to Leeds", house.member)
        until_quiet()
        count_days(Account.objects.select_related("practice").get(pk=house.sailing.pk), [NOON.date()])
    held = [*MessageSum.objects.values(), *JoinedSum.objects.values(), *LineSum.objects.values()]
    assert [one["why"] for one in held if one.get("tried")] == [{"550 no such user … tried …": 1}]
    assert JoinedSum.objects.get().source == "by texting"
    assert not any(word in str(held) for word in ("Ann", "Leeds", "900777", "example.com"))


def test_a_call_that_was_taken_back_is_not_counted_as_made(house: House) -> None:
    with clock.at(NOON) as move_to:
        begin(house, house.contact(), steps=[CALL])
        moving_the_clock.run_through(NOON + timedelta(minutes=5), move_to)
        task = diary.record_outcome(house.sailing.tasks.get(), "reached", house.member, held_for=timedelta(minutes=1))
        until_quiet()
        assert TaskSum.objects.get().reached == 1
        diary.take_back_outcome(task)
        until_quiet()
    assert (TaskSum.objects.get().made, TaskSum.objects.get().reached) == (1, 0)


# ---- held equal to the rows, counted one by one


def live(house: House, chance: random.Random, move_to: Any) -> None:
    """Three weeks in which people come in, read, answer, click, book, opt out, and are rung, in any order."""
    workflow = begin(house)
    now = NOON
    for number in range(6):
        now += timedelta(hours=chance.randint(1, 60))
        moving_the_clock.run_through(now, move_to)
        contact = house.contact(number)
        for channel in ("text", "email"):
            set_consent(house.sailing, [contact.id], channel, chance.random() < 0.9, "said")  # type: ignore[arg-type]
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        for known in Contact.objects.filter(account=house.sailing).order_by("?"):
            _does(house, known, chance)
    moving_the_clock.run_through(now + 5 * DAY, move_to)


def _does(house: House, contact: Contact, chance: random.Random) -> None:
    match chance.randrange(9):
        case 0:
            take_reply(house.sailing, "text", contact.mobile, chance.choice(("yes", "STOP")), str(chance.random()))
        case 1:
            for link in Link.objects.filter(message__contact=contact):
                click(link.message_id, link.number, robot=chance.random() < 0.3)
        case 2:
            diary.book(contact, "Course", clock.now() + DAY)
        case 3:
            for task in contact.tasks.filter(done_at=None):
                diary.record_outcome(task, chance.choice(["reached", "no_answer"]), house.member)


def one_by_one(account: Account) -> Counter[tuple[Any, ...]]:
    """The messages' sums counted from the rows in plain Python."""
    found: Counter[tuple[Any, ...]] = Counter()
    events = list(Event.objects.filter(account=account))
    enrolments = {one.pk: one for one in Enrolment.objects.all()}
    messages = [one for one in Message.objects.filter(account=account) if one.sent_at or one.state == "failed"]
    for one in messages:
        went = one.sent_at or one.settled_at
        assert went
        later = [n.sent_at for n in messages if n.contact_id == one.contact_id and n.enrolment_id == one.enrolment_id
                 and n.sent_at and n.sent_at > went]  # fmt: skip
        until = min([*later, went + 30 * DAY])
        did = {event.kind for event in events if event.contact_id == one.contact_id and went < event.at <= until
               and (event.kind != "consent.withdrawn" or event.data["channel"] == one.channel)}  # fmt: skip
        enrolment = enrolments.get(one.enrolment_id or 0)
        arrived = one.state in ("sent", "delivered")
        key = (to_local(went, account.zone).date(), enrolment.workflow_id if enrolment else 0, one.step, one.channel)
        for name, so in (
            ("tried", True),
            ("delivered", arrived),
            ("clicked", arrived and any(link.clicks for link in one.links.all())),
            ("replied", arrived and Reply.objects.filter(message=one).exists()),
            ("booked", arrived and "appointment.booked" in did),
            ("opted_out", arrived and "consent.withdrawn" in did),
            ("reached", any(e.reached_message_id == one.pk for e in enrolments.values())),
        ):
            found[*key, name] += so
    return +found


@settings(max_examples=3, deadline=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
@given(seed=st.integers(0, 10_000))
def test_sums_are_what_the_rows_say(house: House, seed: int) -> None:
    """As notes come, a few at a time; and every day counted once more, in any order."""
    with transaction.atomic(), clock.at(NOON) as move_to:
        chance = random.Random(seed)  # made up
        live(house, chance, move_to)
        account = Account.objects.select_related("practice").get(pk=house.sailing.pk)
        expected = one_by_one(account)
        assert _sums(account) == expected
        for day in chance.sample([NOON.date() + n * DAY for n in range(-2, 40)], 42):
            count_days(account, [day])
        assert _sums(account) == expected
        _lines_agree(account)
        tasks = Counter(to_local(at, account.zone).date() for at in account.tasks.values_list("made_at", flat=True))
        assert Counter({row.day: row.made for row in TaskSum.objects.filter(account=account)}) == tasks
        transaction.set_rollback(True)


def _sums(account: Account) -> Counter[tuple[Any, ...]]:
    sums: Counter[tuple[Any, ...]] = Counter()
    for row in MessageSum.objects.filter(account=account):
        for name in ("tried", "delivered", "clicked", "replied", "booked", "opted_out", "reached"):
            sums[row.day, row.workflow_id, row.step, row.channel, name] += getattr(row, name)
    return +sums


def _lines_agree(account: Account) -> None:
    came: Counter[tuple[date, str]] = Counter()
    for enrolment in Enrolment.objects.filter(account=account):
        turns = EnrolmentReasons.objects.filter(enrolment=enrolment)
        for step in {step for turn in turns for step in turn.steps if step}:
            came[to_local(enrolment.joined_at, account.zone).date(), step] += 1
    assert Counter({(row.day, row.step): row.came for row in LineSum.objects.filter(account=account)}) == came
    gone = Enrolment.objects.filter(account=account).exclude(ended_at=None).exclude(ended="came to the end").count()
    left = sum(LineSum.objects.filter(account=account).values_list("left", flat=True))
    assert left <= gone == sum(JoinedSum.objects.filter(account=account).values_list("left", flat=True))
