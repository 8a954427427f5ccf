"""Messages out, messages in, links; the addresses and numbers an account sends from, and how fast."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Value

from bluffside.server.people.models import LONGEST_CHANNEL, PURPOSE_CHOICES, Contact
from bluffside.server.practice.models import Account, Person


class Sender(models.Model):
    """An address or number that messages may come from. Lines name it by `name`; one that is usual is taken where they name
    none. What is usual for service stands in the account itself, too (set_up.senders), where everything finds it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="senders")
    name = models.CharField(max_length=120)
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    address = models.CharField(max_length=254)
    shown_as = models.CharField(max_length=120, blank=True)
    reply_to = models.EmailField(blank=True, default="", db_default="", help_text="where answers go, if not to it")
    usual_for = ArrayField(
        models.CharField(max_length=9, choices=PURPOSE_CHOICES),
        default=list,
        db_default=Value([], ArrayField(models.CharField(max_length=9))),
    )
    one_way = models.BooleanField(default=False, db_default=False, help_text="nobody can answer it")
    confirmed_at = models.DateTimeField(null=True, help_text="empty: nothing goes out from it yet")
    code_sealed = models.TextField(blank=True, default="", db_default="", help_text="what was mailed to it")
    code_until = models.DateTimeField(null=True)
    code_tries = models.PositiveSmallIntegerField(default=0, db_default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "channel", "name"], name="sender_named_once")]

    def __str__(self) -> str:
        return self.name


class SenderDomain(models.Model):
    """A domain that emails come from, and the key that signs them (DKIM, RFC 6376), where they are signed here."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="sender_domains")
    domain = models.CharField(max_length=253)
    selector = models.CharField(max_length=40)
    key_sealed = models.TextField()
    public = models.TextField(help_text="the key to publish, in base64")
    signs = models.BooleanField(default=True, help_text="here; else the mail server does")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "domain"], name="domain_once_an_account")]

    def __str__(self) -> str:
        return self.domain


class Bucket(models.Model):
    """A sender's token bucket (core.care.pace), shared by all workers: whoever takes from it holds the row."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    sender = models.CharField(max_length=120, blank=True)
    full_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "channel", "sender"], name="bucket_of_a_sender")]

    def __str__(self) -> str:
        return f"{self.channel} {self.sender}"


