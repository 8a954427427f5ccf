"""What happened, in order of id; what of it is still to be handed on; which kinds are listened to at all."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.server.practice.models import Account, Person


class Event(models.Model):
    """A row is added and never changed, but for another name that what it tells of has got; one that nobody has heard yet may
    be taken back (`stream.take_back`). The table is cut into months
    by `at` (see partitions.py).

    `contact_id` is a number, not a key, so that the stream stands below the area it tells about.
    `depth` counts how many workflows stand between this event and a person or the world: what a
    workflow does has the depth of its enrolment, and an enrolment one more than the event that began it.
    """

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    kind = models.CharField(max_length=40)
    contact_id = models.BigIntegerField(null=True)
    at = models.DateTimeField()
    data = models.JSONField(default=dict)
    actor = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+", db_constraint=False, db_index=False)
    enrolment_id = models.BigIntegerField(null=True)
    depth = models.PositiveSmallIntegerField(default=0)

    class Meta:
        indexes = [
            models.Index(fields=["contact_id", "-at", "-id"], name="event_timeline"),
            models.Index(fields=["account", "-at"], condition=models.Q(kind="enrolment.refused"), name="refused"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} at {self.at:%Y-%m-%d %H:%M}"


class Pending(models.Model):
    """An event that somebody listens to and that is not handed on yet; gone once it is."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    event_id = models.BigIntegerField()
    at = models.DateTimeField(help_text="the event's, which names its month")
    contact_id = models.BigIntegerField(null=True, help_text="nothing is decided about them before it is handed on")
    not_before = models.DateTimeField(null=True, help_text="until then it can be taken back, and is not handed on")
    fault = models.TextField(blank=True, db_default="", help_text="why handing it on failed; left until it is retried")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "event_id"], name="pending_once")]
        indexes = [
            models.Index(fields=["account", "event_id"], condition=models.Q(fault=""), name="pending_in_order"),
            models.Index(fields=["contact_id"], condition=models.Q(fault=""), name="pending_of_contact"),
            models.Index(fields=["contact_id"], condition=models.Q(not_before__isnull=False), name="pending_held"),
        ]

    def __str__(self) -> str:
        return str(self.event_id)


class Uncounted(models.Model):
    """That something happened, at `at`, to rows whose days are to be counted anew (counting.py)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    at = models.DateTimeField()
    messages = ArrayField(models.BigIntegerField(), default=list)
    contacts = ArrayField(models.BigIntegerField(), default=list)
    enrolments = ArrayField(models.BigIntegerField(), default=list)
    tasks = ArrayField(models.BigIntegerField(), default=list)

    def __str__(self) -> str:
        return f"at {self.at:%Y-%m-%d %H:%M}"


class Heard(models.Model):
    """A kind of event that something in the account listens to: a start, a wait, a leaving rule, the score. Kinds are
    added when they are first listened to and stay; an event of another kind is recorded and not handed on."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    kind = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "kind"], name="heard_once")]

    def __str__(self) -> str:
        return self.kind
