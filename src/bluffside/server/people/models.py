"""Contacts, tags, lists, fields, consent; imports and the rows they could not take; proof of opting out that outlives a person."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models.functions import Lower

from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import PURPOSES
from bluffside.server.practice.models import Account, Person

LONGEST_CHANNEL = 9
PURPOSE_CHOICES = [(purpose, purpose) for purpose in PURPOSES]


class Field(models.Model):
    """A field of the account's own. Its kind (people/field_kinds) says how the value, kept as plain JSON on the contact, is
    read."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="fields", db_index=False)
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, default="text")
    choices = ArrayField(models.CharField(max_length=120), default=list, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="field_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Tag(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="tags", db_index=False)
    name = models.CharField(max_length=80)
    about = models.CharField(max_length=300, blank=True, db_default="", help_text="what it says of who has it")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="tag_once_an_account")]

    def __str__(self) -> str:
        return self.name


class ContactList(models.Model):
    """What is known of a list; who is on it stands with each contact, by its name. An `offered` one is a subject that
    contacts choose by themselves on their preference page, called there by `offered_as`."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="contact_lists", db_index=False)
    name = models.CharField(max_length=120)
    about = models.CharField(max_length=300, blank=True)
    offered = models.BooleanField(default=False)
    offered_as = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="list_once_an_account")]

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
    held_channels = ArrayField(
        models.CharField(max_length=9), default=list, db_default=[], blank=True, help_text="core.facts.Contact.held"
    )
    exhausted = ArrayField(models.CharField(max_length=9), default=list, db_default=[], blank=True)
    do_not_contact = models.BooleanField(default=False, db_default=False)
    paused_until = models.DateTimeField(null=True, help_text="until then the contact asked for quiet: marketing waits")
    score = models.JSONField(default=list, db_default=[], help_text="what each rule has brought (core.scoring.sheet)")
    tags = models.ManyToManyField(Tag, through="ContactTag", related_name="contacts")
    responsible = models.ForeignKey(Person, models.SET_NULL, null=True, blank=True, related_name="+")
    added_at = models.DateTimeField()
    # Names as they are looked for. Columns, since behind the walls no index of lower(first_name) would be used.
    first_sought = models.GeneratedField(
        expression=Lower("first_name"), output_field=models.CharField(max_length=160), db_persist=True
    )
    last_sought = models.GeneratedField(
        expression=Lower("last_name"), output_field=models.CharField(max_length=160), db_persist=True
    )

    class Meta:
        constraints = [
            models.UniqueConstraint("account", "email", condition=~models.Q(email=""), name="email_of_one_contact"),
            models.UniqueConstraint("account", "mobile", condition=~models.Q(mobile=""), name="mobile_of_one_contact"),
        ]
        indexes = [
            models.Index(fields=["account", "last_name", "first_name", "id"], name="contact_by_name"),
            models.Index(fields=["account", "added_at", "id"], name="contact_newest"),
            models.Index(fields=["account", "first_sought", "id"], name="contact_by_first_name"),
            models.Index(fields=["account", "last_sought", "id"], name="contact_by_last_name"),
            models.Index(fields=["account", "id"], name="contact_in_order"),
            models.Index(fields=["account", "zone"], condition=~models.Q(zone=""), name="contact_elsewhere"),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def name(self) -> str:
        return said_of(self.first_name, self.last_name, self.email, self.mobile)


def said_of(first: str, last: str, email: str, mobile: str) -> str:
    """How a contact is called: by name, else by where they are reached."""
    return f"{first} {last}".strip() or email or as_written(mobile)


class FurtherAddress(models.Model):
    """Another address of a contact, by which they are known, too, when they write or are brought in again. Messages go
    to the first one, on the contact itself."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="further_addresses")
    channel = models.CharField(max_length=LONGEST_CHANNEL)
    address = models.CharField(max_length=300)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "channel", "address"], name="further_address_once")]

    def __str__(self) -> str:
        return self.address


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
    channel = models.CharField(max_length=LONGEST_CHANNEL)
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
        TAKING_BACK = "taking_back"
        TAKEN_BACK = "taken_back"

    account = models.ForeignKey(Account, models.CASCADE, related_name="imports")
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    file_name = models.CharField(max_length=200)
    found = models.JSONField(
        default=dict, db_default={}, help_text="how it was read: kind, encoding, delimiter, sheet …"
    )
    columns = models.JSONField()
    first_row = models.PositiveIntegerField(
        default=2, db_default=2, help_text="the number of its first row of a person"
    )
    row_count = models.PositiveIntegerField()
    settings = models.JSONField(default=dict)
    state = models.CharField(max_length=11, choices=State, default=State.READ)
    rows_done = models.PositiveIntegerField(default=0)
    added = models.PositiveIntegerField(default=0)
    changed = models.PositiveIntegerField(default=0)
    skipped = models.PositiveIntegerField(default=0)
    failed = models.PositiveIntegerField(default=0)
    partly = models.PositiveIntegerField(default=0, db_default=0, help_text="rows that came in without some cell")
    kept = models.PositiveIntegerField(
        default=0, db_default=0, help_text="not taken back: something else happened since"
    )
    read_at = models.DateTimeField(null=True)
    started_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.file_name


