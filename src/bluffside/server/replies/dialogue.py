"""What was said between a contact and the account, as a dialogue: messages of workflows and of people, replies, notes of the team."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from bluffside.core.steps.booking_assistant import ASSISTANT
from bluffside.core.terms import Channel
from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.people.models import Contact
from bluffside.server.workflows.models import Enrolment

PAGE = 40
NOT_SHOWN = (Message.State.CANCELLED,)
ORDER = "rmn"  # of what was said at one moment: they, we, a note about it
Who = Literal["contact", "person", "assistant", "workflow", "word", "account", "note"]


@dataclass(frozen=True, slots=True)
class Said:
    """`key`: of the row, for lists. `who`: the name that stands beside it. `state`: of a message of ours; `answered_by`: what answered a
    reply where nobody of the team did; `waits`: for a person."""

    key: str
    at: datetime
    of: Who
    who: str
    text: str
    channel: Channel | None = None
    subject: str = ""
    workflow: int | None = None
    state: str = ""
    reason: str = ""
    answered_by: str = ""
    waits: bool = False
    likely_out: bool = False
    opted_out: bool = False
    automatic: bool = False


def dialogue(contact: Contact, before: datetime | None = None) -> tuple[list[Said], bool]:
    """The last PAGE things said before an instant, the oldest first; and whether there are older ones."""
    messages = Message.objects.filter(contact=contact).exclude(state__in=NOT_SHOWN).select_related("by")
    replies = Reply.objects.filter(contact=contact)
    notes = Event.objects.filter(account=contact.account_id, contact_id=contact.pk, kind="note.added")
    if before:
        messages, replies = messages.filter(queued_at__lt=before), replies.filter(received_at__lt=before)
        notes = notes.filter(at__lt=before)
    ours = list(messages.order_by("-id")[: PAGE + 1])
    enrolments = {one.enrolment_id for one in ours if one.enrolment_id}
    columns = Enrolment.objects.filter(id__in=enrolments).values_list("id", "workflow_id", "workflow__name")
    workflows = {id: (workflow, name) for id, workflow, name in columns}
    said = [_ours(one, *workflows.get(one.enrolment_id or 0, (None, ""))) for one in ours]
    said += [_theirs(one, contact) for one in replies.order_by("-received_at", "-id")[: PAGE + 1]]
    said += [
        Said(f"n{one.pk}", one.at, "note", one.actor.name if one.actor else "A workflow", one.data.get("text", ""))
        for one in notes.select_related("actor").order_by("-at", "-id")[: PAGE + 1]
    ]
    said.sort(key=lambda one: (one.at, ORDER.index(one.key[0]), int(one.key[1:])), reverse=True)
    return said[:PAGE][::-1], len(said) > PAGE


def _ours(one: Message, workflow: int | None, name: str) -> Said:
    of: Who = "person" if one.by else "word" if one.answers_word else "workflow" if one.enrolment_id else "account"
    if of == "workflow" and one.name == ASSISTANT:
        of = "assistant"
    who = one.by.name if one.by else name
    to_come = one.state in (Message.State.QUEUED, Message.State.HELD)
    at = one.next_try_at if to_come else one.sent_at or one.queued_at
    return Said(
        f"m{one.pk}", max(at, one.queued_at), of, who, one.body, one.channel, one.subject,
        workflow, one.state, one.reason,
    )  # fmt: skip


def _theirs(one: Reply, contact: Contact) -> Said:
    return Said(
        f"r{one.pk}", one.received_at, "contact", contact.first_name or contact.name, one.text, one.channel,
        answered_by=one.answered_by, waits=one.settled_at is None, likely_out=one.likely_out and one.settled_at is None,
        opted_out=one.opted_out, automatic=one.automatic,
    )  # fmt: skip
