"""How long it is kept what forms and other systems sent."""

from datetime import datetime

from django.db.models import QuerySet

from bluffside.server.capture.models import FormAnswer, Lead
from bluffside.server.practice.keeping import Sort
from bluffside.server.practice.models import Account


def _answers(account: Account, before: datetime) -> QuerySet[FormAnswer]:
    return FormAnswer.objects.filter(account=account, at__lt=before)


ANSWERS = Sort("answers", "answers to forms", 36, lambda *old: _answers(*old).exclude(state=FormAnswer.State.SPAM))
SPAM = Sort("spam", "what looks like spam", 2, lambda *old: _answers(*old).filter(state=FormAnswer.State.SPAM))
LEADS = Sort(
    "leads",
    "leads as other systems sent them",
    24,
    lambda account, before: Lead.objects.filter(account=account, at__lt=before),
)
