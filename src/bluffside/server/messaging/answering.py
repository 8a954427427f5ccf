"""What people of the team do about what contacts wrote: answer it, say that it needs no answer, decide whether it means that they want
no more. Each at a turn of the correspondence: who acts on what has moved on meanwhile is told, and nothing is done."""

from datetime import timedelta

from django.db import transaction
from django.db.models import Q

from bluffside.core.facts import TwoWay
from bluffside.core.steps.booking_assistant import TAKEN_OVER
from bluffside.server.events.stream import Cause, Happened, is_heard, listen, record
from bluffside.server.messaging import correspondence
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.messaging.services import hold_channels, opt_out, write_to
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.models import Person
from bluffside.server.wake import wake


@transaction.atomic
def answer(
    contact: Contact,
    channel: TwoWay,
    text: str,
    by: Person,
    turn: int | None = None,
    later: timedelta = timedelta(),  # it cannot be changed
) -> Message:
    """Writes to them, and takes all that waits of them off the list. Raises MovedOn and CannotSend."""
    row = correspondence.hold(contact, turn)
    message = write_to(contact, channel, text, by, later=later)
    row.assigned = row.assigned or by
    row.save(update_fields=["assigned"])
    take_over(contact, by)
    _settle(contact, by, Q())
    return message


@transaction.atomic
def write(contact: Contact, channel: TwoWay, text: str, by: Person) -> Message:
    """Writes to them from elsewhere than their correspondence: that answers what waits, but decides nothing that may be a refusal.
    Raises CannotSend."""
    correspondence.hold(contact)
    message = write_to(contact, channel, text, by)
    take_over(contact, by)
    _settle(contact, by, Q(likely_out=False))
    return message


def take_over(contact: Contact, by: Person) -> None:
    """Somebody goes on in place of the booking assistant, where it talks with them: what it would have said does not go. In the
    transaction at hand."""
    if is_heard(contact.account, TAKEN_OVER):
        record(contact.account, [Happened(TAKEN_OVER, contact.pk, {}, Cause(actor=by))])
        correspondence.moved(contact)


@transaction.atomic
def need_no_answer(contact: Contact, by: Person, turn: int | None = None) -> None:
    """All that waits of them is dealt with. Raises MovedOn."""
    correspondence.hold(contact, turn)
    _settle(contact, by, Q())


@transaction.atomic
def decide(contact: Contact, wants_out: bool, by: Person, turn: int | None = None) -> None:
    """Whether what may mean so means that they want no more on its channel. Raises MovedOn."""
    correspondence.hold(contact, turn)
    _settle(contact, by, Q(likely_out=True), wants_out)


def _settle(contact: Contact, by: Person, which: Q, wants_out: bool = False) -> None:
    """Who stays at a line for that goes on, and so does marketing that was held for what they wrote."""
    rows = list(Reply.objects.filter(which, contact=contact, settled_at=None).order_by("id"))
    Reply.objects.filter(id__in=[one.pk for one in rows]).update(settled_at=clock.now(), settled_by=by)
    cause, happened = Cause(actor=by), []
    for one in rows:
        if wants_out:
            Reply.objects.filter(pk=one.pk).update(opted_out=True)
            opt_out(contact, one.channel, f"wrote “{one.text[:200]}”", cause=cause, by_reply=one.pk)
        data = {"channel": one.channel, "wants_out": wants_out, "reply": one.pk}
        happened.append(Happened("reply.read", contact.pk, data, cause))
    held = Reply.objects.filter(contact=contact, settled_at=None, likely_out=True)
    hold_channels(contact, held.values_list("channel", flat=True))
    correspondence.moved(contact)
    listen(contact.account, ["reply.read"])
    record(contact.account, happened)
    wake("deliver")
