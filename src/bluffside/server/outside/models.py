"""What the simulated carrier holds. Nothing here refers to the application's rows: it knows numbers, addresses and keys."""

from django.db import models

from bluffside.server.people.models import CHANNEL_CHOICES


class Item(models.Model):
    """One message on a phone or in a mailbox. `ours` is the account's number or address, `theirs` the contact's."""

    key = models.CharField(max_length=120, unique=True)
    channel = models.CharField(max_length=5, choices=CHANNEL_CHOICES)
    inbound = models.BooleanField(help_text="written by the contact")
    ours = models.CharField(max_length=254)
    ours_name = models.CharField(max_length=120, blank=True)
    theirs = models.CharField(max_length=254)
    subject = models.CharField(max_length=500, blank=True)
    text = models.TextField()
    html = models.TextField(blank=True)
    at = models.DateTimeField()
    times_handed_over = models.PositiveIntegerField(default=1)
    report = models.CharField(max_length=10, blank=True, help_text="what will be, or was, reported")
    report_reason = models.CharField(max_length=200, blank=True)
    report_at = models.DateTimeField(null=True)
    reported = models.BooleanField(default=False)

    class Meta:
        indexes = [
            models.Index(fields=["theirs", "ours", "at"], name="item_on_device"),
            models.Index(fields=["report_at"], condition=models.Q(reported=False), name="item_to_report"),
        ]

    def __str__(self) -> str:
        return self.key
