"""Appointments at the sailing school in the demo: taster sails with two instructors, an evening class that is full, a course of four
Saturdays, and who came. Booked as anybody books."""

import random
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime, timedelta
from functools import partial

from bluffside.core.timing.local import to_local
from bluffside.server.appointments import booking, offering, waiting
from bluffside.server.appointments.models import AppointmentType, MemberHours
from bluffside.server.demo.cast import PASSWORD
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Membership, Person

At = Callable[[datetime, Callable[[], object]], None]
TASTER, CLASS, COURSE = "Taster sail", "Evening on the water", "First steps, four Saturdays"
SECOND = ("Ansel Drewe", "ansel@example.com", "+447700900104")
HOURS = (
    {day: [{"start": "09:30", "end": "17:00"}] for day in ("tue", "wed", "thu", "fri", "sat")},
    {day: [{"start": "10:00", "end": "18:00"}] for day in ("thu", "fri", "sat", "sun")},
)
State = Appointment.State


class Bookings:
    def __init__(self, account: Account, by: Person, at: At, end: datetime, chance: random.Random) -> None:
        self.account, self.by, self.at, self.end, self.chance = account, by, at, end, chance

    def live(self, start: datetime) -> None:
        """Plans five weeks of them: more come the nearer the end is."""
        self.at(start + timedelta(hours=1), self._set_up)
        hours = (self.end - start).total_seconds() / 3_600
        for _ in range(64):
            when = start + timedelta(hours=self.chance.triangular(8, hours, hours * 0.8))
            self.at(when, partial(self._book, TASTER, 16))
        for _ in range(24):
            when = start + timedelta(hours=self.chance.triangular(8, hours - 60, hours * 0.5))
            self.at(when, partial(self._book, CLASS, 8))
        for number in range(4):
            self.at(self.end - timedelta(days=6, hours=number), partial(self._book, COURSE, 30))
        self.at(self.end - timedelta(hours=40), self._fill_class)

    def _set_up(self) -> None:
        members = [one.person for one in self.account.memberships.select_related("person").order_by("id")]
        name, email, phone = SECOND
        second = Person.objects.create_user(email, PASSWORD, name=name, phone=phone, practice=self.account.practice)
        Membership.objects.create(account=self.account, person=second, role=Membership.Role.TEAM)
        for person, days in zip((members[0], second), HOURS, strict=True):
            MemberHours.objects.create(account=self.account, member=person, hours={"days": days})
        boats = [self.account.things.create(name=name).pk for name in ("Dinghy 3", "Dinghy 4")]
        both, place = [members[0].pk, second.pk], "The Old Slip, Tern Harbour"
        self._type(
            TASTER, minutes=60, every=60, after=15, members=both, things=boats, place=place, price="£38 for one",
            about="An hour in a dinghy with an instructor. Wear what may get wet; we have jackets for all sizes.",
            thanks="Bring old trainers and a change of clothes.",
        )  # fmt: skip
        self._type(
            CLASS, minutes=120, begins=["18:30"], weekdays=["thu"], members=[second.pk], places=12, waiting_hours=12,
            change_hours=12, place=place, price="£22", about="Two hours in the keelboats, for whoever has sailed before.",
        )  # fmt: skip
        self._type(
            COURSE, minutes=180, begins=["10:00"], weekdays=["sat"], dates=4, members=[second.pk], places=6, ahead_days=90,
            change_hours=72, place=place, price="£240 for all four", about="From the first knot to the first tack.",
        )  # fmt: skip

    def _type(self, name: str, **offer: object) -> None:
        offering.change(offering.make(self.account, name, self.by), offer, self.by)

    def _people(self) -> list[Contact]:
        rows = Contact.objects.filter(account=self.account, do_not_contact=False).exclude(mobile="", email="")
        return list(rows.order_by("id"))

    def _book(self, name: str, days: int) -> None:
        kind, people = AppointmentType.objects.get(account=self.account, name=name), self._people()
        today = to_local(clock.now(), self.account.zone).date()
        free = [one for one in offering.free_times(kind, today, today + timedelta(days=days)) if one.left]
        if not free or not people:
            return
        try:
            made = booking.book(kind, self.chance.choice(people), self.chance.choice(free).start)
        except booking.NotFree:  # they have a place there already
            return
        for one in diary.dates_of(made):
            self.at(one.start + timedelta(hours=3), partial(self._came, one.pk, self.chance.random() < 0.85))
        if self.chance.random() < 0.1:
            until = (made.start - clock.now()) / 2
            self.at(clock.now() + until, partial(self._settle, made.pk, State.CANCELLED))
        elif self.chance.random() < 0.5:
            self.at(clock.now() + timedelta(hours=2), partial(self._settle, made.pk, State.CONFIRMED))

    def _came(self, number: int, came: bool) -> None:
        if self.end - clock.now() > timedelta(hours=24):  # of yesterday's nobody has said it yet
            self._settle(number, State.ATTENDED if came else State.MISSED)

    def _settle(self, number: int, state: State) -> None:
        one = Appointment.objects.get(pk=number)
        if one.state in diary.STANDING and (state != State.CANCELLED or one.start > clock.now()):
            diary.settle(one, state)

    def _fill_class(self) -> None:
        """The next evening is full, and two wait for a place."""
        kind, people = AppointmentType.objects.get(account=self.account, name=CLASS), self._people()
        today = to_local(clock.now(), self.account.zone).date()
        free = [one for one in offering.free_times(kind, today, today + timedelta(days=30)) if one.left]
        waits = 0
        for contact in self.chance.sample(people, min(len(people), 20)):
            if not free:
                return
            try:
                booking.book(kind, contact, free[0].start, by_team=booking.ByTeam())
            except booking.NotFree as error:
                if "last place" not in str(error) or waits == 2:
                    continue
                with suppress(waiting.CannotWait):  # they have a place then already
                    waiting.join(kind, contact, kind.sittings.get(start=free[0].start))
                    waits += 1
