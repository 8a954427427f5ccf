"""One contact's timeline: all that happened, in sentences, with the reasons the workflows had."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message
from bluffside.server.people.models import Contact
from bluffside.server.workflows.models import Decision

Kind = Literal["event", "message", "reply", "reason"]
LONGEST = 400
# What an enrolment does is told by its reasons, and a message by itself with what became of it.
TOLD_ELSEWHERE = ("tag.added", "tag.removed", "task.made")


@dataclass(frozen=True, slots=True)
class Item:
    """`detail` is what was said or written; `values` what a decision saw; `workflow` is empty unless one acted."""

    at: datetime
    kind: Kind
    sentence: str
    detail: str
    by: str
    workflow: str
    values: dict[str, str]


def _channel(data: dict[str, Any]) -> str:
    return "texts" if data["channel"] == "text" else "email"


SENTENCES: dict[str, Callable[[dict[str, Any]], str]] = {
    "contact.added": lambda d: f"Added {d['how']}",
    "contact.changed": lambda d: (
        f"Changed {d['how']}" if "how" in d else f"Changed: {', '.join(d['fields']).replace('_', ' ')}"
    ),
    "tag.added": lambda d: f"Tagged “{d['tag']}”",
    "tag.removed": lambda d: f"Tag “{d['tag']}” taken off",
    "note.added": lambda d: "Note",
    "consent.given": lambda d: f"Agreed to {_channel(d)}",
    "consent.withdrawn": lambda d: f"Opted out of {_channel(d)}; nothing more goes out there",
    "reply.received": lambda d: f"Replied by {d['channel']}",
    "link.clicked": lambda d: f"Clicked a link in “{d['name']}”",
    "task.tried": lambda d: f"Call “{d['title']}”: no answer, try {d['tried']} of {d['of']}",
    "task.done": lambda d: (
        f"{'Call' if d['kind'] == 'call' else 'To-do'} “{d['title']}”: {d['outcome'].replace('_', ' ')}"
    ),
    "enrolment.started": lambda d: f"Came into “{d['name']}”: {d['why']}",
    "enrolment.ended": lambda d: f"Left “{d['name']}”: {d['why']}",
    "enrolment.taken_out": lambda d: f"Taken out of “{d['name']}”",
}
DETAILS: dict[str, Callable[[dict[str, Any]], str]] = {
    "note.added": lambda d: d["text"],
    "consent.given": lambda d: d["evidence"],
    "consent.withdrawn": lambda d: d["evidence"],
    "reply.received": lambda d: d["text"],
    "link.clicked": lambda d: d["url"],
    "task.tried": lambda d: d["note"],
    "task.done": lambda d: d["note"],
}


def story_of(contact: Contact) -> list[Item]:
    """Newest first; what happened at one instant stands in the order it happened, newest first."""
    found: list[tuple[datetime, int, int, Item]] = []
    for event in Event.objects.filter(contact_id=contact.id).select_related("actor").order_by("-id")[:LONGEST]:
        if event.kind not in SENTENCES or (event.enrolment_id and event.kind in TOLD_ELSEWHERE):
            continue
        kind: Kind = "reply" if event.kind == "reply.received" else "event"
        rank = 0 if event.kind in ("contact.added", "reply.received", "tag.added", "consent.withdrawn") else 3
        rank = 1 if event.kind == "enrolment.started" else rank
        detail = DETAILS[event.kind](event.data) if event.kind in DETAILS else ""
        by = event.actor.name if event.actor else ""
        found.append(
            (event.at, rank, event.id, Item(event.at, kind, SENTENCES[event.kind](event.data), detail, by, "", {}))
        )
    for message in contact.messages.select_related("by").order_by("-id")[:LONGEST]:
        found.append((message.queued_at, 2, message.id, _message_item(message)))
    decisions = Decision.objects.filter(enrolment__contact=contact).select_related("enrolment__workflow")
    for decision in decisions.order_by("-id")[:LONGEST]:
        name = decision.enrolment.workflow.name
        item = Item(decision.at, "reason", decision.sentence, "", "", name, decision.values)
        found.append((decision.at, 2, decision.id, item))
    found.sort(key=lambda one: one[:3], reverse=True)
    return [item for _, _, _, item in found[:LONGEST]]


def _message_item(message: Message) -> Item:
    what = "Text" if message.channel == "text" else "Email"
    named = f" “{message.name}”" if message.name else ""
    became = {
        "queued": "waits to be sent",
        "sending": "is being sent",
        "sent": "sent",
        "delivered": "delivered",
        "failed": f"failed: {message.reason}",
        "cancelled": f"not sent: {message.reason}",
    }[message.state]
    detail = f"{message.subject}\n{message.body}" if message.subject else message.body
    by = message.by.name if message.by else ""
    return Item(message.queued_at, "message", f"{what}{named} {became}", detail, by, "", {})
