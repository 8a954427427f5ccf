"""A practice holds accounts; a person belongs to the practice and enters accounts by role."""

from typing import ClassVar

from django.apps import apps
from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.contrib.auth.password_validation import validate_password
from django.contrib.postgres.fields import ArrayField
from django.db import models


class Practice(models.Model):
    name = models.CharField(max_length=120)
    keeping = models.JSONField(default=dict, db_default={}, help_text="months, by the sort of thing (practice.keeping)")
    second_step = models.BooleanField(
        default=False, db_default=False, help_text="whoever signs in needs more than a password"
    )

    def __str__(self) -> str:
        return self.name


class Account(models.Model):
    """One client business. Every row that belongs to it carries it; nothing crosses to another."""

    practice = models.ForeignKey(Practice, models.CASCADE, related_name="accounts")
    slug = models.SlugField(unique=True)
    name = models.CharField(max_length=120)
    zone = models.CharField(max_length=64, help_text="IANA time zone")
    region = models.CharField(max_length=2, help_text="country whose way of writing phone numbers is assumed")
    phone = models.CharField(max_length=20, blank=True)
    booking_link = models.URLField(blank=True)
    signature = models.CharField(max_length=200, blank=True)
    text_number = models.CharField(max_length=20, help_text="the number texts come from, E.164")
    sender_name = models.CharField(max_length=120)
    sender_email = models.EmailField()
    postal_address = models.CharField(max_length=300, help_text="in every email, as 15 U.S.C. 7704(a)(5) demands")
    brand_colour = models.CharField(
        max_length=7, blank=True, db_default="", help_text="of contact-facing pages, #1d5b66"
    )
    link_colour = models.CharField(
        max_length=7,
        blank=True,
        default="",
        db_default="",
        help_text="of links and buttons there; the brand's when empty",
    )
    closing_lines = models.CharField(
        max_length=300, blank=True, default="", db_default="", help_text="under every email, above the postal address"
    )
    trade = models.CharField(
        max_length=80, blank=True, default="", db_default="", help_text="what the business does: pottery"
    )
    language = models.CharField(
        max_length=20, default="en-GB", db_default="en-GB", help_text="BCP 47; how dates are written to people"
    )
    currency = models.CharField(max_length=3, default="GBP", db_default="GBP", help_text="ISO 4217")
    web_page = models.URLField(blank=True, default="", db_default="")
    details = models.JSONField(
        default=list, db_default=[], help_text="of the account's own choosing, each a merge field: [{name, words}]"
    )
    booking_pages = models.JSONField(
        default=dict, db_default={}, help_text="tokens of pages that are open, by type of appointment"
    )
    names_changed = models.PositiveIntegerField(
        default=0, db_default=0, help_text="how often something that runs was given another name (workflows.versions)"
    )
    trying_out = models.BooleanField(
        default=False, db_default=False, help_text="not live yet: messages reach its own team alone"
    )
    live_since = models.DateTimeField(null=True, help_text="empty while it is tried out")
    archived_at = models.DateTimeField(null=True, help_text="since when it is put away: nothing goes out")
    deleting_at = models.DateTimeField(null=True, help_text="since when it is being deleted for good: nobody enters it")
    brand_line = models.CharField(max_length=120, blank=True, db_default="", help_text="under the name on these pages")
    responsible = models.ForeignKey(
        "Person",
        models.SET_NULL,
        null=True,
        blank=True,
        related_name="+",
        help_text="for contacts with nobody of their own",
    )
    care = models.JSONField(default=dict, db_default={}, help_text="the house rules (core.care.house.Care)")
    score_rules = models.JSONField(
        default=dict, db_default={}, help_text="core.scoring.rules.ScoreRules; none if empty"
    )
    assistant = models.JSONField(
        default=dict, db_default={}, help_text="what the booking assistant says (core.assistant.script)"
    )
    signing_key_sealed = models.TextField(
        blank=True, default="", db_default="", help_text="signs requests to other systems (hooks.signing)"
    )
    stopped_at = models.DateTimeField(null=True, help_text="since when all sending is stopped; empty: it is not")
    stopped_by = models.ForeignKey("Person", models.SET_NULL, null=True, related_name="+")
    stopped_why = models.CharField(max_length=200, blank=True, db_default="")
    kept_until_month = models.DateTimeField(
        null=True, help_text="when what is kept no longer is looked for again; at once when empty"
    )
    allowed_hosts = ArrayField(
        models.CharField(max_length=253),
        default=list,
        blank=True,
        help_text="names that may lead into the private network, set by whoever runs the installation",
    )

    def __str__(self) -> str:
        return self.name


