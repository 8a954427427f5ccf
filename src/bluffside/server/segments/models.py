"""Segments: conditions over the account's people, kept by name. Who is in one is always found out, never stored."""

from django.db import models

from bluffside.server.practice.models import Account, Person


class Segment(models.Model):
    """`condition` is one of core.conditions, as documents write it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="segments", db_index=False)
    name = models.CharField(max_length=120)
    condition = models.JSONField()
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="segment_once_an_account")]

    def __str__(self) -> str:
        return self.name
