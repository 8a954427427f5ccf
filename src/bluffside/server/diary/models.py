"""Tasks for people."""

from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Task(models.Model):
    """A call or a to-do about a contact. `key` is of the enrolment and step that made it: one task a key."""

    class Kind(models.TextChoices):
        CALL = "call"
        TO_DO = "to_do"

    class Outcome(models.TextChoices):
        REACHED = "reached"
        NO_ANSWER = "no_answer"
        LEFT_MESSAGE = "left_message"
        DONE = "done"
        DROPPED = "dropped"

    account = models.ForeignKey(Account, models.CASCADE, related_name="tasks")
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="tasks")
    key = models.CharField(max_length=120, unique=True)
    kind = models.CharField(max_length=10, choices=Kind)
    title = models.CharField(max_length=300)
    say = models.TextField(blank=True)
    assigned = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="tasks")
    enrolment_id = models.BigIntegerField(null=True)
    attempts = models.PositiveSmallIntegerField(default=1, help_text="how often to try")
    tried = models.PositiveSmallIntegerField(default=0)
    due_at = models.DateTimeField()
    made_at = models.DateTimeField()
    done_at = models.DateTimeField(null=True)
    outcome = models.CharField(max_length=15, choices=Outcome, blank=True)

    class Meta:
        indexes = [models.Index(fields=["account", "due_at"], condition=models.Q(done_at=None), name="task_open")]

    def __str__(self) -> str:
        return self.title
