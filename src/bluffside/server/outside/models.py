"""What the simulated outside holds. Nothing here refers to the application's rows: it knows numbers, addresses, keys."""

from django.db import models

from bluffside.server.people.models import LONGEST_CHANNEL


class Item(models.Model):
    """One message on a phone or in a mailbox. `ours` is the account's number or address, `theirs` the contact's."""

    key = models.CharField(max_length=160, unique=True)
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    inbound = models.BooleanField(default=False, db_default=False, help_text="written by the contact")
    ours = models.CharField(max_length=254)
    ours_name = models.CharField(max_length=120, blank=True, db_default="")
    theirs = models.CharField(max_length=300)
    subject = models.CharField(max_length=500, blank=True, db_default="")
    text = models.TextField()
    html = models.TextField(blank=True, db_default="")
    calendar = models.TextField(blank=True, default="", db_default="", help_text="an entry that came with it")
    at = models.DateTimeField()
    times_handed_over = models.PositiveIntegerField(default=1, db_default=1)
    report = models.CharField(max_length=10, blank=True, db_default="", help_text="what will be, or was, reported")
    report_reason = models.CharField(max_length=200, blank=True, db_default="")
    report_at = models.DateTimeField(null=True)
    reported = models.BooleanField(default=False, db_default=False)

    class Meta:
        indexes = [
            models.Index(fields=["theirs", "ours", "at"], name="item_on_device"),
            models.Index(fields=["report_at"], condition=models.Q(reported=False), name="item_to_report"),
        ]

    def __str__(self) -> str:
        return self.key


class Temper(models.Model):
    """How the simulated carrier behaves, one row; tests order what they need. Shares are between 0 and 1.

    away      it does not take a message this time
    broken    it takes it, and the line breaks before it says so
    doubled   it reports twice
    silent    it never reports
    backward  it reports the last first
    slow      how long it takes to answer, milliseconds
    """

    away = models.FloatField(default=0)
    broken = models.FloatField(default=0)
    doubled = models.FloatField(default=0)
    silent = models.FloatField(default=0)
    backward = models.BooleanField(default=False)
    slow = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return f"away {self.away}, broken {self.broken}"


class Asked(models.Model):
    """A request that came to one of the stand-ins for outside services; once for a key, however often it came."""

    service = models.CharField(max_length=40)
    key = models.CharField(max_length=160, unique=True)
    account = models.CharField(max_length=60, help_text="the slug it gave")
    body = models.JSONField()
    at = models.DateTimeField()
    times = models.PositiveIntegerField(default=1)

    class Meta:
        indexes = [models.Index(fields=["account", "service"], name="asked_of_a_service")]

    def __str__(self) -> str:
        return f"{self.service} {self.key}"
