"""Workflows with their draft, published versions, enrolments and what reaches them, and the reasons; what comes for
contacts by the calendar alone."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.core.engine.state import State
from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Sort(models.TextChoices):
    SCRIPT = "script"
    ONCE = "once"  # a script of one line that says a message of the library once (writing_once.py)
    MESSAGE = "message"  # of the library: a document of one line, which scripts say (core.workflow.library)


class Scripts(models.Manager["Workflow"]):
    def get_queryset(self) -> models.QuerySet["Workflow"]:
        return super().get_queryset().exclude(sort=Sort.MESSAGE)


class Workflow(models.Model):
    """`draft` is the document being written; `revision` grows with each change, so that two writers notice. `objects` are the
    scripts; `written` are all documents, the messages of the library, too."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="workflows")
    name = models.CharField(max_length=120)
    draft = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField()
    changed_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    published = models.ForeignKey("Version", models.SET_NULL, null=True, related_name="+")
    open = models.BooleanField(default=True, help_text="whether people may come in")
    colour = models.CharField(max_length=10, blank=True, default="", db_default="", help_text="in lists and the diary")
    archived_at = models.DateTimeField(null=True, help_text="put away: closed to newcomers and out of the list")
    sort = models.CharField(max_length=7, choices=Sort, default=Sort.SCRIPT, db_default=Sort.SCRIPT)
    aim_of = models.BigIntegerField(null=True, help_text="the version by whose aim it is decided who has reached it")
    aim_next = models.BigIntegerField(default=0, db_default=0, help_text="decided anew up to this enrolment")
    labels = ArrayField(
        models.CharField(max_length=40),
        default=list,
        db_default=models.Value([], ArrayField(models.CharField(max_length=40))),
        help_text="of a message",
    )

    objects = Scripts()
    written: "models.Manager[Workflow]" = models.Manager()  # it is a manager, too

    class Meta:
        base_manager_name = "written"
        constraints = [
            models.UniqueConstraint(
                fields=["account", "name"], condition=models.Q(sort="message"), name="message_named_once"
            )
        ]

    def __str__(self) -> str:
        return self.name


class Version(models.Model):
    """A document as it was published. Never changed; what it names may be called otherwise since (`versions.reading`)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    published_at = models.DateTimeField()
    published_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    called = models.JSONField(
        default=list, db_default=[], help_text="[kind, name in the document, name now]: it answers to its former words"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workflow", "number"], name="version_numbered_once")]

    def __str__(self) -> str:
        return f"{self.workflow} {self.number}"


class Showing(models.Model):
    """A script or a message as it was shown to the client, by a link that needs no sign-in: what they remarked and whether they agreed
    (showing.py)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="showings")
    document = models.JSONField(help_text="as it was then, with the words that its messages had")
    client = models.CharField(max_length=120, help_text="whom it was shown to")
    words = models.CharField(max_length=2_000, blank=True, help_text="what was said to them with it")
    shown_at = models.DateTimeField()
    shown_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    ended_at = models.DateTimeField(null=True, help_text="when the link was taken back")
    agreed_at = models.DateTimeField(null=True)
    agreed_by = models.CharField(max_length=120, blank=True, help_text="as they wrote their name")
    told_at = models.DateTimeField(null=True, help_text="when who showed it was last mailed about it")

    def __str__(self) -> str:
        return f"{self.workflow} to {self.client}"


