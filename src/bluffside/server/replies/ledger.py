"""Who waits for an answer: the rows of the page, counted and searched."""

from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from django.db.models import Count, Min, Q, QuerySet

from bluffside.server.messaging.correspondence import waiting
from bluffside.server.messaging.models import Correspondence, Message, Reply
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows.conversations import under_way

Shown = Literal["waiting", "mine", "nobody", "put_off", "by_itself", "all"]
PAGE = 50
LATELY = timedelta(days=7)  # what was answered by itself is shown for so long
MOST_FOUND = 1_000  # people whose words are found


class Counts(NamedTuple):
    waiting: int
    mine: int
    nobody: int
    put_off: int
    next_at: datetime | None
    with_assistant: int
    by_itself: dict[str, int]


def shown(account: Account, person: Person, which: Shown, words: str = "") -> QuerySet[Correspondence]:
    """In the order of the work: what has waited longest first; of what does not wait, the newest."""
    every, now = Correspondence.objects.filter(account=account), clock.now()
    rows = {
        "waiting": lambda: waiting(account),
        "mine": lambda: waiting(account).filter(assigned=person),
        "nobody": lambda: waiting(account).filter(assigned=None),
        "put_off": lambda: every.filter(waiting_since__isnull=False, put_off_until__gt=now).order_by(
            "put_off_until", "id"
        ),
        "by_itself": lambda: every.filter(contact__in=_by_itself(account).values("contact")).order_by(
            "-heard_at", "-id"
        ),
        "all": lambda: every.order_by("-heard_at", "-id"),
    }[which]()
    return rows.filter(contact__in=who_said(account, words)) if words.strip() else rows


def with_assistant(account: Account) -> QuerySet[Correspondence]:
    """Whom the booking assistant talks with, and nothing of whom waits for a person; who has just written first."""
    talks = under_way(account).values("contact")
    rows = Correspondence.objects.filter(account=account, contact__in=talks, waiting_since=None)
    return rows.order_by("-heard_at", "-id")


def _by_itself(account: Account) -> QuerySet[Reply]:
    return Reply.objects.filter(account=account, settled_at__gt=clock.now() - LATELY).exclude(answered_by="")


def who_said(account: Account, words: str) -> list[int]:
    """Contacts who wrote something with all of these words in it, or to whom somebody of the team did. The newest first, MOST_FOUND at most.

    No index of words: behind row-level security the database must not look into one before it knows whose a row is."""
    texts, bodies = Q(), Q()
    for word in words.split()[:8]:
        texts, bodies = texts & Q(text__icontains=word), bodies & Q(body__icontains=word)
    theirs = Reply.objects.filter(texts, account=account)
    ours = Message.objects.filter(bodies, account=account, by__isnull=False)
    found: list[int] = []
    for rows in (theirs, ours):
        found += rows.order_by("-id").values_list("contact_id", flat=True)[:MOST_FOUND]
    return list(dict.fromkeys(found))[:MOST_FOUND]


def counts(account: Account, person: Person) -> Counts:
    now = clock.now()
    open_ones = Correspondence.objects.filter(account=account, waiting_since__isnull=False)
    off = Q(put_off_until__gt=now)
    on = ~off
    told = open_ones.aggregate(
        waiting=Count("id", filter=on),
        mine=Count("id", filter=on & Q(assigned=person)),
        nobody=Count("id", filter=on & Q(assigned=None)),
        put_off=Count("id", filter=off),
        next_at=Min("put_off_until", filter=off),
    )
    told["with_assistant"] = with_assistant(account).count()
    by_itself = _by_itself(account).values_list("answered_by").annotate(count=Count("id")).order_by()
    return Counts(**told, by_itself=dict(by_itself))
