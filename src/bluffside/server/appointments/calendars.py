"""Appointments as iCalendar: the entry that who booked is sent by email, and the calendars that the team follows by secret addresses
(core.appointments.calendar_text)."""

import secrets
from datetime import datetime, timedelta
from typing import Literal
from urllib.parse import urlsplit

from django.conf import settings
from django.db import transaction

from bluffside.core.appointments.calendar_text import Entry, Party, Reply, calendar, invitation
from bluffside.core.timing.local import to_local
from bluffside.core.words import weekday_in
from bluffside.server.appointments import booking, offering, telling
from bluffside.server.appointments.models import CalendarFeed
from bluffside.server.appointments.times import when
from bluffside.server.capture.leads import digest_of
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.messaging.outbox import Draft, queue
from bluffside.server.people.signed import appointment_link
from bluffside.server.practice import audit, clock
from bluffside.server.practice.access import role_in
from bluffside.server.practice.models import Account, Person

BEFORE, AHEAD = timedelta(days=31), timedelta(days=366)  # of now, that a calendar to follow shows
MOST = 5_000
USUAL = timedelta(hours=1)  # of what was booked without a length
State = Appointment.State
SAID = {
    "booked": ("You are booked", "You are booked: {what}."),
    "moved": ("Your new time", "Your appointment is moved: {what}."),
    "cancelled": ("Cancelled", "This is cancelled: {what}."),
}


def uid_of(one: Appointment) -> str:
    """The same as long as the appointment is kept, whatever becomes of it (RFC 7986, 5.3)."""
    return f"appointment-{one.account_id}-{one.pk}@{urlsplit(settings.ADDRESS).hostname or 'bluffside'}"


def entry_of(one: Appointment) -> Entry:
    """What whoever booked puts into their calendar; of a course, all its dates that stand as one entry, which is newer with each of
    them that changes."""
    dates = list(diary.dates_of(one))
    standing = [each for each in dates if each.state != State.CANCELLED] or dates
    first, page = standing[0], appointment_link(one.account_id, one.pk)
    return Entry(
        uid_of(one), sum(each.sequence for each in dates), first.start, first.end or first.start + USUAL,
        f"{one.type}, {one.account.name}", one.place, f"Move or cancel it: {page}", page, _status(first), clock.now(),
        [each.start for each in standing[1:]],
    )  # fmt: skip


def _status(one: Appointment) -> Literal["CONFIRMED", "CANCELLED"]:
    return "CANCELLED" if one.state == State.CANCELLED else "CONFIRMED"


def entry_for_team(one: Appointment) -> Entry:
    """Each date is an entry of its own, and says whose it is."""
    about = "\n".join(filter(None, (one.contact.mobile, one.contact.email)))
    return Entry(
        uid_of(one), one.sequence, one.start, one.end or one.start + USUAL, f"{one.type}: {one.contact.name}", one.place,
        about, "", _status(one), clock.now(),
    )  # fmt: skip


def send_entry(changed: Appointment, change: diary.Change) -> None:
    """Called when an appointment is changed: whoever has it is sent its entry as it is now, or that it is gone, where its type says
    so and an email may reach them. Several changes of a course at once are one mail."""
    one = changed.first or changed
    kind = booking.type_of(one)
    if (
        change == "missed"
        or kind is None
        or not offering.offer_of(kind).calendar
        or (way := telling.way_to(one.contact, ("email",))) is None
    ):
        return
    account, (channel, address), entry = one.account, way, entry_of(one)
    if change == "cancelled" and entry.state != "CANCELLED":
        change = "moved"  # others of its dates stand
    day = weekday_in(account.language, to_local(entry.start, account.zone).date())
    name, words = SAID[change]
    body = words.format(what=_said(one, entry.start) + (f", {one.place}" if one.place else ""))
    if change != "cancelled":
        thanks = offering.offer_of(kind).thanks
        body += f"\n\n{thanks}" if thanks and change == "booked" else ""
        body += f"\n\nTo confirm, move or cancel it: {entry.page}"
    organizer = Party(account.sender_name or account.name, account.sender_email)
    queue(account, [
        Draft(
            one.contact_id, f"calendar:{one.pk}:{entry.sequence}", channel, "service", address, body, name=name,
            subject=f"{name}: {one.type}, {day}", calendar=invitation(entry, organizer, Party(one.contact.name, address)),
        )
    ])  # fmt: skip