class Remark(models.Model):
    """What the client says about a line of what was shown (`line` is empty: about the whole), and what was answered."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    showing = models.ForeignKey(Showing, models.CASCADE, related_name="remarks")
    line = models.CharField(max_length=40, blank=True)
    who = models.CharField(max_length=120)
    words = models.TextField()
    made_at = models.DateTimeField()
    answer = models.TextField(blank=True)
    answered_at = models.DateTimeField(null=True)
    answered_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return f"{self.who}: {self.words[:40]}"


class Start(models.Model):
    """What the published version starts on: the index that events are matched through."""

    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="starts")
    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    event_kind = models.CharField(max_length=40)
    subject = models.CharField(max_length=120)

    class Meta:
        indexes = [models.Index(fields=["account", "event_kind", "subject"], name="start_by_event")]

    def __str__(self) -> str:
        return f"{self.event_kind} {self.subject}"


class Enrolment(models.Model):
    """One contact in one workflow: the core's State as a row, and when a batch is to look at it. `deal`: that it is the
    contact's only one for, where each deal comes in (core.workflow.entering.once_for)."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="enrolments", db_index=False)
    version = models.ForeignKey(Version, models.CASCADE, related_name="+", db_index=False)
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="enrolments", db_index=False)
    why = models.CharField(max_length=200)
    about = models.JSONField(default=dict, db_default={}, help_text="what it is about when it begins: a deal, a form")
    deal = models.CharField(max_length=80, blank=True, default="", db_default="")
    by = models.CharField(max_length=120, blank=True, db_default="", help_text="the member who caused it")
    depth = models.PositiveSmallIntegerField(default=0, db_default=0)
    joined_at = models.DateTimeField()
    begun = models.BooleanField(default=False, db_default=False, help_text="whether the core was told that it joined")
    place = models.CharField(max_length=40, blank=True, db_default="")
    arrived_at = models.DateTimeField(null=True)
    until = models.DateTimeField(null=True)
    listens = models.BooleanField(default=False, db_default=False)
    round = models.PositiveIntegerField(default=1, db_default=1)
    rest = models.JSONField(default=dict, db_default={}, help_text="what else the core keeps (State.rest)")
    ended = models.CharField(max_length=200, blank=True, db_default="")
    ended_at = models.DateTimeField(null=True)
    due_at = models.DateTimeField(null=True)
    fault = models.TextField(
        blank=True, db_default="", help_text="why it was set aside; nothing happens to it until retried"
    )
    paused_at = models.DateTimeField(null=True, help_text="since when somebody holds it; what reaches it waits")
    held_back = models.BooleanField(default=False, db_default=False, help_text="left out on purpose, to compare")
    reached_at = models.DateTimeField(null=True, help_text="when the workflow's aim was (aims.py)")
    reached_worth = models.DecimalField(max_digits=12, decimal_places=2, null=True)
    reached_message_id = models.BigIntegerField(null=True, help_text="the last that it had sent by then")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workflow", "contact", "deal"], condition=models.Q(ended_at=None), name="inside_once_at_a_time"
            )
        ]
        indexes = [
            models.Index(
                fields=["account", "due_at", "id"], condition=models.Q(due_at__isnull=False), name="enrolment_due"
            ),
            models.Index(fields=["contact"], name="enrolment_of_contact"),
            models.Index(fields=["workflow", "-joined_at"], name="enrolment_newest"),
            models.Index(fields=["account", "joined_at"], name="enrolment_by_day"),
            models.Index(
                fields=["reached_message_id"],
                condition=models.Q(reached_message_id__isnull=False),
                name="aim_by_message",
            ),
            models.Index(fields=["account"], condition=~models.Q(fault=""), name="enrolment_set_aside"),
            models.Index(
                fields=["account"],
                condition=models.Q(ended_at=None, rest__contains={"stopped": True}),
                name="enrolment_stopped",
            ),
            models.Index(
                fields=["account"],
                condition=models.Q(ended_at=None, rest__contains={"talks": True}),
                name="enrolment_talks",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.contact_id} in {self.workflow_id}"

    @property
    def state(self) -> State:
        """Where it stands, as the core has it; what it is about is on record from the start."""
        state = State(
            self.joined_at, self.place, self.arrived_at, self.until, self.listens, self.round, self.ended,
            about=self.about, by=self.by, depth=self.depth,
        )  # fmt: skip
        return state.with_rest(self.rest) if self.rest else state

    @property
    def finished(self) -> bool:
        """It has come to the end of the script, and stays only in case a date moves (engine.replanning)."""
        return bool(self.rest.get("finished"))


class Intake(models.Model):
    """People brought into a workflow by hand: all at once, at a moment, or a few at a time. `began` is the instant the
    plan counts from, `planned` how many people it then had, `portion` how many portions of it have come in."""

    class State(models.TextChoices):
        RUNNING = "running"
        PAUSED = "paused"
        STOPPED = "stopped"
        DONE = "done"
        TAKEN_BACK = "taken_back"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="intakes")
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    state = models.CharField(max_length=10, choices=State, default=State.RUNNING)
    trickle = models.JSONField(null=True, help_text="core.care.trickle; none: all at once")
    began = models.DateTimeField()
    planned = models.PositiveIntegerField()
    portion = models.PositiveIntegerField(default=0)
    next_at = models.DateTimeField(null=True, help_text="when the next portion comes in; empty unless it runs")
    total = models.PositiveIntegerField()
    came = models.PositiveIntegerField(default=0)
    left_out = models.JSONField(default=dict, help_text="how many did not come in, by reason")
    fault = models.CharField(max_length=300, blank=True, default="", help_text="why it paused by itself")
    ended_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [
            models.Index(fields=["account", "next_at"], condition=models.Q(next_at__isnull=False), name="intake_due")
        ]

    def __str__(self) -> str:
        return f"{self.total} into {self.workflow_id}"


