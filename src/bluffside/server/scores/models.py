"""The lead score's rules while they are written, those that counted, and the work of letting new ones count."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.server.practice.models import Account, Person


class ScoreDraft(models.Model):
    """Rules that do not count yet. `revision` grows with each change, so that two writers notice."""

    account = models.OneToOneField(Account, models.CASCADE, related_name="+")
    rules = models.JSONField(help_text="core.scoring.rules.ScoreRules")
    revision = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField()
    changed_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return f"{self.revision}"


class ScoreVersion(models.Model):
    """Rules that count, or counted, from `since` on."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    rules = models.JSONField()
    since = models.DateTimeField()
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return f"since {self.since:%Y-%m-%d}"


class ScoreRecount(models.Model):
    """Everybody counted anew by new rules, some at a time, in the order of their ids: until `last_id` it is done. `starts`: the
    workflows that start for those who cross a mark by it."""

    class State(models.TextChoices):
        RUNNING = "running"
        STOPPED = "stopped"
        DONE = "done"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=7, choices=State, default=State.RUNNING)
    asked_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    total = models.PositiveIntegerField()
    done = models.PositiveIntegerField(default=0)
    moved = models.PositiveIntegerField(default=0, help_text="how many came to another mark")
    last_id = models.BigIntegerField(default=0)
    starts = ArrayField(models.BigIntegerField(), default=list)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["account"], condition=models.Q(state="running"), name="one_recount_at_a_time"
            )
        ]

    def __str__(self) -> str:
        return f"{self.done} of {self.total}"
