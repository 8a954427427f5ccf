"""What happens next about each of many deals: the first of what the team is to do, an answer that is owed, an appointment, and what
workflows do by themselves. Nothing is the most useful answer: then somebody has to think of something."""

from collections import defaultdict
from collections.abc import Collection, Iterator, Sequence
from datetime import datetime
from typing import Literal, NamedTuple, Protocol

from django.db.models import F
from django.db.models.fields.json import KT

from bluffside.core.engine.turn import NEVER
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.core.timing.local import to_local
from bluffside.server.diary.models import Appointment, Task
from bluffside.server.diary.services import STANDING
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Enrolment, Workflow

Sort = Literal["nothing", "task", "answer", "appointment", "waits", "goes on"]
TASK = {"call": "calls", "letter": "writes a letter"}


class Next(NamedTuple):
    """`at`: None when nothing comes. `who`: the first name of whoever of the team is to act; "": it goes by itself, or nobody's it
    is. `words`: what, without when; `deal`: only about the deal of that ref."""

    sort: Sort
    at: datetime | None
    who: str = ""
    words: str = ""
    workflow: int = 0
    deal: str = ""


NOTHING = Next("nothing", None)


class ADeal(Protocol):
    """What has to be known of one: a row, or what was read of it."""

    @property
    def id(self) -> int: ...
    @property
    def contact_id(self) -> int: ...
    @property
    def ref(self) -> str: ...


def next_of(account: Account, deals: Sequence[ADeal], now: datetime) -> dict[int, Next]:
    """By the deal's id, of deals of one account, in a handful of queries however many they are."""
    coming: dict[int, list[Next]] = defaultdict(list)
    for contact, one in _all(account, {deal.contact_id for deal in deals}, now):
        if one.at:
            coming[contact].append(one)
    for some in coming.values():
        some.sort(key=lambda one: one.at or NEVER)
    return {
        deal.id: next((one for one in coming.get(deal.contact_id, ()) if not one.deal or one.deal == deal.ref), NOTHING)
        for deal in deals
    }


def _all(account: Account, contacts: Collection[int], now: datetime) -> Iterator[tuple[int, Next]]:
    tasks = Task.objects.filter(account=account, done_at=None, contact__any=contacts)
    for contact, at, kind, title, who in tasks.values_list(
        "contact_id", "due_at", "kind", "title", F("assigned__name")
    ):
        yield contact, Next("task", at, _first(who), TASK.get(kind, title))
    replies = Reply.objects.filter(account=account, settled_at=None, automatic=False, contact__any=contacts)
    for contact, at, channel, who in replies.values_list(
        "contact_id", "received_at", "channel", F("contact__responsible__name")
    ):
        said = f"answers the {CHANNEL_KINDS[channel].one} of {to_local(at, account.zone):%H:%M}"
        yield contact, Next("answer", at, _first(who), said)
    appointments = Appointment.objects.filter(
        account=account, state__in=STANDING, start__gte=now, contact__any=contacts
    )
    for contact, at, kind in appointments.values_list("contact_id", "start", "type"):
        yield contact, Next("appointment", at, "", kind)
    inside = Enrolment.objects.filter(account=account, ended_at=None, paused_at=None, fault="", contact__any=contacts)
    names = dict(Workflow.objects.filter(account=account).values_list("id", "name"))
    columns = ("contact_id", "until", "due_at", "listens", "workflow_id")
    for contact, until, due, listens, workflow, deal in inside.values_list(*columns, KT("about__deal")):
        at = until if listens and until else due or until
        sort: Sort = "waits" if listens else "goes on"
        yield contact, Next(sort, at, "", names.get(workflow, ""), workflow, deal or "")


def _first(name: str | None) -> str:
    return (name or "").split(" ")[0]


def last_of(account: Account, contacts: Collection[int]) -> dict[int, tuple[str, datetime]]:
    """The last word that was exchanged with each: who wrote ("" for the contact), and when."""
    found: dict[int, tuple[str, datetime]] = {}
    sent = Message.objects.filter(account=account, contact__in=contacts, sent_at__isnull=False)
    for contact, at in (
        sent.order_by("contact_id", "-sent_at").distinct("contact_id").values_list("contact_id", "sent_at")
    ):
        if at:
            found[contact] = ("we", at)
    heard = Reply.objects.filter(account=account, contact__in=contacts, automatic=False)
    rows = heard.order_by("contact_id", "-received_at").distinct("contact_id").values_list("contact_id", "received_at")
    for contact, at in rows:
        if contact not in found or found[contact][1] < at:
            found[contact] = ("", at)
    return found
