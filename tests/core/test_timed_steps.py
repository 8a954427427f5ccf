"""The five practices of timing, side by side, with what is done when a time has passed, and why it is what it is."""

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.care.house import Care
from bluffside.core.care.quiet import QuietHours
from bluffside.core.engine.effects import CallOff
from bluffside.core.engine.signals import Happened, Joined
from bluffside.core.engine.turn import Setting
from bluffside.core.events import Event
from bluffside.core.facts import Appointment, Contact
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.steps import KINDS
from bluffside.core.steps.timed import Settled, Timed
from bluffside.core.timing.hours import SendingHours
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.timing.yearly import LEAP_WORDS, LeapDay, in_year
from bluffside.core.triggers.date_comes import DateComes
from bluffside.core.workflow.reading import read
from tests.core.examples import ADA, MONDAY, ask
from tests.core.making import ZONES, joinings, timed

LONDON = "Europe/London"


def local(text: str, zone: str = LONDON) -> datetime:
    """ "2026-03-02 09:00" as an instant."""
    return to_instant(datetime.fromisoformat(text), zone)


def step(kind: str, **parts: Any) -> Timed:
    made = KINDS[kind].model_validate({"kind": kind, "id": "s", **parts})
    assert isinstance(made, Timed)
    return made


def setting(joined: str = "2026-03-02 09:00", zone: str = LONDON, **parts: Any) -> Setting:
    return Setting(zone, joined=local(joined, zone), home=zone, **parts)


def settled(made: Timed, reached: str, where: Setting | None = None) -> tuple[str | None, Settled]:
    """When it goes on, as local words, and why."""
    where = where or setting()
    found = made.settle(local(reached, where.zone), where)
    return (to_local(found.at, where.zone).isoformat(" ", "minutes") if found.at else None), found


# ---- the practices. Common practice, with no source but the trade's: "day 2" is not "two days later".


@pytest.mark.parametrize(
    ("made", "reached", "goes_on"),
    [
        (step("wait", duration="2 days"), "2026-03-04 15:20", "2026-03-06 15:20"),  # so long after the line before
        (step("wait", duration="2 days", at="10:00"), "2026-03-04 15:20", "2026-03-06 10:00"),
        (step("wait", duration="90 minutes"), "2026-03-04 15:20", "2026-03-04 16:50"),  # exact hours and minutes
        (step("wait", duration="3 hours", at="10:00"), "2026-03-04 15:20", "2026-03-05 10:00"),
        (step("on_day", day=2, at="09:30"), "2026-03-02 15:20", "2026-03-04 09:30"),  # day N from joining
        (step("on_day", day=2, at="09:30"), "2026-03-03 23:00", "2026-03-04 09:30"),
        (step("on_date", date="2026-03-18", at="09:00"), "2026-03-04 15:20", "2026-03-18 09:00"),  # a calendar date
        (step("on_weekday", weekdays=["mon"], at="09:00"), "2026-03-04 15:20", "2026-03-09 09:00"),  # begin on a Monday
        (step("on_weekday", weekdays=["mon"], at="09:00"), "2026-03-02 08:00", "2026-03-02 09:00"),
        (step("next_time", rule="FREQ=MONTHLY;BYDAY=-1FR", at="16:00"), "2026-03-04 15:20", "2026-03-27 16:00"),
    ],
)
def test_each_practice_says_when(made: Timed, reached: str, goes_on: str) -> None:
    assert settled(made, reached)[0] == goes_on


def test_a_series_anchored_on_joining_catches_up_and_one_chained_on_the_line_before_does_not() -> None:
    """Common practice: where an answer held somebody up for three days, "day 5" stays day 5."""
    late = "2026-03-05 09:00"
    assert settled(step("on_day", day=5, at="09:00"), late)[0] == "2026-03-07 09:00"
    assert settled(step("wait", duration="5 days", at="09:00"), late)[0] == "2026-03-10 09:00"


# ---- a time that has passed: now, the next day, or left out; shown, never silent


@pytest.mark.parametrize(
    ("if_past", "goes_on", "said"),
    [
        ("go_on", "2026-03-09 15:20", "goes on at once"),
        ("next_day", "2026-03-10 09:00", "goes on the next day at that time"),
        ("leave_out", None, "leaves out what follows"),
    ],
)
def test_what_has_passed_is_dealt_with_as_chosen_and_the_sentence_says_so(
    if_past: str, goes_on: str, said: str
) -> None:
    made = step("on_day", day=5, at="09:00", if_past=if_past)
    when, why = settled(made, "2026-03-09 15:20")
    assert when == goes_on
    assert said in made.describe()
    assert why.describe().startswith(f"day 5 at 09:00; that was Sat 7 Mar, 09:00 and has passed; {said}")


