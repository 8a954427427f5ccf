"""Care: quiet and opening hours, holidays, limits and who goes first, pauses, pace, trickle; and the speaking steps
that keep all of it."""

from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.care.house import Care
from bluffside.core.care.limits import MessageLimit, Waiting, turn_order
from bluffside.core.care.pace import Bucket, Pace
from bluffside.core.care.pause import HumanPause
from bluffside.core.care.quiet import Opening, OpeningHours, QuietHours
from bluffside.core.care.trickle import TooSlow, Trickle
from bluffside.core.channels.answers import keyword
from bluffside.core.channels.consent import why_closed
from bluffside.core.channels.reach import choose
from bluffside.core.events import Event
from bluffside.core.facts import Consent, Contact, Facts, withdrawn
from bluffside.core.rehearsal.rehearse import Rehearsal, rehearse
from bluffside.core.rehearsal.world import World
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import to_local
from tests.core.examples import ADA, MONDAY, ask
from tests.core.making import ZONES, joinings

TEXT = {"kind": "text", "id": "t", "message": {"name": "T", "body": "Hi"}}


def cared(care: Care, joined: datetime = MONDAY, steps: list[Any] | None = None, **contact: Any) -> Rehearsal:
    facts = Facts(replace(ADA.contact, **contact), replace(ADA.account, care=care), ADA.member)
    return rehearse(ask(steps=steps or [TEXT]), facts, joined)


# ---- quiet hours


@given(joinings, st.sampled_from(ZONES))
def test_nothing_falls_into_the_hours_at_which_calling_is_forbidden(at: datetime, zone: str) -> None:
    """47 CFR 64.1200(c)(1): not before 8 a.m. or after 9 p.m. local time at the called party's location. (The words
    are as DESIGN.md gives them; the account's quiet hours begin with these.)"""
    goes, _ = cared(Care(quiet=(QuietHours(),)), at, zone=zone).messages[0]
    assert time(8) <= to_local(goes, zone).time() < time(21)
    assert goes == at or to_local(goes, zone).time() == time(8)


def test_quiet_hours_are_the_contacts_own_per_channel_and_purpose() -> None:
    night = datetime(2026, 3, 2, 23, tzinfo=UTC)
    only_texts = Care(quiet=(QuietHours(channels=("text",), purposes=("marketing",)),))
    mail = {"kind": "email", "id": "e", "message": {"name": "E", "subject": "S", "body": "B"}}
    service = TEXT | {"id": "s", "purpose": "service"}
    sent = cared(only_texts, night, [mail, service, TEXT]).messages
    assert [(message.step, to_local(at, "Europe/London").hour) for at, message in sent] == [
        ("e", 23), ("s", 23), ("t", 8)]  # fmt: skip
    held = cared(only_texts, night).moments[0].reasons[-1].sentence
    assert held == "Holds “T” until Tue 3 Mar, 08:00: quiet hours, 21:00 to 08:00 in London."
    [(at, _)] = cared(only_texts, night, zone="Australia/Hobart").messages  # where it is ten in the morning
    assert at == night


def test_a_message_that_no_hour_is_left_for_is_passed_over_and_says_so() -> None:
    care = Care(quiet=(QuietHours(start=time(8), end=time(20)), QuietHours(start=time(20), end=time(8))))
    played = cared(care)
    assert not played.messages
    assert "there is no hour at which it may go out" in played.moments[0].reasons[1].sentence


# ---- opening hours and holidays


