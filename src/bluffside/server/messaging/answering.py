"""What people of the team do about what contacts wrote: answer it, say that it needs no answer, decide whether it means that they want
no more. Each at a turn of the correspondence: who acts on what has moved on meanwhile is told, and nothing is done."""

from datetime import timedelta

from django.db import transaction
from django.db.models import Q

from bluffside.core.facts import TwoWay
from bluffside.core.steps.booking_assistant import TAKEN_OVER
from bluffside.server.events.stream import Cause, Happened, hold, is_heard, listen, record, take_back
from bluffside.server.messaging import correspondence
from bluffside.server.messaging.correspondence import MovedOn
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
def need_no_answer(contact: Contact, by: Person, turn: int | None = None, held_for: timedelta = timedelta(0)) -> int:
    """All that waits of them is dealt with; answers the turn that it is at then. For as long as it is `held_for`, no workflow hears of
    it and nothing goes to them by one, and it can be taken back. Raises MovedOn."""
    correspondence.hold(contact, turn)
    ids = _settle(contact, by, Q())
    if held_for:
        hold(contact.account, ids, clock.now() + held_for)
    return correspondence.hold(contact).turn


@transaction.atomic
def wait_again(contact: Contact, by: Person, turn: int) -> None:
    """What they said last to need no answer waits as before. Raises MovedOn once it was heard of, or something else was done since."""
    correspondence.hold(contact, turn)
    mine = Reply.objects.filter(contact=contact, settled_by=by, settled_at__isnull=False)
    last = mine.order_by("-settled_at").first()
    together = list(mine.filter(settled_at=last.settled_at)) if last else []
    for one in together:
        if not take_back(contact.account, "reply.read", contact.pk, reply=one.pk):
            raise MovedOn("It cannot be taken back any more: it has been heard, and what waited for it goes on.")
    if not together:
        raise MovedOn("There is nothing to take back.")
    Reply.objects.filter(id__in=[one.pk for one in together]).update(settled_at=None, settled_by=None)
    _hold_marketing(contact)
    correspondence.moved(contact)


@transaction.atomic
def decide(contact: Contact, wants_out: bool, by: Person, turn: int | None = None) -> None:
    """Whether what may mean so means that they want no more on its channel. Raises MovedOn."""
    correspondence.hold(contact, turn)
    _settle(contact, by, Q(likely_out=True), wants_out)


def _settle(contact: Contact, by: Person, which: Q, wants_out: bool = False) -> list[int]:
    """Who stays at a line for that goes on, and so does marketing that was held for what they wrote. Answers the events it recorded."""
    rows = list(Reply.objects.filter(which, contact=contact, settled_at=None).order_by("id"))
    Reply.objects.filter(id__in=[one.pk for one in rows]).update(settled_at=clock.now(), settled_by=by)
    cause, happened = Cause(actor=by), []
    for one in rows:
        if wants_out:
            Reply.objects.filter(pk=one.pk).update(opted_out=True)
            opt_out(contact, one.channel, f"wrote “{one.text[:200]}”", cause=cause, by_reply=one.pk)
        data = {"channel": one.channel, "wants_out": wants_out, "reply": one.pk}
        happened.append(Happened("reply.read", contact.pk, data, cause))
    _hold_marketing(contact)
    correspondence.moved(contact)
    listen(contact.account, ["reply.read"])
    ids = record(contact.account, happened)
    wake("deliver")
    return ids


def _hold_marketing(contact: Contact) -> None:
    """Where something that may mean that they want no more still waits, and nowhere else."""
    undecided = Reply.objects.filter(contact=contact, settled_at=None, likely_out=True)
    hold_channels(contact, undecided.values_list("channel", flat=True))