class ImportPart(models.Model):
    """Some rows of a file, as lists of text: what one chunk brings in."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    of = models.ForeignKey(ContactImport, models.CASCADE, related_name="parts", db_index=False)
    first = models.PositiveIntegerField(help_text="the number of rows before it")
    rows = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["of", "first"], name="import_part_once")]

    def __str__(self) -> str:
        return f"rows after {self.first} of {self.of_id}"


class ImportTouched(models.Model):
    """A contact whom an import added (`before` is empty) or changed: what is needed to take it back."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    of = models.ForeignKey(ContactImport, models.CASCADE, related_name="touched", db_index=False)
    contact_id = models.BigIntegerField()
    before = models.JSONField(null=True, help_text="what was changed, as it had been; null for who was added")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["of", "contact_id"], name="import_touched_once")]

    def __str__(self) -> str:
        return f"{self.contact_id} by {self.of_id}"


class ImportFault(models.Model):
    """A row that was not taken, and why; or one that came in but for the cells that it tells of."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    of = models.ForeignKey(ContactImport, models.CASCADE, related_name="faults")
    row = models.PositiveIntegerField(help_text="as the spreadsheet numbers it; the heading is row 1")
    cells = models.JSONField()
    reason = models.CharField(max_length=500)
    taken = models.BooleanField(default=False, db_default=False, help_text="it came in, but for what the reason tells")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["of", "row"], name="fault_once_a_row")]

    def __str__(self) -> str:
        return f"row {self.row}: {self.reason}"


class Erased(models.Model):
    """What is kept of somebody who was erased: digests of their addresses, by which an opt-out is known again should
    the address ever come back, and what they had opted out of. No address can be read from it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="erased", db_index=False)
    digests = ArrayField(models.CharField(max_length=64))
    opted_out = models.JSONField(default=list, help_text="[channel, purpose, when they said so] each")
    at = models.DateTimeField()
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    why = models.CharField(max_length=300, blank=True)

    class Meta:
        indexes = [models.Index(fields=["account", "at"], name="erased_of_account")]

    def __str__(self) -> str:
        return f"erased at {self.at:%Y-%m-%d}"


class NotTheSame(models.Model):
    """Two contacts of whom somebody said that they are two people, however alike they look. `first` has the smaller id."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    first = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    second = models.ForeignKey(Contact, models.CASCADE, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "first", "second"], name="two_people_once")]

    def __str__(self) -> str:
        return f"{self.first_id} is not {self.second_id}"


class Proposal(models.Model):
    """What came in from outside and would change somebody who is known: it waits until somebody of the team has decided, or
    the contact on their own page (see people.proposals)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="proposals")
    what = models.CharField(
        max_length=120, help_text="a field's name, field:<own name>, or consent:<channel>:<purpose>"
    )
    value = models.JSONField()
    source = models.CharField(max_length=200, help_text="in words: by the form “Open day”")
    about = models.JSONField(default=dict, db_default={}, help_text="of a consent: how, wording, evidence")
    at = models.DateTimeField()
    settled_at = models.DateTimeField(null=True)
    taken = models.BooleanField(default=False, db_default=False)
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+", help_text="of the team, who decided")

    class Meta:
        indexes = [
            models.Index(fields=["account", "at"], condition=models.Q(settled_at=None), name="proposals_open"),
        ]

    def __str__(self) -> str:
        return f"{self.what} of {self.contact_id}"


class MergedContact(models.Model):
    """A number under which somebody was known before they were merged into another record: links with it still work."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    was = models.BigIntegerField(unique=True)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")

    def __str__(self) -> str:
        return f"{self.was} is {self.contact_id}"