# ---- what comes back


def take_reply(account: Account, reply: Reply, sender: str) -> bool:
    """A mail program answers an entry: accepting confirms, declining tells the team and changes nothing else; nobody but whoever has
    it can answer. Answers whether it is about an appointment of this account."""
    number = reply.uid.partition("@")[0].removeprefix(f"appointment-{account.pk}-")
    found = Appointment.objects.filter(
        account=account, pk=int(number) if number.isdecimal() and len(number) < 19 else 0
    )
    one = found.select_related("account", "contact", "member").first()
    if one is None or uid_of(one) != reply.uid:
        return False
    if {sender, reply.attendee} != {one.contact.email.lower()} or reply.sequence < entry_of(one).sequence:
        return True  # an answer to what is not so any more
    if reply.answer == "accepted" and one.state == State.BOOKED:
        diary.settle(one, State.CONFIRMED)
    elif reply.answer == "declined" and one.state in diary.STANDING:
        tell_team(
            one,
            f"{one.contact.name} cannot come: {in_words(one)}. Their calendar declined it; it stands until somebody settles it.",
        )
    return True


def in_words(one: Appointment) -> str:
    return _said(one, one.start)


def _said(one: Appointment, start: datetime) -> str:
    return f"{one.type}, {when(start, one.account.zone, one.account.language)}"


def tell_team(one: Appointment, words: str) -> None:
    """Whoever gives it, else who is responsible."""
    person = one.member or one.contact.responsible or one.account.responsible
    if person:
        key = f"declined:{one.pk}:{one.sequence}"
        diary.tell(one.account, [diary.NewNotice(one.contact_id, key, person.pk, words, True, True)])


# ---- calendars to follow


@transaction.atomic
def new_feed(account: Account, member: Person | None, by: Person) -> str:
    """Makes the secret address of a calendar, in the place of the one before, which shows nothing any more. It is shown once."""
    secret = secrets.token_urlsafe(24)
    CalendarFeed.objects.filter(account=account, member=member).delete()
    CalendarFeed.objects.create(account=account, member=member, digest=digest_of(secret), made_at=clock.now())
    whose = f"of {member.name}" if member else "of all appointments"
    audit.note(account, by, "appointments", [audit.Noted(f"the calendar {whose}", "", "a new address")])
    return f"{settings.ADDRESS}/calendar/{secret}.ics"


@transaction.atomic
def drop_feed(account: Account, member: Person | None, by: Person) -> None:
    if CalendarFeed.objects.filter(account=account, member=member).delete()[0]:
        whose = f"of {member.name}" if member else "of all appointments"
        audit.note(account, by, "appointments", [audit.Noted(f"the calendar {whose}", "", "taken away")])


def feed(account: Account, secret: str) -> str | None:
    """The calendar of that address; None when somebody has left meanwhile."""
    one = CalendarFeed.objects.filter(account=account, digest=digest_of(secret)).select_related("member").first()
    if one is None or (one.member and not (one.member.is_active and role_in(one.member, account))):
        return None
    now = clock.now()
    rows = Appointment.objects.filter(account=account, start__gt=now - BEFORE, start__lt=now + AHEAD)
    rows = rows.filter(member=one.member) if one.member else rows
    name = f"{one.member.name}, {account.name}" if one.member else account.name
    return calendar(
        name, [entry_for_team(one) for one in rows.select_related("contact").order_by("start", "id")[:MOST]]
    )
