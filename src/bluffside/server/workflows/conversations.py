"""Whom the booking assistant talks with, where that stands, and what it is about to say."""

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from django.db import transaction
from django.db.models import QuerySet

from bluffside.core.assistant.talking import UNDER_WAY, Talk, in_words
from bluffside.core.steps.booking_assistant import ASSISTANT, BookingAssistant
from bluffside.core.words import several
from bluffside.server.messaging import answering, correspondence
from bluffside.server.messaging.correspondence import MovedOn
from bluffside.server.messaging.models import Message
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake
from bluffside.server.workflows.models import Enrolment
from bluffside.server.workflows.versions import program_of


class Conversation(NamedTuple):
    """`offers_left`: how often it may still offer times; `offered`: what it offers now, in words; `says`: what it is about to say, and
    `goes` when (the instant), `message` the row of it; none where nothing is about to go."""

    type: str
    workflow: int
    workflow_name: str
    talk: Talk
    offers_left: int
    offered: list[str]
    says: str
    goes: datetime | None
    message: int | None


def under_way(account: Account) -> QuerySet[Enrolment]:
    """Those who have answered it, until something has come of it."""
    return Enrolment.objects.filter(account=account, ended_at=None, rest__contains={"talks": True})


def with_contact(contact: Contact) -> Conversation | None:
    one = under_way(contact.account).filter(contact=contact).select_related("workflow").order_by("-id").first()
    state = one.state if one else None
    if one is None or state is None or state.talk is None or state.talk[1].stage not in UNDER_WAY:
        return None
    line, talk = state.talk
    node = program_of(one.version_id).nodes.get(line)
    step = node.step if node else None
    waits = _about_to_go(contact)
    return Conversation(
        type=step.type if isinstance(step, BookingAssistant) else "",
        workflow=one.workflow_id,
        workflow_name=one.workflow.name,
        talk=talk,
        offers_left=max(account_facts(contact.account).assistant.offers - talk.offers, 0),
        offered=[*map(in_words, talk.offered or ((talk.asked,) if talk.asked else ()))],
        says=waits.body if waits else "",
        goes=waits.next_try_at if waits else None,
        message=waits.pk if waits else None,
    )


def where_they_are(account: Account, contacts: Iterable[int]) -> dict[int, str]:
    """By contact, what it said to them last, in a few words."""
    found = {}
    for one in under_way(account).filter(contact__in=list(contacts)).order_by("id"):
        talk = one.state.talk[1] if one.state.talk else Talk()
        offered = several([*map(in_words, talk.offered)], "or")
        asked = f"asks about {in_words(talk.asked)}" if talk.asked else "has asked something"
        found[one.contact_id] = f"offers {offered}" if offered else asked
    return found


def _about_to_go(contact: Contact) -> Message | None:
    waits = Message.objects.filter(contact=contact, state=Message.State.QUEUED, name=ASSISTANT, by=None)
    return waits.order_by("-id").first()


@transaction.atomic
def send_now(contact: Contact, turn: int) -> None:
    """What it is about to say goes at once. Raises MovedOn where it has gone, or something has come in meanwhile."""
    correspondence.hold(contact, turn)
    waits = _about_to_go(contact)
    if waits is None:
        raise MovedOn("It has gone already.")
    Message.objects.filter(pk=waits.pk, state=Message.State.QUEUED).update(next_try_at=clock.now())
    wake("deliver")


@transaction.atomic
def take_over(contact: Contact, by: Person, turn: int) -> str:
    """Somebody goes on in its place; answers what it was about to say, which does not go. Raises MovedOn."""
    row = correspondence.hold(contact, turn)
    waits = _about_to_go(contact)
    if waits:  # at once, before a worker can hand it over
        waits.state, waits.reason, waits.settled_at = Message.State.CANCELLED, f"{by.name} goes on with it", clock.now()
        waits.save(update_fields=["state", "reason", "settled_at"])
    row.assigned = row.assigned or by
    row.save(update_fields=["assigned"])
    answering.take_over(contact, by)
    return waits.body if waits else ""