def test_calls_fall_due_when_the_team_is_there() -> None:
    weekdays = {
        day: (Opening(start=time(9), end=time(12)), Opening(start=time(13), end=time(17))) for day in ("mon", "fri")
    }
    care = Care(opening=OpeningHours(days=weekdays), holidays=HolidayCalendar(country="GB", region="ENG"))
    call = {"kind": "call", "id": "c", "say": "Hi"}
    for joined, due in [
        (datetime(2026, 3, 2, 10, tzinfo=UTC), None),
        (datetime(2026, 3, 2, 12, 30, tzinfo=UTC), datetime(2026, 3, 2, 13, tzinfo=UTC)),
        (datetime(2026, 3, 2, 18, tzinfo=UTC), datetime(2026, 3, 6, 9, tzinfo=UTC)),
        # Good Friday (3 April 2026) and Easter Monday are holidays in England, by the `holidays` package.
        (datetime(2026, 4, 2, 10, tzinfo=UTC), datetime(2026, 4, 10, 8, tzinfo=UTC)),
    ]:
        [(_, task)] = cared(care, joined, [call]).effects
        assert task.due == due  # type: ignore[attr-defined]


def test_an_account_closes_and_opens_on_days_of_its_own() -> None:
    calendar = HolidayCalendar(country="AU", region="TAS", also=["2026-03-03"], but_not=(date(2026, 1, 26),))
    assert calendar.holiday(date(2026, 3, 3)) == "a day the business is closed"
    assert calendar.holiday(date(2026, 1, 26)) == ""
    assert calendar.holiday(date(2026, 12, 25)) == "Christmas Day"
    with pytest.raises(ValidationError, match="ISO 3166"):
        HolidayCalendar(country="GB", region="TAS")


# ---- message limits


def sent(*hours_before: float) -> tuple[Event, ...]:
    return tuple(
        Event("message.sent", MONDAY - timedelta(hours=h), {"message": "M", "channel": "text", "purpose": "marketing"})
        for h in sorted(hours_before, reverse=True)
    )


def test_a_message_over_the_limit_waits_until_the_oldest_is_past_or_is_left_out() -> None:
    limit = MessageLimit(messages=2, within=Duration(2, "day"))
    waiting = cared(Care(limits=(limit,)), happened=sent(40, 10))
    [(at, _)] = waiting.messages
    assert at == MONDAY + timedelta(hours=8)  # 40 hours ago and two days
    assert "at most 2 messages in 2 days" in waiting.moments[0].reasons[1].sentence
    left_out = MessageLimit(messages=2, within=Duration(2, "day"), over="leave_out")
    assert not cared(Care(limits=(left_out,)), happened=sent(40, 10)).messages
    assert cared(Care(limits=(left_out,)), happened=sent(49, 10)).messages


@given(st.lists(st.integers(0, 20 * 24), min_size=1, max_size=8), st.integers(1, 3))
def test_no_stretch_of_days_ever_holds_more_messages_than_the_limit(starts: list[int], most: int) -> None:
    """Whatever workflows speak to one contact at once: eight of them, joined at any hours, where days are even."""
    within = timedelta(days=3)
    care = Care(limits=(MessageLimit(messages=most, within=Duration(3, "day")),))
    world = World([ask(name=f"w{n}", steps=[TEXT]) for n in range(len(starts))], replace(ADA.account, care=care))
    world.add(replace(ADA.contact, zone="Asia/Kolkata"), MONDAY)
    for number, hours in enumerate(starts):
        world.enrol("ada", f"w{number}", MONDAY + timedelta(hours=hours))
    went = [moment.at for moment in world.run() for effect in moment.effects]
    for at in went:
        assert sum(at <= other < at + within for other in went) <= most


def test_who_has_waited_longest_goes_first_and_service_before_marketing() -> None:
    limit = MessageLimit(messages=1, within=Duration(1, "day"), purposes=("marketing", "service"))
    workflows = [ask(name=name, steps=[TEXT | {"purpose": purpose}]) for name, purpose in
                 [("first", "marketing"), ("second", "marketing"), ("third", "marketing"), ("news", "service")]]  # fmt: skip
    world = World(workflows, replace(ADA.account, care=Care(limits=(limit,))))
    world.add(ADA.contact, MONDAY)
    for hour, name in enumerate(["first", "third", "second", "news"]):
        world.enrol("ada", name, MONDAY + timedelta(hours=hour))
    went = [(moment.workflow, moment.at) for moment in world.run() if moment.effects]
    assert [name for name, _ in went] == ["first", "news", "third", "second"]
    assert [at - MONDAY for _, at in went] == [timedelta(days=day) for day in range(4)]


