"""A sitting as a whole, as the team deals with it: moved with all who are in it, given by somebody else, or not held; and a day on
which somebody cannot come. Each who is in it is told what became of it, where the team says so."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from django.db import IntegrityError, transaction
from django.db.backends.postgresql.psycopg_any import DateTimeTZRange

from bluffside.core.appointments.calendar_text import day_span
from bluffside.core.appointments.free import at_time_of
from bluffside.server.appointments import calendars, offering, telling
from bluffside.server.appointments.booking import NotFree, one_is_quicker, type_of
from bluffside.server.appointments.models import (
    Busy,
    BusyCalendar,
    CalendarFeed,
    MemberHours,
    Sitting,
    Taken,
    Waiting,
)
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.events.stream import Cause
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Person


def standing_in(sitting: Sitting) -> list[Appointment]:
    rows = Appointment.objects.filter(pk__in=sitting.taken_places.values("appointment"), state__in=diary.STANDING)
    return list(rows.select_related("account", "contact", "first").order_by("id"))


@one_is_quicker()
@transaction.atomic
def move(sitting: Sitting, start: datetime, member: Person | None, by: Person, tell: bool) -> None:
    """With all who are in it; of a course, this one date. `member`: who gives it from then on, if somebody else. Raises NotFree, and
    then nothing has moved."""
    row = Sitting.objects.select_for_update(of=("self",)).select_related("type__account").get(pk=sitting.pk)
    if start <= clock.now():
        raise NotFree("That moment is past.")
    offer = offering.offer_of(row.type)
    if member and member.pk not in offer.members:
        raise NotFree(f"{member.name} does not give “{row.type.name}”.")
    if Sitting.objects.filter(type=row.type, start=start).exclude(pk=row.pk).exists():
        raise NotFree("There is another one of it at that time.")
    try:
        with transaction.atomic():
            row.taken.update(during=DateTimeTZRange(*offer.takes(start)))
            if member:
                _give_to(row, member)
    except IntegrityError:
        raise NotFree("Somebody, or something, that it needs is taken then.") from None
    row.start, row.end = start, start + (row.end - row.start)
    row.save(update_fields=["start", "end"])
    for one in standing_in(row):
        moved = diary.move(one, start, Cause(actor=by), member=member)
        if tell:
            say(moved, "moved", f"Your appointment is moved: {calendars.in_words(moved)}.", by)


def _give_to(sitting: Sitting, member: Person) -> None:
    if not sitting.taken.filter(member__isnull=False).update(member=member):
        during = DateTimeTZRange(*offering.offer_of(sitting.type).takes(sitting.start))
        Taken.objects.create(account_id=sitting.account_id, sitting=sitting, member=member, during=during)


@transaction.atomic
def call_off(sitting: Sitting, by: Person, tell: bool, why: str = "") -> int:
    """It is not held: all who are in it are cancelled (of a course, this date), and nobody waits for it any more. Answers how many."""
    kind = sitting.type
    Waiting.objects.filter(sitting=sitting).delete()
    found = standing_in(sitting)
    for one in found:
        gone = diary.settle(one, Appointment.State.CANCELLED, Cause(actor=by), whole=False)
        if tell:
            again = f" Choose another time: {offering.page_of(kind)}" if kind.open else ""
            say(gone, "cancelled", f"{why}{calendars.in_words(gone)} cannot take place, we are sorry.{again}", by)
    return len(found)


def say(one: Appointment, change: diary.Change, words: str, by: Person) -> None:
    """To whoever has it, unless the mail with its entry says it already."""
    way = telling.way_to(one.contact)
    kind = type_of(one)
    by_mail = kind is not None and offering.offer_of(kind).calendar
    if way and (way[0] != "email" or not by_mail or change == "cancelled"):
        if change == "moved":
            words += f" {calendars.entry_of(one.first or one).page}"
        telling.tell(
            one.contact,
            f"{change}:{one.pk}:{one.sequence}",
            "About your appointment",
            "About your appointment",
            words,
            by,
        )


# ---- somebody cannot come


@dataclass(frozen=True, slots=True)
class Affected:
    """A sitting on days on which whoever gives it cannot, with who is in it. `by`: who else is free then and gives it; None: nobody
    is, and it is called off."""

    sitting: Sitting
    people: list[Appointment]
    by: Person | None


def affected(account: Account, member: Person, first: date, last: date) -> list[Affected]:
    """What stands on the account's days from the first to the last, and what would become of it."""
    span = day_span(first, last, account.zone)
    rows = Sitting.objects.filter(
        account=account, taken__member=member, start__gte=max(span.start, clock.now()), start__lt=span.end
    )
    found: list[Affected] = []
    given: list[tuple[int, datetime, datetime]] = []  # in this plan, to whom and from when until when
    for sitting in rows.select_related("type__account").order_by("start", "id"):
        begins, ends = offering.offer_of(sitting.type).takes(sitting.start)
        taken = [who for who, start, end in given if start < ends and begins < end]
        other = _who_else(sitting, member, taken)
        if other:
            given.append((other.pk, begins, ends))
        found.append(Affected(sitting, standing_in(sitting), other))
    return found


