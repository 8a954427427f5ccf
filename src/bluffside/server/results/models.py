"""Sums by day, without anybody's name or address: what went out and what came of it, who came in and how many reached the aim, what the
team did. A day is the account's.

What comes of a message is added to the day of the message, and an aim that is reached to the day of coming in, so that days add up
whenever it comes; each is counted once a message, or once an enrolment.
"""

from django.db import models

from bluffside.server.practice.models import Account


class Counted(models.Model):
    """How far an account's sums are counted, and by which time zone."""

    account = models.OneToOneField(Account, models.CASCADE, related_name="+")
    zone = models.CharField(max_length=64)
    at = models.DateTimeField(help_text="when something was counted last")

    def __str__(self) -> str:
        return f"{self.account_id} at {self.at:%Y-%m-%d %H:%M}"


class UncountedDay(models.Model):
    """A day whose sums are to be counted anew."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    day = models.DateField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "day"], name="uncounted_once")]

    def __str__(self) -> str:
        return f"{self.day:%Y-%m-%d}"


class Sum(models.Model):
    """What all sums share. `workflow_id` and `step` are 0 and empty for what no workflow did."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    day = models.DateField()
    workflow_id = models.BigIntegerField(default=0)

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return f"{self.workflow_id} on {self.day:%Y-%m-%d}"


class MessageSum(Sum):
    """Messages of a day that are alike. `tried` is all that were handed to a carrier, or refused; the counts from `delivered` on are of
    messages, each at most once."""

    step = models.CharField(max_length=40, blank=True)
    message = models.CharField(max_length=120, blank=True)
    wording = models.CharField(max_length=12, blank=True)
    channel = models.CharField(max_length=9)
    sender = models.CharField(max_length=120, blank=True)
    tried = models.PositiveIntegerField(default=0)
    delivered = models.PositiveIntegerField(default=0, help_text="taken, and neither refused nor come back")
    failed = models.PositiveIntegerField(default=0)
    why = models.JSONField(default=dict, help_text="how many failed, by reason")
    with_link = models.PositiveIntegerField(default=0)
    clicked = models.PositiveIntegerField(default=0, help_text="by a person; link checkers are left out")
    replied = models.PositiveIntegerField(default=0)
    booked = models.PositiveIntegerField(default=0, help_text="after it, and before the next of the series")
    reached = models.PositiveIntegerField(default=0, help_text="the aim, likewise")
    worth = models.DecimalField(max_digits=14, decimal_places=2, default=0)
    opted_out = models.PositiveIntegerField(default=0)
    complained = models.PositiveIntegerField(default=0)

    class Meta:
        indexes = [
            models.Index(fields=["account", "day"], name="message_sums_by_day"),
            models.Index(fields=["account", "workflow_id", "day"], name="message_sums_of_workflow"),
        ]


class JoinedSum(Sum):
    """Who came into a workflow on a day, by how they had become known (`source`): written to, or held back to compare. `days`: of those who
    were written to and reached the aim, how many did so after so many days."""

    source = models.CharField(max_length=80, blank=True)
    joined = models.PositiveIntegerField(default=0)
    reached = models.PositiveIntegerField(default=0)
    worth = models.DecimalField(max_digits=14, decimal_places=2, default=0)
    held = models.PositiveIntegerField(default=0)
    held_reached = models.PositiveIntegerField(default=0)
    held_worth = models.DecimalField(max_digits=14, decimal_places=2, default=0)
    left = models.PositiveIntegerField(default=0, help_text="not by the end of the script")
    days = models.JSONField(default=dict)

    class Meta:
        indexes = [
            models.Index(fields=["account", "day"], name="joined_sums_by_day"),
            models.Index(fields=["account", "workflow_id", "day"], name="joined_sums_of_workflow"),
        ]


class LineSum(Sum):
    """Of who came in on a day, how many came to a line, and how many left there, by why."""

    step = models.CharField(max_length=40)
    came = models.PositiveIntegerField(default=0)
    left = models.PositiveIntegerField(default=0)
    why = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["account", "workflow_id", "day"], name="line_sums_of_workflow")]


class TaskSum(Sum):
    """Calls and to-dos that were made on a day, for whom of the team. `reached`: calls that reached somebody."""

    step = models.CharField(max_length=40, blank=True)
    member = models.CharField(max_length=120, blank=True)
    kind = models.CharField(max_length=10)
    made = models.PositiveIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    reached = models.PositiveIntegerField(default=0)
    dropped = models.PositiveIntegerField(default=0, help_text="called off, or nothing came of it")
    hours = models.FloatField(default=0, help_text="from when they were due until they were done, together")

    class Meta:
        indexes = [models.Index(fields=["account", "day"], name="task_sums_by_day")]


SUMS: tuple[type[Sum], ...] = (MessageSum, JoinedSum, LineSum, TaskSum)