def test_the_fair_rule_is_an_order() -> None:
    service, old, new = (Waiting("service", MONDAY, "c"), Waiting("marketing", MONDAY, "b"),
                         Waiting("marketing", MONDAY + timedelta(1), "a"))  # fmt: skip
    assert sorted([new, old, service], key=turn_order) == [service, old, new]


# ---- pause and pace


def test_a_human_pause_varies_but_is_the_same_for_the_same_key() -> None:
    pause = HumanPause(shortest=20, longest=120)
    lengths = [pause.for_key(f"contact {n}", "step", 1).total_seconds() for n in range(400)]
    assert min(lengths) >= 20 and max(lengths) <= 120
    assert len(set(lengths)) > 80 and 60 < sum(lengths) / 400 < 80  # spread evenly: the mean is 70
    assert pause.for_key("a", "s", 1) == pause.for_key("a", "s", 1) != pause.for_key("a", "s", 2)
    once, again = (cared(Care(pause=pause)).messages[0][0] for _ in range(2))
    assert once == again and timedelta(seconds=20) <= once - MONDAY <= timedelta(seconds=120)


@given(
    st.floats(0.1, 600),
    st.integers(1, 50),
    st.lists(st.integers(0, 120_000), max_size=60).map(lambda gaps: [timedelta(milliseconds=gap) for gap in gaps]),
)
def test_a_sender_is_never_faster_than_its_pace_and_never_slower_than_it_must(
    each_minute: float, burst: int, gaps: list[timedelta]
) -> None:
    """The token bucket's bound: in any stretch T at most burst + T · rate messages go out; none waits without need."""
    pace, bucket, now = Pace(each_minute=each_minute, burst=burst), Bucket(), MONDAY
    went: list[datetime] = []
    for gap in gaps:
        now += gap
        bucket, goes = bucket.take(pace, now)
        assert goes >= now and (not went or goes >= went[-1])
        if goes > now + timedelta(milliseconds=1):  # it waits only behind `burst` others that used the tokens up
            assert len(went) >= burst and goes - went[-burst] <= burst * pace.gap + timedelta(milliseconds=1)
        went.append(goes)
    for first in range(len(went)):
        for last in range(first, len(went)):
            stretch = (went[last] - went[first]).total_seconds() / 60
            assert last - first + 1 <= burst + stretch * each_minute + 1e-3


def test_the_world_spaces_the_messages_of_a_sender() -> None:
    care = Care(pace={"": Pace(each_minute=2)})
    mail = {"kind": "email", "id": "e", "message": {"name": "E", "subject": "S", "body": "B"}}
    world = World([ask(steps=[TEXT, mail])], replace(ADA.account, care=care))
    for number in range(4):
        world.add(replace(ADA.contact, id=str(number)), MONDAY)
        world.enrol(str(number), ask().name, MONDAY)
    for number, moment in enumerate(world.run()):  # email does not wait for texts
        assert [at - MONDAY for at in moment.goes.values()] == [timedelta(seconds=30 * number)] * 2


# ---- trickle


def test_a_trickle_of_five_a_day_over_weekdays_finishes_on_the_day_it_says() -> None:
    weekdays = Trickle(count=5, each="day", weekdays=("mon", "tue", "wed", "thu", "fri"))
    portions = list(weekdays.plan(32, MONDAY, "Europe/London"))
    assert [portion.count for portion in portions] == [5] * 6 + [2]
    assert portions[-1].at == weekdays.finishes(32, MONDAY, "Europe/London") == datetime(2026, 3, 10, 9, tzinfo=UTC)
    assert weekdays.finishes(0, MONDAY, "Europe/London") is None
    with pytest.raises(TooSlow):
        Trickle(count=1).finishes(5_000, MONDAY, "Europe/London")