def _who_else(sitting: Sitting, member: Person, taken: Sequence[int]) -> Person | None:
    """Somebody who gives this type and is free at that time."""
    kind, offer = sitting.type, offering.offer_of(sitting.type)
    offer = offer.model_copy(update={"dates": 1, "things": ()})
    one = at_time_of(offer, offering.around(kind, *offer.takes(sitting.start), [sitting.pk]), sitting.start)
    others = [who for who in (one.members if one else ()) if who != member.pk and who not in taken]
    return Person.objects.filter(pk=others[0]).first() if others else None


@transaction.atomic
def away(account: Account, member: Person, first: date, last: date, by: Person, why: str, tell: bool) -> list[Affected]:
    """Somebody cannot come on some days: nobody can book them then; what stands is given by whoever else is free, or called off.
    Answers what became of each."""
    span = day_span(first, last, account.zone)
    Busy.objects.create(account=account, member=member, start=span.start, end=span.end, why=why[:120])
    done = affected(account, member, first, last)
    for one in done:
        if one.by is None:
            call_off(one.sitting, by, tell, f"{why}: " if why else "")
            continue
        _give_to(one.sitting, one.by)
        for appointment in one.people:
            appointment.member = one.by
            appointment.save(update_fields=["member"])
            if tell:
                words = f"{one.by.first_name} instead of {member.first_name} is there for you: {calendars.in_words(appointment)}."
                telling.tell(
                    appointment.contact, f"given:{appointment.pk}:{one.by.pk}", "About your appointment",
                    "About your appointment", words, by,
                )  # fmt: skip
    said = f"{first:%-d %B}" if first == last else f"{first:%-d %B} to {last:%-d %B}"
    audit.note(
        account,
        by,
        "appointments",
        [audit.Noted(f"{member.name} cannot come", "", f"{said}{': ' if why else ''}{why}")],
    )
    return done


@transaction.atomic
def hand_over(account: Account, leaver: Person, to: Person | None) -> None:
    """Somebody has left: their time that is taken is whoever's who takes over, where that one is free, else nobody's; and nothing more
    is known here of when they can be booked."""
    for sitting in Sitting.objects.filter(account=account, taken__member=leaver, start__gt=clock.now()):
        rows = sitting.taken.filter(member=leaver)
        try:
            with transaction.atomic():
                rows.update(member=to) if to else rows.delete()
        except IntegrityError:  # they are somewhere else then: the team has to settle it
            rows.delete()
    for model in (MemberHours, BusyCalendar, Busy, CalendarFeed):
        model._default_manager.filter(account=account, member=leaver).delete()
