"""Domain events as the core knows them: something that happened to a contact, on the one stream that
triggers, waits, leaving rules and scores listen to.

SUBJECTS names every kind and the key of its data that says what it is about. The server finds triggers
through an index by kind and subject; a trigger that names no subject fits them all.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

SUBJECTS: Mapping[str, str] = {
    "contact.added": "",
    "tag.added": "tag",
    "tag.removed": "tag",
    "field.changed": "field",  # data: field, old, new
    "list.joined": "list",
    "list.left": "list",
    "form.sent": "form",
    "keyword.texted": "keyword",
    "message.sent": "message",  # data: message (its name), channel, purpose
    "message.delivered": "message",
    "message.let_go": "message",  # a held one, by a person; data: message, step, round, goes (when)
    "message.dropped": "message",  # a held one is not to go; data: message, step, round
    "message.bounced": "message",
    "message.complained": "message",  # marked as unwanted; data: message, channel, reason
    "sending.decided": "",  # what fell due while all sending was stopped; data: message, goes (or not)
    "reply.received": "channel",  # data: channel, text, message (the one replied to, when known)
    "reply.read": "channel",  # somebody of the team has dealt with it; data: channel, wants_out
    "conversation.taken_over": "",  # somebody of the team goes on in place of the booking assistant
    "link.clicked": "message",  # data: message, url
    "stage.changed": "stage",  # data: deal, pipeline, stage, old
    "deal.rested": "stage",  # longer than a deal may rest there; data: deal, pipeline, stage, name
    "deal.created": "pipeline",  # data: deal, pipeline, stage
    "deal.won": "pipeline",
    "deal.lost": "pipeline",
    "score.changed": "score",  # data: old, new; score, where it is not the lead score
    "appointment.booked": "type",  # data: appointment (id), type, start
    "appointment.moved": "type",
    "appointment.cancelled": "type",
    "appointment.missed": "type",
    "appointment.attended": "type",
    "appointment.near": "type",
    "appointment.waited_for": "type",  # somebody joined the waiting list; data: type, start
    "date.came": "field",  # data: field, or date
    "lead.received": "source",
    "purchase.made": "item",  # data: item, amount (in the account's money), number (of the order), source
    "task.done": "step",  # data: step, task, outcome
    "consent.given": "channel",
    "consent.withdrawn": "channel",
    "quiet.changed": "",  # data: until (when it ends; empty when it has ended)
    "workflow.handed_over": "workflow",  # data: workflow (to), from
    "aim.reached": "workflow",  # data: workflow (its name), what, value
}

# What a subject is the name of, where that is something of the account's.
NAMED: Mapping[str, str] = {
    "tag": "tag", "field": "field", "list": "list", "form": "form", "source": "source", "keyword": "keyword",
    "message": "message", "stage": "stage", "pipeline": "pipeline", "type": "appointment", "workflow": "workflow",
    "score": "score",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Event:
    """`at` is an instant in UTC; `by` the name of the member who did it, empty when nobody of the team did."""

    kind: str
    at: datetime
    data: Mapping[str, Any] = field(default_factory=dict)
    by: str = ""

    @property
    def subject(self) -> str:
        key = SUBJECTS.get(self.kind, "")
        return str(self.data.get(key, "")) if key else ""
