"""Types of appointment, the hours and things they need, and the time that is taken.

Nobody, and nothing, is ever booked twice: every sitting takes the time of who gives it and of what it needs, buffers inside, and
PostgreSQL refuses two that overlap (btree_gist). Places in a sitting are numbered, each once.
"""

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import DateTimeRangeField, RangeOperators
from django.db import models
from django.db.models import Q

from bluffside.server.diary.models import Appointment
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


class Place(models.Model):
    """A place in a sitting, from 1, and the appointment that has it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    sitting = models.ForeignKey(Sitting, models.CASCADE, related_name="taken_places", db_index=False)
    number = models.PositiveSmallIntegerField()
    appointment = models.OneToOneField(Appointment, models.CASCADE, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["sitting", "number"], name="place_once_a_sitting"),
            models.CheckConstraint(condition=Q(number__gte=1), name="places_from_one"),
        ]

    def __str__(self) -> str:
        return f"{self.number} in {self.sitting_id}"