class Message(models.Model):
    """One message to one contact: the outbox. `key` is what the carrier knows it by; there is one message a key."""

    class State(models.TextChoices):
        HELD = "held"  # waits until somebody lets it go
        QUEUED = "queued"  # to be handed to the carrier
        SENDING = "sending"  # leased by a worker that hands it over
        SENT = "sent"  # the carrier took it
        DELIVERED = "delivered"  # the carrier says it arrived
        FAILED = "failed"  # refused or bounced; the reason says why
        CANCELLED = "cancelled"  # not to be sent any more; the reason says why
        UNCERTAIN = "uncertain"  # handed to a carrier that knows no keys, and nobody knows what came of it

    account = models.ForeignKey(Account, models.CASCADE, related_name="messages", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="messages", db_index=False)
    key = models.CharField(max_length=120)
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    purpose = models.CharField(max_length=9, choices=PURPOSE_CHOICES, default="marketing")
    sender = models.CharField(
        max_length=120, blank=True, help_text="the name of a Sender; the account's usual if empty"
    )
    address = models.CharField(max_length=300)
    name = models.CharField(max_length=120, blank=True)
    subject = models.CharField(max_length=500, blank=True)
    body = models.TextField()
    calendar = models.TextField(
        blank=True, default="", db_default="", help_text="an entry that goes with an email (RFC 5546)"
    )
    enrolment_id = models.BigIntegerField(null=True)
    step = models.CharField(max_length=40, blank=True)
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+", db_index=False)
    head = models.JSONField(null=True, help_text="of an email, besides its subject: called, reply_to, files")
    wording = models.CharField(
        max_length=12,
        blank=True,
        default="",
        db_default="",
        help_text="which of several wordings it is (core Wording.key_of)",
    )
    answers_word = models.BooleanField(
        default=False,
        db_default=False,
        help_text="what they texted asks for this one: it goes to who has opted out, too",
    )
    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    reason = models.CharField(max_length=300, blank=True, db_default="")
    attempts = models.PositiveSmallIntegerField(default=0, db_default=0)
    paced = models.BooleanField(default=False, db_default=False, help_text="has its token: it goes at next_try_at")
    next_try_at = models.DateTimeField()
    leased_until = models.DateTimeField(null=True, help_text="real time, not the clock's")
    handed_at = models.DateTimeField(null=True, help_text="when its handing over began, at a carrier without keys")
    queued_at = models.DateTimeField()
    sent_at = models.DateTimeField(null=True)
    settled_at = models.DateTimeField(null=True, help_text="when it was delivered, failed or cancelled")
    complained_at = models.DateTimeField(null=True, help_text="when whoever got it marked it as unwanted")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key"], name="message_once_a_key")]
        indexes = [
            models.Index(
                fields=["account", "next_try_at", "id"],
                condition=models.Q(state__in=["queued", "sending"]),
                name="message_due",
            ),
            models.Index(fields=["contact", "-id"], name="message_of_contact"),
            models.Index(
                fields=["account"], condition=models.Q(state__in=["held", "uncertain"]), name="message_to_see"
            ),
            models.Index(fields=["account", "sent_at"], name="message_sent"),
            models.Index(
                fields=["account", "settled_at"],
                condition=models.Q(state="failed", sent_at=None),
                name="message_not_taken",
            ),
            models.Index(fields=["account", "-id"], condition=models.Q(by__isnull=False), name="message_of_people"),
            models.Index(fields=["account", "wording"], condition=~models.Q(wording=""), name="message_of_wording"),
        ]

    def __str__(self) -> str:
        return f"{self.channel} {self.key}"


class AnsweredBy(models.TextChoices):
    """What answers where nobody of the team does."""

    WORD = "word"  # a word of the channel: stop, start, help
    RULE = "rule"  # of the account, for words that come in
    WORKFLOW = "workflow"
    ASSISTANT = "assistant"  # the one that books


class Reply(models.Model):
    """What a contact wrote. `key` is the carrier's, so that the same one reported twice is kept once."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="replies", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="replies")
    key = models.CharField(max_length=250)
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    text = models.TextField()
    message = models.ForeignKey(
        Message, models.SET_NULL, null=True, related_name="replies", help_text="what it answers"
    )
    received_at = models.DateTimeField()
    opted_out = models.BooleanField(default=False)
    likely_out = models.BooleanField(
        default=False,
        db_default=False,
        help_text="may mean that they want no more; marketing waits until it is settled",
    )
    automatic = models.BooleanField(default=False, help_text="an absence notice or the like (RFC 3834): nobody's words")
    needs_person = models.BooleanField(
        default=False, db_default=False, help_text="a workflow stays where it is until somebody has read it"
    )
    settled_at = models.DateTimeField(null=True, help_text="when somebody answered it or laid it aside")
    settled_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    answered_by = models.CharField(
        max_length=10,
        choices=AnsweredBy,
        blank=True,
        default="",
        db_default="",
        help_text="what answered it, where nobody of the team did",
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key"], name="reply_once_a_key")]
        indexes = [
            models.Index(fields=["account"], condition=models.Q(settled_at=None), name="reply_waiting"),
            models.Index(
                fields=["account", "settled_at"], condition=~models.Q(answered_by=""), name="reply_answered_by_itself"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.channel} from {self.contact_id}"


class Correspondence(models.Model):
    """How it stands with what a contact and the team write to each other: one a contact who has ever written.

    `turn` goes up by one with whatever either side writes, so that who answers is told when it has moved on meanwhile."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.OneToOneField(Contact, models.CASCADE, related_name="correspondence")
    turn = models.PositiveIntegerField(default=0)
    heard_at = models.DateTimeField(help_text="when they wrote last")
    waiting_since = models.DateTimeField(null=True, help_text="since when something waits for a person; empty: nothing")
    to_decide = models.BooleanField(default=False, help_text="something of it may mean that they want no more")
    assigned = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    put_off_until = models.DateTimeField(null=True)

    class Meta:
        indexes = [
            models.Index(
                fields=["account", "-to_decide", "waiting_since", "id"],
                condition=models.Q(waiting_since__isnull=False),
                name="correspondence_waiting",
            ),
            models.Index(fields=["account", "-heard_at", "-id"], name="correspondence_heard"),
        ]

    def __str__(self) -> str:
        return f"with {self.contact_id}"