# Common practice: who joins a dated series on the 18th gets what is dated the 18th and later.
@pytest.mark.parametrize(
    ("reached", "if_past", "goes_on"),
    [
        ("2026-04-17 12:00", None, "2026-04-18 09:00"),
        ("2026-04-18 12:00", None, "2026-04-18 12:00"),
        ("2026-04-18 12:00", "next_day", "2026-04-19 09:00"),
        ("2026-04-18 12:00", "leave_out", None),
        ("2026-04-19 08:00", None, None),
        ("2026-04-19 08:00", "go_on", None),  # the day is gone, whatever is said of the hour
    ],
)
def test_who_comes_late_to_a_dated_line(reached: str, if_past: str | None, goes_on: str | None) -> None:
    assert settled(step("on_date", date="2026-04-18", at="09:00", if_past=if_past), reached)[0] == goes_on


# ---- weekdays and holidays


def test_a_time_on_an_excluded_day_moves_forward_and_says_why() -> None:
    hobart = setting("2026-03-03 10:00", "Australia/Hobart")  # a Tuesday; day 5 is a Sunday
    made = step("on_day", day=5, at="09:00", weekdays=["mon", "tue", "wed", "thu", "fri"])
    when, why = settled(made, "2026-03-03 10:00", hobart)
    assert when == "2026-03-09 09:00"
    assert why.describe() == "day 5 at 09:00; moved from Sun to Mon: weekends excluded; 09:00 Hobart"


def test_public_holidays_are_skipped_by_the_calendar_of_the_account() -> None:
    """The `holidays` package: Good Friday and Easter Monday of 2026 in England were 3 and 6 April."""
    easter = setting("2026-03-30 09:00", care=Care(holidays=HolidayCalendar(country="GB", region="ENG")))
    made = step("on_day", day=4, at="09:00", weekdays=["mon", "tue", "wed", "thu", "fri"], skip_holidays=True)
    when, why = settled(made, "2026-03-30 09:00", easter)
    assert when == "2026-04-07 09:00"
    assert "Good Friday excluded" in why.describe() and "Easter Monday excluded" in why.describe()


@given(timed, joinings, st.sampled_from(ZONES), st.integers(0, 60 * 24 * 40))
def test_days_and_windows_never_shorten_a_wait(data: dict[str, Any], joined: datetime, zone: str, after: int) -> None:
    """A line held to some weekdays, or off holidays, never goes on before the same line that is not, but for what
    reminds of something to come, which moves back; and no line goes on before it was reached."""
    held = KINDS[data["kind"]].model_validate(data | {"id": "s"})
    assert isinstance(held, Timed)
    visit = Appointment("v", "Taster", joined + timedelta(days=9))
    contact = Contact(fields={"birthday": date(1996, 2, 29)}, appointments=(visit,))
    where = Setting(zone, care=Care(holidays=HolidayCalendar(country="GB")), joined=joined, contact=contact)
    reached = joined + timedelta(minutes=after)
    when = held.settle(reached, where).at
    assert when is None or when >= reached
    if data.get("side") == "before" or data["kind"] == "on_weekday":
        return
    free = held.model_copy(
        update={"weekdays": ("mon", "tue", "wed", "thu", "fri", "sat", "sun"), "skip_holidays": False}
    )
    freely = free.settle(reached, where).at
    if when and freely and held.past_rule == free.past_rule:
        assert when >= freely


# ---- around an appointment or a date


def around(**parts: Any) -> Timed:
    return step("around", **({"offset": "2 days", "side": "before"} | parts))


def appointed(start: str, zone: str = LONDON, **parts: Any) -> Setting:
    visit = Appointment("v", "First visit", local(start, zone))
    return setting(zone=zone, contact=Contact(appointments=(visit,)), about={"appointment": "v"}, **parts)


