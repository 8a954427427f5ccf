"""Requests to other systems, with what they answered."""

from django.db import models

from bluffside.server.practice.models import Account


class Call(models.Model):
    """One request. `key` goes along as its webhook-id, so that a receiver can tell one that comes twice."""

    class State(models.TextChoices):
        QUEUED = "queued"
        SENDING = "sending"  # leased by a worker
        ANSWERED = "answered"  # with a status below 300
        FAILED = "failed"  # refused for good, or tried too often; `reason` says why

    account = models.ForeignKey(Account, models.CASCADE, related_name="calls", db_index=False)
    contact_id = models.BigIntegerField(null=True)
    enrolment_id = models.BigIntegerField(null=True)
    key = models.CharField(max_length=120)
    method = models.CharField(max_length=6)
    connection = models.CharField(
        max_length=253, default="", db_default="", help_text="kind and name of practice.Connection: host:example.com"
    )
    url = models.CharField(max_length=2_000)
    query = models.JSONField(default=list)
    headers = models.JSONField(default=list)
    body = models.TextField(blank=True)
    state = models.CharField(max_length=8, choices=State, default=State.QUEUED)
    attempts = models.PositiveSmallIntegerField(default=0, db_default=0)
    next_try_at = models.DateTimeField()
    leased_until = models.DateTimeField(null=True, help_text="real time, not the clock's")
    status = models.PositiveSmallIntegerField(null=True, help_text="of the last answer")
    answer = models.TextField(blank=True, db_default="", help_text="the beginning of the last answer")
    reason = models.CharField(max_length=300, blank=True, db_default="")
    made_at = models.DateTimeField()
    settled_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key"], name="call_once_a_key")]
        indexes = [
            models.Index(
                fields=["account", "next_try_at"],
                condition=models.Q(state__in=["queued", "sending"]),
                name="call_due",
            ),
            models.Index(fields=["account", "-id"], name="call_newest"),
            models.Index(fields=["account", "connection", "-id"], name="call_by_connection"),
        ]

    def __str__(self) -> str:
        return f"{self.method} {self.url}"
