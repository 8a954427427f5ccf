"""How long it is kept what was written to people, and what they answered.

A message is emptied of its words and its address first; that it went, and its links, which work as long as they are kept,
outlive that.
"""

from datetime import datetime

from django.db.models import QuerySet

from bluffside.server.messaging.models import Message, Reply, SentLetter, StrangerMail
from bluffside.server.practice.keeping import Sort
from bluffside.server.practice.models import Account

OVER = (Message.State.SENT, Message.State.DELIVERED, Message.State.FAILED, Message.State.CANCELLED)


def _settled(account: Account, before: datetime) -> QuerySet[Message]:
    return Message.objects.filter(account=account, state__in=OVER, queued_at__lt=before)


def _answered(account: Account, before: datetime) -> QuerySet[Reply]:
    return Reply.objects.filter(account=account, settled_at__isnull=False, received_at__lt=before)


def _without_words(rows: QuerySet[Message]) -> int:
    SentLetter.objects.filter(message__in=rows.values("id")).delete()
    return rows.update(body="", subject="", address="", head=None)


WORDS = Sort(
    "messages",
    "the words of messages",
    36,
    lambda account, before: _settled(account, before).exclude(body=""),
    take_away=_without_words,
)
LINKS = Sort("links", "that messages went, and links in them", 120, _settled, least=24)
REPLIES = Sort("replies", "what people answered", 36, _answered)
STRANGERS = Sort(
    "strangers",
    "mail from people nobody knows",
    6,
    lambda account, before: StrangerMail.objects.filter(account=account, received_at__lt=before),
)
