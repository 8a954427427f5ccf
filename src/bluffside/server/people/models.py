"""Contacts, tags, consent; imports and the rows they could not take."""

from django.db import models

from bluffside.server.practice.models import Account, Person

CHANNEL_CHOICES = [("email", "email"), ("text", "text")]


class Tag(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="tags")
    name = models.CharField(max_length=80)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="tag_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Contact(models.Model):
    """One person in an account's list. An email or a mobile number belongs to one contact of an account."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="contacts")
    first_name = models.CharField(max_length=80, blank=True)
    last_name = models.CharField(max_length=80, blank=True)
    email = models.CharField(max_length=254, blank=True, help_text="normalised, lower case")
    mobile = models.CharField(max_length=16, blank=True, help_text="E.164")
    zone = models.CharField(max_length=64, blank=True, help_text="IANA; the account's when empty")
    tags = models.ManyToManyField(Tag, through="ContactTag", related_name="contacts")
    responsible = models.ForeignKey(Person, models.SET_NULL, null=True, blank=True, related_name="+")
    added_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint("account", "email", condition=~models.Q(email=""), name="email_of_one_contact"),
            models.UniqueConstraint("account", "mobile", condition=~models.Q(mobile=""), name="mobile_of_one_contact"),
        ]
        indexes = [models.Index(fields=["account", "last_name", "first_name"], name="contact_by_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def name(self) -> str:
        return f"{self.first_name} {self.last_name}".strip() or self.email or self.mobile


class ContactTag(models.Model):
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="tagged")
    tag = models.ForeignKey(Tag, models.CASCADE, related_name="tagged")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["contact", "tag"], name="tagged_once")]

    def __str__(self) -> str:
        return f"{self.contact_id} has {self.tag_id}"


class Consent(models.Model):
    """What a contact said about being written to on a channel, with how and when it was said."""

    contact = models.ForeignKey(Contact, models.CASCADE, related_name="consents")
    channel = models.CharField(max_length=5, choices=CHANNEL_CHOICES)
    given = models.BooleanField()
    at = models.DateTimeField()
    evidence = models.CharField(max_length=500)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["contact", "channel"], name="consent_once_a_channel")]

    def __str__(self) -> str:
        return f"{'in' if self.given else 'out'} by {self.channel}"


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

    of = models.ForeignKey(ContactImport, models.CASCADE, related_name="faults")
    row = models.PositiveIntegerField(help_text="as the spreadsheet numbers it; the heading is row 1")
    cells = models.JSONField()
    reason = models.CharField(max_length=500)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["of", "row"], name="fault_once_a_row")]

    def __str__(self) -> str:
        return f"row {self.row}: {self.reason}"
