"""Workflows with their draft, published versions, enrolments and what reaches them, and the reasons."""

from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Workflow(models.Model):
    """`draft` is the document being written; `revision` grows with each change, so that two writers notice."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="workflows")
    name = models.CharField(max_length=120)
    draft = models.JSONField()
    revision = models.PositiveIntegerField(default=1)
    changed_at = models.DateTimeField()
    changed_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    published = models.ForeignKey("Version", models.SET_NULL, null=True, related_name="+")
    open = models.BooleanField(default=True, help_text="whether people may come in")

    def __str__(self) -> str:
        return self.name


class Version(models.Model):
    """A document as it was published. Never changed."""

    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    published_at = models.DateTimeField()
    published_by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workflow", "number"], name="version_numbered_once")]

    def __str__(self) -> str:
        return f"{self.workflow} {self.number}"


class Start(models.Model):
    """What the published version starts on: the index that events are matched through."""

    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="starts")
    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    event_kind = models.CharField(max_length=40)
    subject = models.CharField(max_length=120)

    class Meta:
        indexes = [models.Index(fields=["account", "event_kind", "subject"], name="start_by_event")]

    def __str__(self) -> str:
        return f"{self.event_kind} {self.subject}"


class Enrolment(models.Model):
    """One contact in one workflow: the core's State as a row, and when a batch is to look at it."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+")
    workflow = models.ForeignKey(Workflow, models.CASCADE, related_name="enrolments")
    version = models.ForeignKey(Version, models.CASCADE, related_name="+")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="enrolments")
    why = models.CharField(max_length=200)
    depth = models.PositiveSmallIntegerField(default=0)
    joined_at = models.DateTimeField()
    begun = models.BooleanField(default=False, help_text="whether the core has been told that it joined")
    place = models.CharField(max_length=40, blank=True)
    arrived_at = models.DateTimeField(null=True)
    until = models.DateTimeField(null=True)
    listens = models.BooleanField(default=False)
    round = models.PositiveIntegerField(default=1)
    rest = models.JSONField(default=dict, help_text="what else the core keeps of its state (State.rest)")
    ended = models.CharField(max_length=200, blank=True)
    ended_at = models.DateTimeField(null=True)
    due_at = models.DateTimeField(null=True)
    fault = models.TextField(blank=True, help_text="why it was set aside; nothing happens to it until retried")

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["workflow", "contact"], condition=models.Q(ended_at=None), name="inside_once_at_a_time"
            )
        ]
        indexes = [
            models.Index(fields=["due_at", "id"], condition=models.Q(due_at__isnull=False), name="enrolment_due"),
            models.Index(fields=["contact"], name="enrolment_of_contact"),
        ]

    def __str__(self) -> str:
        return f"{self.contact_id} in {self.workflow_id}"


class Signal(models.Model):
    """Something that has reached an enrolment and waits for its batch; gone once dealt with. One for an event."""

    enrolment = models.ForeignKey(Enrolment, models.CASCADE, related_name="signals")
    event_id = models.BigIntegerField()
    kind = models.CharField(max_length=10, choices=[("reply", "reply"), ("removed", "removed")])
    text = models.TextField()
    channel = models.CharField(max_length=5, blank=True)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["enrolment", "event_id"], name="signal_once_an_event")]

    def __str__(self) -> str:
        return f"{self.kind} for {self.enrolment_id}"


class Decision(models.Model):
    """A reason: one decision about one enrolment, with the values it was taken on."""

    enrolment = models.ForeignKey(Enrolment, models.CASCADE, related_name="decisions")
    step = models.CharField(max_length=40, blank=True)
    sentence = models.TextField()
    values = models.JSONField()
    at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["enrolment", "id"], name="decision_of_enrolment")]

    def __str__(self) -> str:
        return self.sentence
