"""What is said relative to a date follows the date: core.engine.replanning, in the rehearsal's world."""

from datetime import UTC, date, datetime, timedelta
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.engine.effects import CallOff
from bluffside.core.events import Event
from bluffside.core.facts import Appointment, Contact, Facts
from bluffside.core.rehearsal.rehearse import Rehearsal, rehearse
from bluffside.core.timing.local import to_local
from tests.core.examples import ADA, ask

START = datetime(2026, 2, 2, 9, tzinfo=UTC)  # a Monday in winter: London is at UTC, and no clock changes for weeks


def reminder(offset: str, **more: Any) -> list[dict[str, Any]]:
    name = offset.replace(" ", "-")
    text = {"kind": "text", "id": f"say-{name}", "message": {"name": offset, "body": "{{ appointment.day }}"}}
    return [{"kind": "around", "id": name, "offset": offset, **more}, text]


REMINDS = ask(steps=[*reminder("2 days"), *reminder("3 hours")], leaves_on=[])
RENEWS = ask(steps=[*reminder("1 week", field="renewal", at="09:00"), *reminder("1 day", field="renewal", at="09:00")])


def booked(start: datetime) -> Facts:
    contact = Contact(id="c", mobile="+447700900123", appointments=(Appointment("v", "Taster", start),))
    return Facts(contact, ADA.account, ADA.member)


def moved(at: datetime, start: datetime) -> tuple[datetime, Event]:
    return at, Event("appointment.moved", at, {"appointment": "v", "type": "Taster", "start": start})


def lived(first: datetime, *moves: tuple[datetime, datetime], joined: datetime = START) -> Rehearsal:
    return rehearse(REMINDS, booked(first), joined, [moved(*one) for one in moves], about={"appointment": "v"})


def sent(played: Rehearsal) -> list[tuple[datetime, str]]:
    return [(at, message.name) for at, message in played.messages]


def sentences(played: Rehearsal) -> str:
    return " ".join(reason.sentence for moment in played.moments for reason in moment.reasons)


def on(day: int, hour: int) -> datetime:
    return datetime(2026, 2, day, hour, tzinfo=UTC)


def test_a_reminder_left_out_for_tomorrow_comes_when_the_appointment_moves_to_friday() -> None:
    assert sent(lived(on(3, 14))) == [(on(3, 11), "3 hours")]
    played = lived(on(3, 14), (on(2, 12), on(6, 14)))
    assert sent(played) == [(on(4, 14), "2 days"), (on(6, 11), "3 hours")]
    assert "has passed; leaves out what follows" in sentences(played) and "Planned anew" in sentences(played)
    assert [message.body for _, message in played.messages] == ["Friday 6 February"] * 2


def test_one_that_had_gone_for_the_old_date_comes_once_for_the_new_one() -> None:
    played = lived(on(6, 14), (on(5, 9), on(13, 14)))
    assert sent(played) == [(on(4, 14), "2 days"), (on(11, 14), "2 days"), (on(13, 11), "3 hours")]


def test_who_has_had_them_all_stays_until_the_appointment_in_case_it_moves() -> None:
    quiet = lived(on(6, 14))
    assert (quiet.moments[-1].at, quiet.state.ended) == (on(6, 14), "came to the end")
    assert "Stays until Fri 6 Feb, 14:00: if that moves" in sentences(quiet)
    played = lived(on(6, 14), (on(6, 12), on(9, 14)))
    assert sent(played)[2:] == [(on(7, 14), "2 days"), (on(9, 11), "3 hours")]
    assert played.moments[-1].at == on(9, 14)


def test_what_is_past_for_the_new_date_is_left_out_and_said() -> None:
    played = lived(on(13, 14), (on(11, 15), on(12, 14)))  # a day earlier, when "2 days" has gone
    assert sent(played) == [(on(11, 14), "2 days"), (on(12, 11), "3 hours")]
    assert "Left out again: 2 days before the appointment on Thu 12 Feb, 14:00; that was" in sentences(played)


def test_what_has_not_gone_out_for_the_old_date_is_called_off() -> None:
    played = lived(on(6, 14), (on(5, 9), on(13, 14)))
    [off] = [effect for _, effect in played.effects if isinstance(effect, CallOff)]
    assert off.lines == ("2-days", "say-2-days", "3-hours", "say-3-hours")
    cancelled = Event("appointment.cancelled", on(6, 12), {"appointment": "v", "type": "Taster"})
    over = rehearse(REMINDS, booked(on(6, 14)), START, [(on(6, 12), cancelled)], about={"appointment": "v"})
    assert (over.moments[-1].at, over.state.ended) == (on(6, 12), "came to the end")


def test_a_date_in_a_field_is_followed_the_same() -> None:
    contact = Contact(id="c", mobile="+447700900123", fields={"renewal": date(2026, 2, 13)})
    later = {"field": "renewal", "old": date(2026, 2, 13), "new": date(2026, 3, 2)}
    played = rehearse(
        RENEWS, Facts(contact, ADA.account), START, [(on(12, 12), Event("field.changed", on(12, 12), later))]
    )
    days = [(to_local(at, "Europe/London").date().isoformat(), name) for at, name in sent(played)]
    assert days == [
        ("2026-02-06", "1 week"),
        ("2026-02-12", "1 day"),
        ("2026-02-23", "1 week"),
        ("2026-03-01", "1 day"),
    ]


OFFSETS = {"2 days": timedelta(days=2), "3 hours": timedelta(hours=3)}
hours = st.integers(1, 24 * 6).map(lambda number: timedelta(hours=number))


@given(hours, st.lists(st.tuples(hours, hours), max_size=5))
def test_each_reminder_comes_once_for_each_date_that_stands_when_its_time_is_there(
    first: timedelta, changes: list[tuple[timedelta, timedelta]]
) -> None:
    """Against the rule said in another way: a date stands from when it was said until it moves or comes; of its reminders
    those go whose time lies in that."""
    at, start = START, START + first
    stands, moves = [(at, start)], []
    for after, ahead in changes:
        if at + after >= start:  # it has begun: whoever moves it then books anew
            break
        at, start = at + after, at + after + ahead
        moves.append((at, start))
        stands.append((at, start))
    expected = []
    for (since, start), until in zip(stands, [*(at for at, _ in moves), datetime.max.replace(tzinfo=UTC)], strict=True):
        times = [(start - before, name) for name, before in OFFSETS.items()]
        expected += [(time, name) for time, name in times if since <= time < until]
    assert sent(lived(START + first, *moves)) == expected
