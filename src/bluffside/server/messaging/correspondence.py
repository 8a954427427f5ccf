"""What contacts and the team write to each other, as one correspondence a contact: who waits since when, whose it is, put off, answered.

A reply waits for a person unless something answered it: a word of the channel, a rule for words that come in, a workflow. What a
workflow stays for until somebody has read it waits, whatever else answered it.
"""

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import BooleanField, Exists, ExpressionWrapper, F, OuterRef, Q, QuerySet, Subquery

from bluffside.server.messaging.models import AnsweredBy, Correspondence, Reply
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

LONGEST_PUT_OFF = timedelta(days=366)


class MovedOn(ValueError):
    """What has happened meanwhile in a correspondence that somebody acts on, in words."""


Hearer = Callable[[Contact, Reply], None]
_hearers: list[Hearer] = []


def when_heard(do: Hearer) -> None:
    """Called when apps are ready: who is told of a reply that waits."""
    _hearers.append(do)


def heard(contact: Contact, reply: Reply) -> None:
    """They have written: whatever was put off is so no more."""
    at = reply.received_at
    row, made = Correspondence.objects.get_or_create(
        contact=contact, defaults={"account": contact.account, "heard_at": at, "turn": 1}
    )
    if not made:
        Correspondence.objects.filter(pk=row.pk).update(heard_at=at, turn=F("turn") + 1, put_off_until=None)
    count_anew([contact.pk])
    for tell in _hearers if reply.settled_at is None else ():
        tell(contact, reply)


def moved(contact: Contact) -> None:
    """Somebody of the team has done something about it."""
    Correspondence.objects.filter(contact=contact).update(turn=F("turn") + 1, put_off_until=None)
    count_anew([contact.pk])


def count_anew(contacts: Iterable[int]) -> None:
    """Since when something waits, by what is not settled yet."""
    waiting = Reply.objects.filter(contact=OuterRef("contact"), settled_at=None)
    Correspondence.objects.filter(contact__in=list(contacts)).update(
        waiting_since=Subquery(waiting.order_by("received_at").values("received_at")[:1]),
        to_decide=Exists(waiting.filter(likely_out=True)),
    )


def answered_by(account: Account, what: str, replies: Iterable[int]) -> None:
    """These were answered without anybody of the team; but not what may mean that they want no more, or must be read."""
    if not (ids := [id for id in replies if id]):
        return
    rows = Reply.objects.filter(account=account, id__in=ids, settled_at=None, likely_out=False, needs_person=False)
    if contacts := list(rows.values_list("contact_id", flat=True)):
        rows.update(settled_at=clock.now(), answered_by=AnsweredBy(what))
        count_anew(contacts)


def need_person(account: Account, replies: Iterable[int]) -> None:
    """A workflow stays where it is until somebody has read these: so they wait, even if something else has answered them."""
    if not (ids := [id for id in replies if id]):
        return
    rows = Reply.objects.filter(account=account, id__in=ids, settled_by=None, automatic=False)
    if contacts := list(rows.values_list("contact_id", flat=True)):
        rows.update(needs_person=True, settled_at=None, answered_by="")
        count_anew(contacts)


# ---- what people of the team do


def hold(contact: Contact, turn: int | None = None) -> Correspondence:
    """The correspondence, locked for the transaction at hand. Raises MovedOn when it is not at that turn any more."""
    Correspondence.objects.get_or_create(
        contact=contact, defaults={"account": contact.account, "heard_at": contact.added_at}
    )
    row = Correspondence.objects.select_for_update(of=("self",)).select_related("assigned").get(contact=contact)
    if turn is not None and row.turn != turn:
        raise MovedOn(_since(contact))
    return row


def _since(contact: Contact) -> str:
    written = contact.messages.filter(by__isnull=False).select_related("by").order_by("-id").first()
    wrote = contact.replies.order_by("-id").first()
    if written and written.by and (wrote is None or written.queued_at >= wrote.received_at):
        return f"{written.by.name} has answered {contact.name} meanwhile: “{written.body[:200]}”"
    said = f": “{wrote.text[:200]}”" if wrote else ""
    return f"{contact.name} has written again meanwhile{said}"


@transaction.atomic
def give(contact: Contact, to: Person | None) -> None:
    row = hold(contact)
    row.assigned = to
    row.save(update_fields=["assigned"])


@transaction.atomic
def put_off(contact: Contact, until: datetime | None) -> None:
    """It waits no more until then, unless they write again. Raises MovedOn when it is no moment to come."""
    now = clock.now()
    if until is not None and not now < until <= now + LONGEST_PUT_OFF:
        raise MovedOn("A correspondence is put off until a moment within the year to come.")
    row = hold(contact)
    row.put_off_until = until
    row.save(update_fields=["put_off_until"])


# ---- asked


def waiting(account: Account) -> QuerySet[Correspondence]:
    """What waits for a person now: what may mean that they want no more first, then who has waited longest."""
    rows = Correspondence.objects.filter(account=account, waiting_since__isnull=False)
    return rows.exclude(put_off_until__gt=clock.now()).order_by("-to_decide", "waiting_since", "id")


def last_words(contacts: Iterable[int]) -> dict[int, Reply]:
    """By contact, what stands for what they said: what is to be decided, else the newest that waits, else the newest."""
    waits = Q(settled_at=None)
    rows = Reply.objects.filter(contact__in=list(contacts), automatic=False).annotate(
        waits=ExpressionWrapper(waits, BooleanField()),
        decides=ExpressionWrapper(waits & Q(likely_out=True), BooleanField()),
    )
    rows = rows.order_by("contact", "-decides", "-waits", "-received_at", "-id").distinct("contact")
    return {row.contact_id: row for row in rows}


def give_way(account: Account, stays: int, goes: int) -> None:
    """Before two contacts become one: of two correspondences one is left, and what waits of the other waits there."""
    both = {row.contact_id: row for row in Correspondence.objects.filter(account=account, contact_id__in=(stays, goes))}
    if len(both) == 2:
        kept, gone = both[stays], both[goes]
        kept.heard_at, kept.turn = max(kept.heard_at, gone.heard_at), kept.turn + gone.turn
        kept.assigned_id = kept.assigned_id or gone.assigned_id
        kept.waiting_since = min(filter(None, (kept.waiting_since, gone.waiting_since)), default=None)
        kept.to_decide = kept.to_decide or gone.to_decide
        kept.put_off_until = None
        kept.save()
        gone.delete()
