"""Pipelines with their stages, and deals on them.

A deal names its pipeline and stage in words, as workflows, events and conditions do.
"""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Pipeline(models.Model):
    """`reasons`: for which deals on it are lost, to choose from."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="pipelines", db_index=False)
    name = models.CharField(max_length=80)
    reasons = ArrayField(models.CharField(max_length=80), default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="pipeline_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Stage(models.Model):
    """A stage of a pipeline, in its `position` (from 0). `rest_days`: how long a deal may rest here; None: as long as it likes.
    `likely`: how many of a hundred are thought to be won from here; None: as counted. `needs`: what must be known of a deal
    before people move it here: "value", "owner", "expected_on", or a field of the account's own for deals."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    pipeline = models.ForeignKey(Pipeline, models.CASCADE, related_name="stages")
    name = models.CharField(max_length=80)
    position = models.PositiveSmallIntegerField()
    means = models.CharField(max_length=300, blank=True)
    rest_days = models.PositiveSmallIntegerField(null=True)
    likely = models.PositiveSmallIntegerField(null=True)
    needs = ArrayField(models.CharField(max_length=80), default=list, db_default=[])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["pipeline", "name"], name="stage_once_a_pipeline")]
        ordering = ["position", "id"]

    def __str__(self) -> str:
        return self.name


class Deal(models.Model):
    """`ref` is what workflows know it by among the contact's deals. `value` is in the account's currency."""

    class State(models.TextChoices):
        OPEN = "open"
        WON = "won"
        LOST = "lost"

    account = models.ForeignKey(Account, models.CASCADE, related_name="deals", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="deals", db_index=False)
    ref = models.CharField(max_length=80)
    pipeline = models.CharField(max_length=80)
    stage = models.CharField(max_length=80)
    name = models.CharField(max_length=200, blank=True)
    value = models.DecimalField(max_digits=14, decimal_places=2, default=0)
    state = models.CharField(max_length=4, choices=State, default=State.OPEN)
    owner = models.ForeignKey(Person, models.SET_NULL, null=True, blank=True, related_name="+")
    created_at = models.DateTimeField()
    since = models.DateTimeField(help_text="when it came to its stage")
    expected_on = models.DateField(null=True, help_text="when it is thought to be won")
    closed_at = models.DateTimeField(null=True)
    why = models.CharField(max_length=80, blank=True, db_default="", help_text="for what reason it was lost")
    fields = models.JSONField(default=dict, db_default={}, help_text="the account's own fields for deals, by name")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["contact", "ref"], name="deal_once_a_contact")]
        indexes = [
            models.Index(fields=["account", "pipeline", "stage"], name="deal_on_pipeline"),
            models.Index(fields=["account", "pipeline", "closed_at"], name="deal_closed"),
        ]

    def __str__(self) -> str:
        return self.name


class DealField(models.Model):
    """A field of the account's own for deals; its kind is one of people/field_kinds."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="deal_fields", db_index=False)
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, default="text")
    choices = ArrayField(models.CharField(max_length=120), default=list, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="deal_field_once_an_account")]

    def __str__(self) -> str:
        return self.name


class DealPerson(models.Model):
    """Somebody else who is in a deal, and their part in it: who pays, who decides, who comes along."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    deal = models.ForeignKey(Deal, models.CASCADE, related_name="people")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    part = models.CharField(max_length=60, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["deal", "contact"], name="in_a_deal_once")]

    def __str__(self) -> str:
        return self.part


class DealNote(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    deal = models.ForeignKey(Deal, models.CASCADE, related_name="notes")
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+", db_index=False)
    at = models.DateTimeField()
    text = models.CharField(max_length=4_000)

    def __str__(self) -> str:
        return self.text


class DealStay(models.Model):
    """A deal in a stage, from when until when (None: still). What is counted of stages is counted by them: the stage is called as it
    is now."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    deal = models.ForeignKey(Deal, models.CASCADE, related_name="stays")
    pipeline = models.CharField(max_length=80)
    stage = models.CharField(max_length=80)
    came_at = models.DateTimeField()
    left_at = models.DateTimeField(null=True)
    rests_until = models.DateTimeField(
        null=True, help_text="when it will have rested too long; None: never, or it was told"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["deal"], condition=models.Q(left_at=None), name="in_one_stage_at_a_time")
        ]
        indexes = [
            models.Index(fields=["account", "pipeline", "stage"], name="stay_in_stage"),
            models.Index(
                fields=["account", "rests_until"], condition=models.Q(rests_until__isnull=False), name="stay_rests"
            ),
        ]

    def __str__(self) -> str:
        return self.stage


class DealView(models.Model):
    """How somebody looked at the deals, kept under a name: what the page is asked, as its address has it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    name = models.CharField(max_length=80)
    asks = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="deal_view_once_an_account")]

    def __str__(self) -> str:
        return self.name


class DealMove(models.Model):
    """One deal, moved or closed by one of the team; several at once are one `act`. What it was before is kept, so that the act can be
    taken back."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    deal = models.ForeignKey(Deal, models.CASCADE, related_name="moves")
    act = models.UUIDField()
    by = models.ForeignKey(Person, models.CASCADE, related_name="+", db_index=False)
    at = models.DateTimeField()
    was_stage = models.CharField(max_length=80)
    was_state = models.CharField(max_length=4)
    was_since = models.DateTimeField()
    stage = models.CharField(max_length=80)
    state = models.CharField(max_length=4)
    taken_back_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["act", "deal"], name="deal_moved_once_an_act")]

    def __str__(self) -> str:
        return f"{self.was_stage} to {self.stage}"
