"""From where somebody has signed in before, and who is invited."""

from django.db import models

from bluffside.server.practice.models import Account, Membership, Person, Practice


class KnownPlace(models.Model):
    """A place that a person has signed in from: a digest of network and browser, so that no list of places is kept."""

    person = models.ForeignKey(Person, models.CASCADE, related_name="+")
    digest = models.CharField(max_length=64)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "digest"], name="place_known_once")]

    def __str__(self) -> str:
        return f"{self.person_id}: {self.digest[:8]}"


class Invitation(models.Model):
    """Somebody is asked to come in: to one account with a role, or (without) as a consultant of the practice. Its link holds
    until it is used, taken back, or too old."""

    practice = models.ForeignKey(Practice, models.CASCADE, related_name="invitations")
    account = models.ForeignKey(Account, models.CASCADE, null=True, related_name="invitations")
    email = models.EmailField()
    role = models.CharField(max_length=10, choices=Membership.Role, blank=True)
    by = models.ForeignKey(Person, models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    until = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["practice", "account", "email"], nulls_distinct=False, name="invited_once")
        ]

    def __str__(self) -> str:
        return self.email