class IntakePerson(models.Model):
    """One of those an intake brings in, in their order, for a deal of theirs or none. `did`: empty while waiting, "came", or
    why not."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    intake = models.ForeignKey(Intake, models.CASCADE, related_name="people", db_index=False)
    number = models.PositiveIntegerField()
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    deal = models.CharField(max_length=80, blank=True, default="", db_default="")
    did = models.CharField(max_length=200, blank=True, default="", db_default="")
    enrolment_id = models.BigIntegerField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["intake", "number"], name="intake_in_order")]

    def __str__(self) -> str:
        return f"{self.number} of {self.intake_id}"


class Signal(models.Model):
    """Something that has reached an enrolment and waits for its batch; gone once dealt with. One for an event."""

    class Kind(models.TextChoices):
        REPLY = "reply"
        HAPPENED = "happened"
        REMOVED = "removed"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    enrolment = models.ForeignKey(Enrolment, models.CASCADE, related_name="signals", db_index=False)
    event_id = models.BigIntegerField()
    kind = models.CharField(max_length=10, choices=Kind)
    event_kind = models.CharField(max_length=40, blank=True)
    data = models.JSONField(default=dict)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["enrolment", "event_id"], name="signal_once_an_event")]

    def __str__(self) -> str:
        return f"{self.kind} for {self.enrolment_id}"


class EnrolmentReasons(models.Model):
    """The reasons of one turn of an enrolment: every decision, with the values it was taken on. Added, never changed;
    the table is cut into months by `at`. `reasons` is a list of {step, sentence, values}; `steps` the lines it was at."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False, db_constraint=False)
    enrolment = models.ForeignKey(Enrolment, models.CASCADE, related_name="turns", db_index=False, db_constraint=False)
    at = models.DateTimeField()
    steps = ArrayField(models.CharField(max_length=40))
    reasons = models.JSONField()

    class Meta:
        db_table = "workflows_turn"
        indexes = [models.Index(fields=["enrolment", "at", "id"], name="turn_of_enrolment")]

    def __str__(self) -> str:
        return f"turn of {self.enrolment_id} at {self.at:%Y-%m-%d %H:%M}"


class Rotation(models.Model):
    """Whose turn it is where members take turns: how many things the team of these names was given."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    team = models.CharField(max_length=2_000, help_text="their names, one a line")
    given = models.PositiveIntegerField(default=0)

    class Meta:
        db_table = "workflows_memberturn"
        constraints = [models.UniqueConstraint(fields=["account", "team"], name="turns_of_a_team")]

    def __str__(self) -> str:
        return self.team


class Expected(models.Model):
    """The next moment of a dated start for a contact: a birthday, two days before an appointment, a score that fades.

    `at` is empty when it does not come again as things stand; `after` is the last moment that came, so that none comes
    twice. A moment in the past is due, however long nobody looked.
    """

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="+", db_index=False)
    trigger = models.CharField(max_length=16, help_text="a hash of the start as it is written")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    appointment = models.CharField(max_length=20, blank=True)
    at = models.DateTimeField(null=True)
    after = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["workflow", "trigger", "contact", "appointment"], name="expected_once")
        ]
        indexes = [models.Index(fields=["account", "at"], name="expected_due")]

    def __str__(self) -> str:
        return f"{self.contact_id} at {self.at}"


class ScoreTurn(models.Model):
    """When a contact's points for who they are may next be others though nothing happens: "has sent us nothing for 90 days"."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    contact = models.OneToOneField(Contact, models.CASCADE, related_name="+")
    at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["account", "at"], name="score_turn_due")]

    def __str__(self) -> str:
        return f"{self.contact_id} at {self.at}"


class DailyPass(models.Model):
    """Going through an account's contacts once a day for its dated starts, in portions: `contact_id` is the last one
    done, `began` when this pass began (empty: it is over), `covered` up to when all are known."""

    account = models.OneToOneField(Account, models.CASCADE, related_name="+")
    next_at = models.DateTimeField()
    began = models.DateTimeField(null=True)
    contact_id = models.BigIntegerField(default=0)
    covered = models.DateTimeField()

    def __str__(self) -> str:
        return f"next at {self.next_at}"
