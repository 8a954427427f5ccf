"""Tasks and notices for people of the team; appointments with contacts."""

from typing import Literal, cast

from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Task(models.Model):
    """Something to do about a contact. `key` is of the enrolment and step that made it: one task a key."""

    class Kind(models.TextChoices):
        CALL = "call"
        TO_DO = "to_do"
        LETTER = "letter"
        CUSTOM = "custom"

    class Outcome(models.TextChoices):
        REACHED = "reached"
        NO_ANSWER = "no_answer"
        LEFT_MESSAGE = "left_message"
        DONE = "done"
        DROPPED = "dropped"
        RING_BACK = "ring_back"

    account = models.ForeignKey(Account, models.CASCADE, related_name="tasks", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="tasks")
    key = models.CharField(max_length=120)
    kind = models.CharField(max_length=10, choices=Kind)
    title = models.CharField(max_length=300)
    say = models.TextField(blank=True)
    last = models.CharField(max_length=500, blank=True, help_text="what to do on the last attempt")
    assigned = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="tasks")
    enrolment_id = models.BigIntegerField(null=True)
    step = models.CharField(max_length=40, blank=True)
    attempts = models.PositiveSmallIntegerField(default=1, help_text="how often to try")
    tried = models.PositiveSmallIntegerField(default=0, db_default=0)
    due_at = models.DateTimeField()
    made_at = models.DateTimeField()
    done_at = models.DateTimeField(null=True)
    outcome = models.CharField(max_length=15, choices=Outcome, blank=True, db_default="")
    tries = models.JSONField(
        default=list, db_default=[], help_text="how each try went: [instant, outcome, who, what was said]"
    )

    before = models.JSONField(null=True, help_text="when it was due, and how often to try, before its last outcome")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key"], name="task_once_a_key")]
        indexes = [models.Index(fields=["account", "due_at"], condition=models.Q(done_at=None), name="task_open")]

    def __str__(self) -> str:
        return self.title


class Notice(models.Model):
    """Something a member of the team is told, about a contact or (`place`) about something of the account. `mail` is whether it goes out by
    email as well, and has not yet."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="notices", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, null=True, related_name="+")
    place = models.CharField(
        max_length=120,
        blank=True,
        default="",
        db_default="",
        help_text="where it stands, below the account; else with the contact",
    )
    key = models.CharField(max_length=120)
    person = models.ForeignKey(Person, models.CASCADE, related_name="notices")
    text = models.CharField(max_length=2_000)
    in_app = models.BooleanField(default=True)
    mail = models.BooleanField(default=False)
    mail_at = models.DateTimeField(
        null=True, help_text="when it goes by email, with all others of that moment; at once if empty"
    )
    at = models.DateTimeField()
    seen_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key", "person"], name="notice_once_a_key")]
        indexes = [
            models.Index(fields=["account"], condition=models.Q(mail=True), name="notice_to_mail"),
            models.Index(fields=["person", "account"], condition=models.Q(seen_at=None), name="notice_unseen"),
        ]

    def __str__(self) -> str:
        return self.text


AppointmentState = Literal["booked", "confirmed", "cancelled", "missed", "attended"]  # as Appointment.State has them


class Appointment(models.Model):
    class State(models.TextChoices):
        BOOKED = "booked"
        CONFIRMED = "confirmed"
        CANCELLED = "cancelled"
        MISSED = "missed"
        ATTENDED = "attended"

    account = models.ForeignKey(Account, models.CASCADE, related_name="appointments", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="appointments")
    type = models.CharField(max_length=120)
    start = models.DateTimeField()
    end = models.DateTimeField(null=True)
    state = models.CharField(max_length=10, choices=State, default=State.BOOKED)
    place = models.CharField(max_length=200, blank=True)
    member = models.ForeignKey(Person, models.SET_NULL, null=True, blank=True, related_name="+")
    first = models.ForeignKey(
        "self", models.CASCADE, null=True, related_name="later", help_text="of a course: its first date"
    )
    sequence = models.PositiveIntegerField(
        default=0, db_default=0, help_text="how often it was moved or cancelled (RFC 5545, 3.8.7.4)"
    )

    class Meta:
        indexes = [models.Index(fields=["account", "start"], name="appointment_by_start")]

    def __str__(self) -> str:
        return f"{self.type} at {self.start:%Y-%m-%d %H:%M}"

    @property
    def now(self) -> AppointmentState:
        return cast(AppointmentState, self.state)
