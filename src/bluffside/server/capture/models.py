"""Forms and what was answered; rules for what comes in by text and email; sources of leads and what they sent."""

from django.contrib.postgres.fields import ArrayField
from django.db import models

from bluffside.server.people.models import Contact
from bluffside.server.practice.models import Account, Person


class Form(models.Model):
    """`design` is a core-like document: title, questions, consent asked for, what is done with who sends it (see
    design.FormDesign). `token` is its address for everybody; a form for the team alone has none that is shown."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="forms", db_index=False)
    name = models.CharField(max_length=120)
    token = models.CharField(max_length=24, unique=True)
    design = models.JSONField()
    open = models.BooleanField(default=True)
    for_team = models.BooleanField(default=False, help_text="the team fills it in about a contact; it has no page")
    made_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="form_once_an_account")]

    def __str__(self) -> str:
        return self.name


class FormAnswer(models.Model):
    """One sending of a form. What looks like spam is kept apart, and can be let in by a person."""

    class State(models.TextChoices):
        TAKEN = "taken"
        SPAM = "spam"
        TEST = "test"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    form = models.ForeignKey(Form, models.CASCADE, related_name="answers", db_index=False)
    contact = models.ForeignKey(Contact, models.SET_NULL, null=True, related_name="+")
    key = models.CharField(max_length=40, help_text="of the page it was filled in on, so that a doubled sending is one")
    state = models.CharField(max_length=5, choices=State)
    reason = models.CharField(max_length=200, blank=True, help_text="why it is taken for spam")
    answers = models.JSONField(help_text="what was typed, by the question's id")
    hidden = models.JSONField(default=dict, help_text="what the link said: source, campaign …")
    origin = models.CharField(max_length=32, blank=True, help_text="digest of where it came from, for counting a rate")
    by = models.ForeignKey(
        Person, models.SET_NULL, null=True, related_name="+", help_text="of the team, who filled it in"
    )
    to_confirm = models.JSONField(
        default=dict, db_default={}, help_text="what they were asked to confirm, by the way it was sent (confirming.py)"
    )
    confirmed = models.JSONField(default=dict, db_default={}, help_text="when they did, by that way")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["form", "key"], name="form_answer_once")]
        indexes = [models.Index(fields=["account", "form", "-at"], name="answers_of_form")]

    def __str__(self) -> str:
        return f"{self.form_id} at {self.at:%Y-%m-%d %H:%M}"


class IncomingRule(models.Model):
    """What is done when somebody texts or writes certain words. Rules are asked in their order; the first that fits
    acts, and no other."""

    class Match(models.TextChoices):
        IS = "is"  # the whole message
        BEGINS = "begins"
        CONTAINS = "contains"

    account = models.ForeignKey(Account, models.CASCADE, related_name="incoming_rules", db_index=False)
    position = models.PositiveIntegerField()
    on = models.BooleanField(default=True)
    channels = ArrayField(models.CharField(max_length=9), default=list)
    match = models.CharField(max_length=8, choices=Match, default=Match.IS)
    words = ArrayField(models.CharField(max_length=80))
    acts = models.JSONField(default=dict, help_text="tags, lists, whom to assign, what to answer (see incoming.Acts)")
    fitted = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField(null=True)

    class Meta:
        indexes = [models.Index(fields=["account", "position"], name="rules_in_order")]

    def __str__(self) -> str:
        return f"{self.match} {self.words}"


class LeadSource(models.Model):
    """Another system that sends people. Its URL holds a secret, which is shown once and not kept: `digest` knows
    it again. `sample` is the last body that came, by which its
    fields are matched."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="lead_sources", db_index=False)
    name = models.CharField(max_length=120)
    digest = models.CharField(max_length=64, unique=True, help_text="SHA-256 of the secret in its address, in hex")
    address_at = models.DateTimeField(help_text="when its address was made")
    on = models.BooleanField(default=True)
    matching = models.JSONField(default=dict, help_text="how a body becomes a contact (see leads.Matching)")
    sample = models.JSONField(null=True)
    last_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField()
    secret = ""  # of an address that has been made a moment ago

    class Meta:
        constraints = [models.UniqueConstraint(fields=["account", "name"], name="lead_source_once_an_account")]

    def __str__(self) -> str:
        return self.name


class Lead(models.Model):
    """One body that a source sent, kept whatever became of it."""

    class State(models.TextChoices):
        WAITING = "waiting"  # nothing is matched yet, or the source is switched off
        TAKEN = "taken"
        FAILED = "failed"

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    source = models.ForeignKey(LeadSource, models.CASCADE, related_name="leads", db_index=False)
    key = models.CharField(max_length=80, help_text="the sender's id of it, else a digest: brought twice it is one")
    body = models.JSONField()
    state = models.CharField(max_length=7, choices=State, default=State.WAITING)
    reason = models.CharField(max_length=300, blank=True)
    contact = models.ForeignKey(Contact, models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "key"], name="lead_once_a_key")]
        indexes = [models.Index(fields=["account", "source", "-at"], name="leads_of_source")]

    def __str__(self) -> str:
        return f"{self.source_id} {self.key}"


class Purchase(models.Model):
    """Something a contact bought, as a source told of it. `amount` is in the account's money."""

    account = models.ForeignKey(Account, models.CASCADE, related_name="+", db_index=False)
    source = models.ForeignKey(LeadSource, models.CASCADE, related_name="+", db_index=False)
    number = models.CharField(
        max_length=80, help_text="of the order, else what the lead is known by: told twice it is one"
    )
    contact = models.ForeignKey(Contact, models.CASCADE, related_name="+")
    item = models.CharField(max_length=120, blank=True)
    amount = models.DecimalField(max_digits=12, decimal_places=2)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "number"], name="purchase_once")]
        indexes = [models.Index(fields=["account", "-at"], name="purchases_newest")]

    def __str__(self) -> str:
        return f"{self.item} {self.amount}"