class StrangerMail(models.Model):
    """An email from somebody nobody in the account knows, kept apart until it is decided whether they come in."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    key = models.CharField(max_length=250, help_text="its Message-ID, so that a mail brought twice is kept once")
    address = models.CharField(max_length=254)
    name = models.CharField(max_length=120, blank=True, help_text="as their mail program gives it")
    subject = models.CharField(max_length=500, blank=True)
    text = models.TextField()
    received_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "key"], name="stranger_mail_once")]

    def __str__(self) -> str:
        return f"from {self.address}"


class LetterWords(models.Model):
    """A letter as it was sent, to however many: kept once."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    digest = models.CharField(max_length=64)
    lines = models.JSONField(help_text="core.letters.document.Letter")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "digest"], name="letter_words_once")]

    def __str__(self) -> str:
        return self.digest[:8]


class SentLetter(models.Model):
    """That a message is a letter in lines. `values`: what its merge fields said, by how they are written; `urls`: its addresses in the
    order in which they are counted."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    message = models.OneToOneField(Message, models.CASCADE, related_name="+")
    words = models.ForeignKey(LetterWords, models.CASCADE, related_name="+")
    values = models.JSONField()
    urls = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"letter of {self.message_id}"


class MailFile(models.Model):
    """A file that emails carry, kept once however many carry it; `digest` is its SHA-256 in hexadecimal."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="mail_files", db_index=False)
    digest = models.CharField(max_length=64)
    name = models.CharField(max_length=120)
    sort = models.CharField(max_length=100, help_text="its media type, as it was found to be")
    content = models.BinaryField()
    brought_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "digest"], name="mail_file_once")]

    def __str__(self) -> str:
        return self.name


class OwnCopy(models.Model):
    """One message of a series that somebody of the team sends to themselves, a little apart, to see how it arrives.
    Marked as a test, counted nowhere. `due_at` is empty once it has gone, or could not: then `fault` says why."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    person = models.ForeignKey(Person, models.CASCADE, related_name="+")
    workflow_id = models.BigIntegerField()
    number = models.PositiveSmallIntegerField()
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    sender = models.CharField(max_length=120, blank=True)
    name = models.CharField(max_length=120, blank=True)
    subject = models.CharField(max_length=500, blank=True)
    body = models.TextField()
    due_at = models.DateTimeField(null=True)
    gone_at = models.DateTimeField(null=True)
    fault = models.CharField(max_length=200, blank=True)
    letter = models.JSONField(null=True, help_text="as a letter in lines: it, and the values of its merge fields")
    head = models.JSONField(null=True, help_text="as that of a message, with the tags of its links")

    class Meta:
        indexes = [
            models.Index(fields=["account", "due_at"], condition=models.Q(due_at__isnull=False), name="own_copy_due")
        ]

    def __str__(self) -> str:
        return f"{self.number} to {self.person_id}"


class Link(models.Model):
    """A link in one message, known by its number there (see links.py)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    message = models.ForeignKey(Message, models.CASCADE, related_name="links", db_index=False)
    number = models.PositiveSmallIntegerField()
    url = models.URLField(max_length=2000)
    clicks = models.PositiveIntegerField(default=0, db_default=0)
    robots = models.PositiveIntegerField(default=0, db_default=0, help_text="looked at by link checkers and the like")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["message", "number"], name="link_numbered_once")]

    def __str__(self) -> str:
        return self.url
