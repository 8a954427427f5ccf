"""Pipelines with their stages, and deals on them.

A deal names its pipeline and stage in words, as workflows, events and conditions do.
"""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Pipeline(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="pipelines", db_index=False)
    name = models.CharField(max_length=80)
    stages = ArrayField(models.CharField(max_length=80), default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="pipeline_once_an_account")]

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

    class Meta:
        constraints = [models.UniqueConstraint(fields=["contact", "ref"], name="deal_once_a_contact")]
        indexes = [models.Index(fields=["account", "pipeline", "stage"], name="deal_on_pipeline")]

    def __str__(self) -> str:
        return self.name