# Common practice: a reminder two days before, and one on the morning.
@pytest.mark.parametrize(
    ("made", "reached", "goes_on"),
    [
        (around(at="09:00"), "2026-03-02 09:00", "2026-03-08 09:00"),
        (around(), "2026-03-02 09:00", "2026-03-08 14:30"),
        (around(at="09:00"), "2026-03-09 11:00", None),  # booked a day ahead: two days before has passed
        (around(offset="0 days", at="08:00"), "2026-03-09 11:00", "2026-03-10 08:00"),
        (around(offset="0 days", at="18:00"), "2026-03-09 11:00", "2026-03-10 14:30"),  # never after it
        (around(at="09:00", if_past="go_on"), "2026-03-09 11:00", "2026-03-09 11:00"),
        (around(at="09:00", if_past="go_on"), "2026-03-10 15:00", None),  # what it reminds of has begun
        (around(offset="1 hour", side="after"), "2026-03-02 09:00", "2026-03-10 15:30"),
    ],
)
def test_reminders_before_an_appointment_on_tuesday_10_march_at_half_past_two(
    made: Timed, reached: str, goes_on: str | None
) -> None:
    assert settled(made, reached, appointed("2026-03-10 14:30"))[0] == goes_on


def test_a_reminder_moves_back_before_quiet_hours_and_weekends_never_after_what_it_reminds_of() -> None:
    early = appointed("2026-03-10 07:30", care=Care(quiet=(QuietHours(),)))
    assert settled(around(offset="1 hour"), "2026-03-02 09:00", early)[0] == "2026-03-09 20:59"
    monday = appointed("2026-03-09 12:00")
    weekdays = around(offset="1 day", at="10:00", weekdays=["mon", "tue", "wed", "thu", "fri"])
    when, why = settled(weekdays, "2026-03-02 09:00", monday)
    assert when == "2026-03-06 10:00"
    assert "moved from Sun to Fri: weekends excluded" in why.describe()


def test_what_is_timed_by_an_appointment_or_a_field_is_computed_again_when_that_moves() -> None:
    steps = [
        {"kind": "around", "id": "before", "offset": "2 days", "at": "09:00"},
        {"kind": "text", "id": "remind", "message": {"name": "Soon", "body": "On {{ appointment.day }}"}},
        {"kind": "around", "id": "renewal", "offset": "1 week", "side": "before", "field": "renewal", "at": "10:00"},
        {"kind": "tag", "id": "asked", "tag": "renew"},
    ]
    contact = Contact(id="c", mobile="+447700900123", fields={"renewal": date(2026, 5, 1)},
                      appointments=(Appointment("v", "Taster", local("2026-03-10 14:30")),))  # fmt: skip
    facts = type(ADA)(contact, ADA.account, ADA.member)
    moved = {"appointment": "v", "type": "Taster", "start": local("2026-03-20 14:30")}
    later = {"field": "renewal", "old": date(2026, 5, 1), "new": date(2026, 6, 1)}
    events = [
        (MONDAY + timedelta(days=1), Event("appointment.moved", MONDAY, moved)),
        (MONDAY + timedelta(days=30), Event("field.changed", MONDAY, later)),
    ]
    played = rehearse(ask(steps=steps), facts, MONDAY, events, about={"appointment": "v"})
    effects = [(at, effect) for at, effect in played.effects if not isinstance(effect, CallOff)]
    assert [(to_local(at, LONDON).isoformat(" ", "minutes"), effect.step) for at, effect in effects] == [
        ("2026-03-18 09:00", "remind"),
        ("2026-05-25 10:00", "asked"),
    ]
    assert effects[0][1].body == "On Friday 20 March"  # type: ignore[attr-defined]


def test_a_reminder_held_by_the_hours_is_dropped_when_the_appointment_is_cancelled() -> None:
    hours = SendingHours(start=datetime(2026, 1, 1, 10).time(), end=datetime(2026, 1, 1, 12).time())
    steps = [
        {"kind": "around", "id": "b", "offset": "1 day", "if_past": "go_on"},
        {"kind": "text", "id": "remind", "message": {"name": "Soon", "body": "Soon"}},
    ]
    visit = Appointment("v", "Taster", local("2026-03-03 14:30"))
    facts = type(ADA)(Contact(id="c", mobile="+447700900123", appointments=(visit,)), ADA.account, ADA.member)
    workflow = ask(steps=steps, hours=hours.model_dump(mode="json"), leaves_on=[])
    cancelled = Event("appointment.cancelled", MONDAY, {"appointment": "v", "type": "Taster"})
    late = local("2026-03-02 20:00")
    assert [effect.step for _, effect in rehearse(workflow, facts, late).effects] == ["remind"]
    played = rehearse(workflow, facts, late, [(late + timedelta(hours=1), cancelled)])
    assert not played.messages
    assert any("is cancelled" in reason.sentence for moment in played.moments for reason in moment.reasons)


# ---- each year