@given(
    st.integers(1, 400),
    st.integers(1, 50),
    st.sampled_from(["minute", "hour", "day"]),
    joinings,
    st.sampled_from(ZONES),
)
def test_a_trickle_brings_everybody_in_order_within_its_days_and_hours(
    people: int, count: int, each: Any, begin: datetime, zone: str
) -> None:
    trickle = Trickle(count=count, each=each, weekdays=("mon", "wed", "sat"), start=time(9, 30), end=time(16))
    portions = list(trickle.plan(people, begin, zone))
    assert sum(portion.count for portion in portions) == people
    moments = [portion.at for portion in portions]
    assert moments == sorted(set(moments)) and moments[0] >= begin
    for portion in portions:
        local = to_local(portion.at, zone)
        assert local.weekday() in (0, 2, 5) and time(9, 30) <= local.time() < time(16)
        assert 0 < portion.count <= count


# ---- consent and reach


ASKS = Care(policy={"marketing": "ask_first", "service": "ask_first"})


def test_consent_is_by_channel_and_purpose_and_do_not_contact_is_above_all() -> None:
    said = (Consent("text", "marketing", "withdrawn"), Consent("email", "marketing", "given"))
    contact = Contact(email="a@example.com", mobile="+447700900123", consents=said)
    assert why_closed(contact, "text") == "opted out of texts for marketing"
    assert why_closed(contact, "text", "service") == ""
    assert why_closed(contact, "email", "marketing", ASKS) == ""
    assert why_closed(contact, "email", "service", ASKS) == "has not agreed to email for service"
    assert why_closed(contact, "letter") == "no postal address"
    assert why_closed(replace(contact, do_not_contact=True), "email") == "not to be contacted"


@pytest.mark.parametrize(
    ("contact", "taken", "why"),
    [
        # Who named no preference gets email.
        ({}, "email", "email: default, allowed"),
        ({"channel_order": ("text",)}, "text", "text: preferred, allowed"),
        ({"channel_order": ("text",), "consents": withdrawn("text")}, "email",
         "text: preferred, but opted out of texts; email: default, allowed"),
        ({"exhausted": frozenset({"email"})}, "text",
         "email: default, but the address for email does not work; text: next in the message, allowed"),
        ({"channel_order": ("letter", "text")}, "text", "text: preferred, allowed"),  # there is no letter to post
        ({"email": "", "mobile": ""}, None, "email: default, but no email address; text: next in the message, but no mobile number"),
    ],
)  # fmt: skip
def test_a_message_takes_the_first_channel_preferred_allowed_and_working(
    contact: dict[str, Any], taken: str | None, why: str
) -> None:
    choice = choose(replace(ADA.contact, **contact), ("text", "email"), "marketing", Care())
    assert (choice.channel, choice.describe()) == (taken, why)


def test_reach_sends_the_version_of_the_channel_it_takes() -> None:
    step = {
        "kind": "reach",
        "id": "r",
        "name": "News",
        "text": {"body": "Short"},
        "email": {"subject": "S", "body": "Long"},
    }
    [(_, message)] = cared(Care(), steps=[step], channel_order=("text",)).messages
    assert (message.channel, message.name, message.body) == ("text", "News", "Short")


# ---- words. Out: 47 CFR 64.1200(a)(10) (from memory, as DESIGN.md lists them). In and help: common practice of carriers.


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("Stop.", "out"), ("STOP", "out"), ("stop please", "out"), ("Opt-out!", "out"), ("UNSUBSCRIBE", "out"),
        ("Start", "in"), ("UNSTOP", "in"), ("HELP", "help"), ("info?", "help"),
        ("stop by on Friday?", ""), ("please don't stop", ""), ("start me on the Tuesday course", ""),
        ("can you help?", ""), ("the end", ""), ("I quit my job", ""), ("", ""),
    ],
)  # fmt: skip
def test_a_word_counts_as_a_whole_message_and_else_a_person_reads_it(text: str, what: str) -> None:
    assert keyword(text) == what
