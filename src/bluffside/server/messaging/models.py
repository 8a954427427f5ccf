"""Messages out, messages in, links."""

from django.db import models

from bluffside.server.people.models import CHANNEL_CHOICES, Contact
from bluffside.server.practice.models import Account, Person


class Message(models.Model):
    """One message to one contact: the outbox. `key` is what the carrier knows it by; there is one message a key."""

    class State(models.TextChoices):
        QUEUED = "queued"  # to be handed to the carrier
        SENDING = "sending"  # leased by a worker that hands it over
        SENT = "sent"  # the carrier took it
        DELIVERED = "delivered"  # the carrier says it arrived
        FAILED = "failed"  # refused or bounced; the reason says why
        CANCELLED = "cancelled"  # not to be sent any more; the reason says why

    account = models.ForeignKey(Account, models.CASCADE, related_name="messages")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="messages")
    key = models.CharField(max_length=120, unique=True)
    channel = models.CharField(max_length=5, choices=CHANNEL_CHOICES)
    address = models.CharField(max_length=254)
    name = models.CharField(max_length=120, blank=True)
    subject = models.CharField(max_length=500, blank=True)
    body = models.TextField()
    enrolment_id = models.BigIntegerField(null=True)
    step = models.CharField(max_length=40, blank=True)
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    reason = models.CharField(max_length=300, blank=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    next_try_at = models.DateTimeField()
    leased_until = models.DateTimeField(null=True, help_text="real time, not the clock's")
    queued_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True)
    settled_at = models.DateTimeField(null=True, help_text="when it was delivered, failed or cancelled")

    class Meta:
        indexes = [
            models.Index(
                fields=["next_try_at"], condition=models.Q(state__in=["queued", "sending"]), name="message_due"
            ),
            models.Index(fields=["contact", "queued_at"], name="message_of_contact"),
        ]

    def __str__(self) -> str:
        return f"{self.channel} {self.key}"


class Reply(models.Model):
    """What a contact wrote. `key` is the carrier's, so that the same one reported twice is kept once."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="replies")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="replies")
    key = models.CharField(max_length=120, unique=True)
    channel = models.CharField(max_length=5, choices=CHANNEL_CHOICES)
    text = models.TextField()
    received_at = models.DateTimeField()
    opted_out = models.BooleanField(default=False)
    settled_at = models.DateTimeField(null=True, help_text="when somebody answered it or laid it aside")
    settled_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")

    class Meta:
        indexes = [models.Index(fields=["account"], condition=models.Q(settled_at=None), name="reply_waiting")]

    def __str__(self) -> str:
        return f"{self.channel} from {self.contact_id}"


class Link(models.Model):
    """A link in one message, known by the code that stands in its place."""

    message = models.ForeignKey(Message, models.CASCADE, related_name="links")
    code = models.CharField(max_length=16, unique=True)
    url = models.URLField(max_length=2000)
    clicks = models.PositiveIntegerField(default=0)

    def __str__(self) -> str:
        return self.url