def test_29_february_is_kept_as_chosen_and_said_plainly() -> None:
    leap = date(1996, 2, 29)
    assert [in_year(leap, 2026, how) for how in ("feb_28", "mar_1", "left_out")] == [
        date(2026, 2, 28), date(2026, 3, 1), None]  # fmt: skip
    assert {in_year(leap, 2028, how) for how in ("feb_28", "mar_1", "left_out")} == {date(2028, 2, 29)}
    born = setting(contact=Contact(fields={"birthday": leap}))
    when, why = settled(step("each_year", field="birthday", at="08:30"), "2026-03-02 09:00", born)
    assert when == "2027-02-28 08:30"
    assert "2027 has no 29 February: kept on 28 February" in why.describe()
    left_out = step("each_year", field="birthday", feb_29="left_out")
    when, why = settled(left_out, "2026-03-02 09:00", born)
    assert (when, why.why[1]) == ("2028-02-29 09:00", "2026 has no 29 February: left out until 2028")
    assert settled(step("each_year", field="birthday"), "2027-03-02 09:00", born)[1].why[1] == "09:00 London"


@pytest.mark.parametrize(("how", "said"), LEAP_WORDS.items())
def test_what_becomes_of_29_february_stands_in_every_sentence_it_can_concern(how: LeapDay, said: str) -> None:
    for one in (step("each_year", feb_29=how, **on) for on in ({"field": "birthday"}, {"date": "2024-02-29"})):
        assert one.describe().endswith(f" {said}.")
    assert step("each_year", date="2024-02-14", feb_29=how).describe().endswith("09:00.")
    assert DateComes(field="birthday", feb_29=how).describe().endswith(said)
    assert said not in DateComes(date=date(2024, 2, 14), feb_29=how).describe()
    assert said not in DateComes(field="birthday", often="once", feb_29=how).describe()
    on_the_day = {"kind": "each_year", "id": "y", "date": "2024-02-29", "feb_29": how}
    lines = read(ask(steps=[on_the_day]), MONDAY, "Europe/London").lines
    assert any("29 February" in why for why in lines[0].shifts)


# ---- nominal days across both clock changes, north and south (IANA time zone database; RFC 5545, 3.3.6 and 3.3.5)

FORWARD_AND_BACK = [
    ("Europe/London", "2026-03-28", "2026-10-24"),
    ("America/New_York", "2026-03-07", "2026-10-31"),
    ("Australia/Hobart", "2026-10-03", "2026-04-04"),
    ("Pacific/Auckland", "2026-09-26", "2026-04-04"),
]


@pytest.mark.parametrize(("zone", "forward", "back"), FORWARD_AND_BACK)
def test_nine_stays_nine_across_both_clock_changes_and_24_hours_do_not(zone: str, forward: str, back: str) -> None:
    for eve, shift in ((forward, 1), (back, -1)):
        where = setting(f"{eve} 09:00", zone)
        next_day = (date.fromisoformat(eve) + timedelta(days=1)).isoformat()
        assert settled(step("wait", duration="1 day"), f"{eve} 09:00", where)[0] == f"{next_day} 09:00"
        assert settled(step("on_day", day=1, at="09:00"), f"{eve} 09:00", where)[0] == f"{next_day} 09:00"
        exactly = settled(step("wait", duration="24 hours"), f"{eve} 09:00", where)[0]
        assert exactly == f"{next_day} {9 + shift:02}:00"


def test_a_time_that_the_clock_change_skips_is_read_with_the_offset_before_the_gap() -> None:
    """RFC 5545, 3.3.5: 02:30 on the night the clocks go forward in New York is 03:30."""
    where = setting("2026-03-07 09:00", "America/New_York")
    assert settled(step("on_day", day=1, at="02:30"), "2026-03-07 09:00", where)[0] == "2026-03-08 03:30"


def test_the_line_that_waits_keeps_its_reason() -> None:
    steps = [{"kind": "on_day", "id": "d", "day": 5, "at": "09:00", "weekdays": ["mon", "tue", "wed", "thu", "fri"]}]
    played = rehearse(ask(steps=steps), ADA, datetime(2026, 3, 3, 10, tzinfo=UTC))
    assert isinstance(played.moments[0].signal, Joined)
    assert played.moments[0].reasons[-1].sentence == (
        "Waits until Mon 9 Mar, 09:00: day 5 at 09:00; moved from Sun to Mon: weekends excluded; 09:00 London."
    )
    assert not any(isinstance(moment.signal, Happened) for moment in played.moments)
