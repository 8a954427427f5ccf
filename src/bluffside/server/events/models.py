"""What happened, in order of id. Rows are added and never changed, but for the mark that they were dispatched."""

from django.db import models

from bluffside.server.practice.models import Account, Person


class Event(models.Model):
    """`contact_id` is a number, not a key, so that the stream stands below the area it tells about.

    `depth` counts how many workflows stand between this event and a person or the world: what a
    workflow does has the depth of its enrolment, and an enrolment one more than the event that began it.
    """

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    kind = models.CharField(max_length=40)
    contact_id = models.BigIntegerField(null=True)
    at = models.DateTimeField()
    data = models.JSONField(default=dict)
    actor = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    enrolment_id = models.BigIntegerField(null=True)
    depth = models.PositiveSmallIntegerField(default=0)
    dispatched = models.BooleanField(default=False)

    class Meta:
        indexes = [
            models.Index(fields=["contact_id", "-at", "-id"], name="event_timeline"),
            models.Index(fields=["id"], condition=models.Q(dispatched=False), name="event_undispatched"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} at {self.at:%Y-%m-%d %H:%M}"