class Connection(models.Model):
    """Something outside that an account is connected to, and how that stands (connections.py). `since`: since when it works, or
    does not; empty while nobody knows."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="connections", db_index=False)
    kind = models.CharField(max_length=8)
    name = models.CharField(max_length=253, blank=True)
    fault = models.CharField(max_length=300, blank=True, help_text="why it does not work; empty: it does")
    since = models.DateTimeField(null=True)
    said = models.CharField(max_length=300, blank=True, help_text="what it answered last")
    said_at = models.DateTimeField(null=True)
    in_vain = models.PositiveSmallIntegerField(default=0, help_text="tries in a row that got no answer")
    off_at = models.DateTimeField(null=True)
    off_by = models.ForeignKey("Person", models.SET_NULL, null=True, related_name="+")
    expected_days = models.PositiveSmallIntegerField(null=True, help_text="something is expected at least this often")
    key_sealed = models.TextField(blank=True, help_text="what it asks for to let requests in")
    key_header = models.CharField(max_length=60, blank=True)
    key_at = models.DateTimeField(null=True, help_text="when it was put in")
    test = models.CharField(max_length=40, blank=True, help_text="of the test that is on its way")
    test_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "kind", "name"], name="connection_once")]

    def __str__(self) -> str:
        return f"{self.kind} {self.name}"


class AccountExport(models.Model):
    """A file of everything an account owns, as a worker writes it (set_up/whole_export.py): where it stands, and whether somebody
    has taken it."""

    class State(models.TextChoices):
        RUNNING = "running"
        STOPPED = "stopped"
        DONE = "done"

    account = models.OneToOneField(Account, models.CASCADE, related_name="export")
    by = models.ForeignKey("Person", models.SET_NULL, null=True, related_name="+")
    state = models.CharField(max_length=7, choices=State, default=State.RUNNING)
    table = models.CharField(max_length=63, blank=True)
    after = models.BigIntegerField(default=0, help_text="the id of the last row of that table that is in it")
    rows = models.BigIntegerField(default=0)
    total = models.BigIntegerField(default=0)
    parts = models.IntegerField(default=0)
    size = models.BigIntegerField(default=0, help_text="bytes")
    asked_at = models.DateTimeField()
    done_at = models.DateTimeField(null=True)
    taken_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"of {self.account_id}, {self.state}"


class ExportPart(models.Model):
    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    export = models.ForeignKey(AccountExport, models.CASCADE, related_name="+", db_index=False)
    number = models.IntegerField()
    content = models.BinaryField(help_text="a member of the file, gzip")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["export", "number"], name="part_numbered_once")]

    def __str__(self) -> str:
        return f"{self.number} of {self.export_id}"


class DeletedAccount(models.Model):
    """What stays of an account that was deleted for good. `number`: its id."""

    practice = models.ForeignKey(Practice, models.CASCADE, related_name="deleted_accounts")
    number = models.BigIntegerField(unique=True)
    name = models.CharField(max_length=120)
    by_name = models.CharField(max_length=120)
    at = models.DateTimeField()
    rows = models.BigIntegerField(default=0)
    gone_at = models.DateTimeField(null=True, help_text="empty while rows are still there")

    def __str__(self) -> str:
        return self.name


class Picture(models.Model):
    """The account's logo, the picture of its pages, or one for its letters, as it was read and written anew (pictures.py).
    `token`: its address."""

    class Kind(models.TextChoices):
        LOGO = "logo"
        PICTURE = "picture"
        LETTER = "letter"

    account = models.ForeignKey(Account, models.CASCADE, related_name="pictures")
    kind = models.CharField(max_length=7, choices=Kind)
    token = models.CharField(max_length=40, unique=True)
    content = models.BinaryField(help_text="PNG; one for letters may be JPEG")
    name = models.CharField(max_length=120, blank=True, default="", db_default="", help_text="of the file, for letters")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["account", "kind"], condition=models.Q(kind__in=["logo", "picture"]), name="picture_of_a_kind"
            )
        ]

    def __str__(self) -> str:
        return f"{self.kind} of {self.account_id}"


class PersonManager(BaseUserManager["Person"]):
    def create_user(self, email: str, password: str, **fields: object) -> "Person":
        """Raises django.core.exceptions.ValidationError for a password that is too easy to guess."""
        person = self.model(email=email.strip().lower(), **fields)
        validate_password(password, person)
        person.set_password(password)
        person.save()
        addresses = apps.get_model("account", "EmailAddress")._default_manager
        addresses.create(user=person, email=person.email, verified=True, primary=True)
        return person

    def get_by_natural_key(self, username: str | None) -> "Person":
        return self.get(email=(username or "").strip().lower())


class Person(AbstractBaseUser):
    """Someone who signs in. `is_consultant` enters every account of the practice; others by membership."""

    practice = models.ForeignKey(Practice, models.CASCADE, related_name="people")
    email = models.EmailField(unique=True)
    name = models.CharField(max_length=120)
    phone = models.CharField(max_length=20, blank=True)
    is_consultant = models.BooleanField(default=False)
    is_active = models.BooleanField(default=True)
    zone = models.CharField(
        max_length=64, blank=True, default="", db_default="", help_text="IANA; the account's when empty"
    )
    signature = models.CharField(max_length=200, blank=True, default="", db_default="")
    told = models.JSONField(
        default=dict, db_default={}, blank=True, help_text="how, by kind of notice (diary.told); as usual if absent"
    )
    away_from = models.DateField(null=True, blank=True, help_text="the first day away, by the calendar of each account")
    away_until = models.DateField(null=True, blank=True, help_text="the last day away; open without")
    seen_at = models.DateTimeField(null=True, blank=True, help_text="real time, to some minutes")

    USERNAME_FIELD = "email"
    REQUIRED_FIELDS: ClassVar[list[str]] = []
    objects: ClassVar[PersonManager] = PersonManager()

    def __str__(self) -> str:
        return self.name

    @property
    def first_name(self) -> str:
        return self.name.split(" ")[0]


class Membership(models.Model):
    class Role(models.TextChoices):
        MANAGER = "manager"
        TEAM = "team"
        VIEWER = "viewer"

    account = models.ForeignKey(Account, models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)
    responsible_for = models.CharField(max_length=200, blank=True, default="", db_default="", help_text="in words")
    stand_in = models.ForeignKey(
        Person, models.SET_NULL, null=True, related_name="+", help_text="takes what falls to them while they are away"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "person"], name="one_role_an_account")]

    def __str__(self) -> str:
        return f"{self.person} as {self.role} of {self.account}"


class StaffMail(models.Model):
    """A mail to somebody who works here (staff_mail.py). Its words may open a door, so they are sealed, and gone once sent."""

    address = models.EmailField()
    subject = models.CharField(max_length=200)
    sealed = models.TextField(blank=True)
    made_at = models.DateTimeField()
    next_try_at = models.DateTimeField(null=True, help_text="empty: it is gone, or will never go")
    attempts = models.PositiveSmallIntegerField(default=0)
    reason = models.CharField(max_length=300, blank=True, help_text="why it has not gone")

    class Meta:
        indexes = [models.Index("next_try_at", condition=models.Q(next_try_at__isnull=False), name="staff_mail_due")]

    def __str__(self) -> str:
        return f"{self.subject} to {self.address}"


class AuditEntry(models.Model):
    """One thing that somebody changed in an account's set-up, published, took out or erased (see audit.py). Kept as long as
    the account; who did it is written out, so that it outlives them."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="audit")
    at = models.DateTimeField()
    by = models.ForeignKey("Person", models.SET_NULL, null=True, related_name="+")
    by_name = models.CharField(max_length=120, blank=True)
    area = models.CharField(max_length=20)
    what = models.CharField(max_length=200)
    old = models.TextField(blank=True)
    new = models.TextField(blank=True)

    class Meta:
        indexes = [models.Index("account", models.F("at").desc(), models.F("id").desc(), name="audit_newest")]

    def __str__(self) -> str:
        return f"{self.what} by {self.by_name}"


class Installation(models.Model):
    """One row: what holds for the whole installation."""

    class Use(models.TextChoices):
        DEMO = "demo"
        REAL = "real"

    use = models.CharField(
        max_length=4, choices=Use, blank=True, db_default="", help_text="empty until it is taken into use"
    )
    clock_ahead = models.DurationField(help_text="how far the demo's clock stands ahead of the real one")

    def __str__(self) -> str:
        return f"{self.use or 'new'}, clock ahead by {self.clock_ahead}"


class Beat(models.Model):
    """How often something of the account was written (see pulse.py). The table is unlogged: a number that is lost only lets
    pages look once more."""

    account = models.OneToOneField(Account, models.CASCADE, primary_key=True, related_name="+")
    number = models.BigIntegerField()

    def __str__(self) -> str:
        return f"{self.account_id}: {self.number}"


class WorkerSeen(models.Model):
    """A worker that has told that it is alive; gone when it ends by itself."""

    name = models.CharField(max_length=200, unique=True, help_text="host and process")
    began_at = models.DateTimeField()
    seen_at = models.DateTimeField(help_text="real time, not the clock's")

    def __str__(self) -> str:
        return self.name
