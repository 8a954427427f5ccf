"""Contacts, tags, consent; imports and the rows they could not take."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.core.terms import CHANNELS, PURPOSES
from bluffside.server.practice.models import Account, Person

CHANNEL_CHOICES = [(channel, channel) for channel in CHANNELS]
PURPOSE_CHOICES = [(purpose, purpose) for purpose in PURPOSES]


class Field(models.Model):
    """A field of the account's own. Its kind says how the value, kept as plain JSON on the contact, is read."""

    class Kind(models.TextChoices):
        TEXT = "text"
        NUMBER = "number"
        MONEY = "money"
        DATE = "date"
        YES_NO = "yes_no"
        CHOICE = "choice"
        CHOICES = "choices"
        PHONE = "phone"
        LINK = "link"

    account = models.ForeignKey(Account, models.CASCADE, related_name="fields", db_index=False)
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=Kind, default=Kind.TEXT)
    choices = ArrayField(models.CharField(max_length=120), default=list, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="field_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Tag(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="tags", db_index=False)
    name = models.CharField(max_length=80)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="tag_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Contact(models.Model):
    """One person in an account's list. An email or a mobile number belongs to one contact of an account.

    The engine holds this row while it decides about the person: all that is said of one contact is said in turn.
    """

    account = models.ForeignKey(Account, models.CASCADE, related_name="contacts", db_index=False)
    first_name = models.CharField(max_length=80, blank=True)
    last_name = models.CharField(max_length=80, blank=True)
    email = models.CharField(max_length=254, blank=True, help_text="normalised, lower case")
    mobile = models.CharField(max_length=16, blank=True, help_text="E.164")
    zone = models.CharField(max_length=64, blank=True, help_text="IANA; the account's when empty")
    post = models.CharField(max_length=300, blank=True, db_default="", help_text="postal address")
    push = models.CharField(max_length=200, blank=True, db_default="", help_text="device for push notices")
    social = models.CharField(max_length=120, blank=True, db_default="", help_text="handle for social messages")
    fields = models.JSONField(default=dict, db_default={}, help_text="the account's own fields, by name")
    lists = ArrayField(models.CharField(max_length=120), default=list, db_default=[], blank=True)
    channel_order = ArrayField(models.CharField(max_length=9), default=list, db_default=[], blank=True)
    exhausted = ArrayField(models.CharField(max_length=9), default=list, db_default=[], blank=True)
    do_not_contact = models.BooleanField(default=False, db_default=False)
    score = models.JSONField(default=list, db_default=[], help_text="what each rule has brought (core.scoring.sheet)")
    tags = models.ManyToManyField(Tag, through="ContactTag", related_name="contacts")
    responsible = models.ForeignKey(Person, models.SET_NULL, null=True, blank=True, related_name="+")
    added_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint("account", "email", condition=~models.Q(email=""), name="email_of_one_contact"),
            models.UniqueConstraint("account", "mobile", condition=~models.Q(mobile=""), name="mobile_of_one_contact"),
        ]
        indexes = [
            models.Index(fields=["account", "last_name", "first_name", "id"], name="contact_by_name"),
            models.Index(fields=["account", "added_at", "id"], name="contact_newest"),
            models.Index(fields=["account", "id"], name="contact_in_order"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def name(self) -> str:
        return f"{self.first_name} {self.last_name}".strip() or self.email or self.mobile


class ContactTag(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="tagged", db_index=False)
    tag = models.ForeignKey(Tag, models.CASCADE, related_name="tagged")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["contact", "tag"], name="tagged_once")]

    def __str__(self) -> str:
        return f"{self.contact_id} has {self.tag_id}"


class Consent(models.Model):
    """What a contact said about being written to on a channel for a purpose, with how and when it was said."""

    class State(models.TextChoices):
        GIVEN = "given"
        WITHDRAWN = "withdrawn"
        ASKED = "asked"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="consents", db_index=False)
    channel = models.CharField(max_length=9, choices=CHANNEL_CHOICES)
    purpose = models.CharField(max_length=9, choices=PURPOSE_CHOICES)
    state = models.CharField(max_length=9, choices=State)
    at = models.DateTimeField()
    how = models.CharField(max_length=120, blank=True)
    wording = models.CharField(max_length=500, blank=True)
    evidence = models.CharField(max_length=500, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["contact", "channel", "purpose"], name="consent_once_a_channel_and_purpose")
        ]

    def __str__(self) -> str:
        return f"{self.state} by {self.channel} for {self.purpose}"


class ContactImport(models.Model):
    """A file of people on its way in. `rows_done` moves in the transaction that brings those rows in, so an
    import goes on after a crash where it stood."""

    class State(models.TextChoices):
        READ = "read"
        RUNNING = "running"
        STOPPED = "stopped"
        DONE = "done"

    account = models.ForeignKey(Account, models.CASCADE, related_name="imports")
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=200)
    columns = models.JSONField()
    rows = models.JSONField(help_text="every row after the first, as lists of text")
    row_count = models.PositiveIntegerField()
    settings = models.JSONField(default=dict)
    state = models.CharField(max_length=10, choices=State, default=State.READ)
    rows_done = models.PositiveIntegerField(default=0)
    added = models.PositiveIntegerField(default=0)
    changed = models.PositiveIntegerField(default=0)
    skipped = models.PositiveIntegerField(default=0)
    failed = models.PositiveIntegerField(default=0)
    started_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.file_name


class ImportFault(models.Model):
    """A row that was not taken, and why."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    of = models.ForeignKey(ContactImport, models.CASCADE, related_name="faults")
    row = models.PositiveIntegerField(help_text="as the spreadsheet numbers it; the heading is row 1")
    cells = models.JSONField()
    reason = models.CharField(max_length=500)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["of", "row"], name="fault_once_a_row")]

    def __str__(self) -> str:
        return f"row {self.row}: {self.reason}"
