"""Types of appointment, the hours and things they need, the time that is taken, and who waits for a place.

Nobody, and nothing, is ever booked twice: every sitting takes the time of who gives it and of what it needs, buffers inside, and
PostgreSQL refuses two that overlap (btree_gist). Places in a sitting are numbered, each once; a place is an appointment's, or kept
for whoever waited and was asked.
"""

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import DateTimeRangeField, RangeOperators
from django.db import models
from django.db.models import Q

from bluffside.server.diary.models import Appointment
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class AppointmentType(models.Model):
    """`offer` is core.appointments.offer.Offer; `token` the address of its page."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="appointment_types", db_index=False)
    name = models.CharField(max_length=120)
    token = models.CharField(max_length=24, unique=True)
    offer = models.JSONField()
    open = models.BooleanField(default=True, help_text="its page takes bookings")
    made_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="appointment_type_once_an_account")]

    def __str__(self) -> str:
        return self.name


class MemberHours(models.Model):
    """When somebody can be booked, where that is not whenever the business is open (core.care.quiet.OpeningHours)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="member_hours", db_index=False)
    member = models.ForeignKey(Person, models.CASCADE, related_name="+")
    hours = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "member"], name="hours_once_a_member")]

    def __str__(self) -> str:
        return f"of {self.member_id}"


class Thing(models.Model):
    """A room, a boat, a kiln: what can be taken once."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="things", db_index=False)
    name = models.CharField(max_length=120)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="thing_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Sitting(models.Model):
    """One time at which a type takes place, with its places."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="sittings", db_index=False)
    type = models.ForeignKey(AppointmentType, models.CASCADE, related_name="sittings", db_index=False)
    start = models.DateTimeField()
    end = models.DateTimeField()
    places = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["type", "start"], name="sitting_once_a_start")]
        indexes = [models.Index(fields=["account", "start"], name="sitting_by_start")]

    def __str__(self) -> str:
        return f"{self.type_id} at {self.start:%Y-%m-%d %H:%M}"


class Taken(models.Model):
    """The time of somebody, or of something, that a sitting takes."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    sitting = models.ForeignKey(Sitting, models.CASCADE, related_name="taken")
    member = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+", db_index=False)
    thing = models.ForeignKey(Thing, models.CASCADE, null=True, related_name="+", db_index=False)
    during = DateTimeRangeField()

    class Meta:
        constraints = [
            ExclusionConstraint(
                name="a_member_once_at_a_time",
                expressions=[
                    ("account", RangeOperators.EQUAL),
                    ("member", RangeOperators.EQUAL),
                    ("during", RangeOperators.OVERLAPS),
                ],
                condition=Q(member__isnull=False),
            ),
            ExclusionConstraint(
                name="a_thing_once_at_a_time",
                expressions=[
                    ("account", RangeOperators.EQUAL),
                    ("thing", RangeOperators.EQUAL),
                    ("during", RangeOperators.OVERLAPS),
                ],
                condition=Q(thing__isnull=False),
            ),
        ]

    def __str__(self) -> str:
        return f"{self.member_id or self.thing_id} {self.during}"


class Waiting(models.Model):
    """Somebody who waits for a place in a sitting that is full; of a course, in that of its first date. `until`: who was asked has
    until then to take the place that is kept for them."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    sitting = models.ForeignKey(Sitting, models.CASCADE, related_name="waiting")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    since = models.DateTimeField()
    until = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sitting", "contact"], name="waiting_once_a_sitting")]
        indexes = [models.Index(fields=["account", "until"], condition=Q(until__isnull=False), name="waiting_asked")]

    def __str__(self) -> str:
        return f"{self.contact_id} for {self.sitting_id}"


class Place(models.Model):
    """A place in a sitting, from 1: the appointment that has it, or for whom of those who wait it is kept."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    sitting = models.ForeignKey(Sitting, models.CASCADE, related_name="taken_places", db_index=False)
    number = models.PositiveSmallIntegerField()
    appointment = models.OneToOneField(Appointment, models.CASCADE, null=True, related_name="seat")
    waiting = models.ForeignKey(Waiting, models.CASCADE, null=True, related_name="places")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["sitting", "number"], name="place_once_a_sitting"),
            models.CheckConstraint(condition=Q(number__gte=1), name="places_from_one"),
            models.CheckConstraint(
                condition=Q(appointment__isnull=False, waiting__isnull=True)
                | Q(appointment__isnull=True, waiting__isnull=False),
                name="place_has_one_owner",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.number} in {self.sitting_id}"


class BusyCalendar(models.Model):
    """A calendar in which somebody's other engagements stand (iCalendar, RFC 5545): a file that was read once, or an address that
    is read again and again. `fault` says why it could not be read the last time; what was read before stands meanwhile."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    member = models.ForeignKey(Person, models.CASCADE, related_name="+")
    name = models.CharField(max_length=120)
    url_sealed = models.TextField(blank=True, help_text="whoever knows it reads the calendar; a file has none")
    shown = models.CharField(max_length=253, blank=True, help_text="the host of its address")
    read_at = models.DateTimeField(null=True)
    next_at = models.DateTimeField(null=True, help_text="when it is read again")
    fault = models.CharField(max_length=300, blank=True)

    class Meta:
        indexes = [models.Index(fields=["account", "next_at"], condition=Q(next_at__isnull=False), name="busy_to_read")]

    def __str__(self) -> str:
        return self.name


class Busy(models.Model):
    """When somebody is not free, besides what is booked here: an entry in a calendar of theirs, or a day on which they are ill."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    member = models.ForeignKey(Person, models.CASCADE, related_name="+", db_index=False)
    calendar = models.ForeignKey(BusyCalendar, models.CASCADE, null=True, related_name="busy")
    start = models.DateTimeField()
    end = models.DateTimeField()
    why = models.CharField(max_length=120, blank=True)

    class Meta:
        indexes = [models.Index(fields=["account", "member", "end"], name="busy_of_member")]

    def __str__(self) -> str:
        return f"{self.member_id} from {self.start:%Y-%m-%d %H:%M}"


class CalendarFeed(models.Model):
    """The secret address of a calendar of appointments: of somebody's own, or the whole account's. Only its digest is kept."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    member = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+")
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["account", "member"], name="feed_once", nulls_distinct=False),
        ]

    def __str__(self) -> str:
        return f"of {self.member_id or self.account_id}"
