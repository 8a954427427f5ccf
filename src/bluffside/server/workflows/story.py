"""One contact's timeline: all that happened, in sentences, with the reasons the workflows had."""

import re
from collections.abc import Callable, Iterable
from contextlib import suppress
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from bluffside.core.phone_numbers import values_as_written
from bluffside.core.terms import SEVERAL
from bluffside.core.words import day, day_of
from bluffside.server.events.models import Event
from bluffside.server.messaging.models import Message
from bluffside.server.people.models import Contact
from bluffside.server.workflows.models import EnrolmentReasons

Kind = Literal["event", "message", "reply", "reason"]
LONGEST = 400
# What an enrolment does is told by its reasons, and a message by itself with what became of it.
TOLD_ELSEWHERE = ("tag.added", "tag.removed", "task.made")


@dataclass(frozen=True, slots=True)
class Item:
    """`detail` is what was said or written; `values` what a decision saw; `workflow` is empty unless one acted;
    `enrolment` and `step` say which decision a message came of."""

    at: datetime
    kind: Kind
    sentence: str
    detail: str
    by: str
    workflow: str
    values: dict[str, str]
    enrolment: int = 0
    step: str = ""
    workflow_id: int = 0


def _value(value: Any) -> str:
    if isinstance(value, str) and ISO_DATE.fullmatch(value):
        with suppress(ValueError):  # there is no 31 February, but somebody may have typed it into a line
            return day(date.fromisoformat(value))
    said = ", ".join(map(str, value)) if isinstance(value, list) else value
    return {True: "yes", False: "no"}[said] if isinstance(said, bool) else str(said) or "empty"


def _answers(said: dict[str, Any], order: Iterable[str]) -> str:
    """What was asked and answered, a line each, in its order: the database keeps none."""
    lines = [(name, said[name]) for name in order if name in said]
    return "\n".join(f"{name}{'' if name.endswith(('?', ':')) else ':'} {value}" for name, value in lines)


def _channel(data: dict[str, Any]) -> str:
    return str(SEVERAL.get(data["channel"], data["channel"]))


def _changed(data: dict[str, Any]) -> str:
    if "to" in data:
        return f"Now with {data['to']}" if data["to"] else "With nobody of the team any more"
    return f"Changed {data['how']}" if "how" in data else f"Changed: {', '.join(data['fields']).replace('_', ' ')}"


INSTANTS = ("until", "added")  # in an event's data, as ISO 8601
ISO_DATE = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")


TASKS = {"call": "Call", "to_do": "To-do", "letter": "Letter"}
SENTENCES: dict[str, Callable[[dict[str, Any]], str]] = {
    "contact.added": lambda d: f"Added {d['how']}",
    "contact.changed": lambda d: _changed(d),
    "contact.merged": lambda d: f"Made one with {d['name']}, who was here since {d['added']}",
    "quiet.changed": lambda d: f"Asked for quiet until {d['until']}" if d["until"] else "Wants to hear again",
    "tag.added": lambda d: f"Tagged “{d['tag']}”",
    "tag.removed": lambda d: f"Tag “{d['tag']}” taken off",
    "note.added": lambda d: "Note",
    "consent.given": lambda d: f"Agreed to {_channel(d)}",
    "consent.withdrawn": lambda d: f"Opted out of {_channel(d)}; nothing more goes out there",
    "reply.received": lambda d: f"Replied by {d['channel']}",
    "help.asked": lambda d: "Asked for help by text, and was answered",
    "reply.read": lambda d: f"Reply by {d['channel']} read: wants no more" if d["wants_out"] else "Reply dealt with",
    "conversation.taken_over": lambda d: "Somebody goes on in place of the booking assistant",
    "field.changed": lambda d: f"“{d['field']}” is now {_value(d['new'])}",
    "list.joined": lambda d: f"On the list “{d['list']}”",
    "list.left": lambda d: f"Off the list “{d['list']}”",
    "form.sent": lambda d: f"Sent the form “{d['form']}”",
    "lead.received": lambda d: f"Came as a lead from {d['source']}",
    "purchase.made": lambda d: f"Bought {d['item'] or 'something'} for {d['amount']}, says {d['source']}",
    "aim.reached": lambda d: f"Reached the aim of “{d['workflow']}”",
    "message.let_go": lambda d: f"“{d['message']}” let go",
    "message.dropped": lambda d: f"“{d['message']}” is not to go",
    "sending.decided": lambda d: (
        f"“{d['message']}” fell due while sending was stopped: {'let go' if d['goes'] else 'not to go'}"
    ),
    "message.bounced": lambda d: f"“{d['message']}” came back: {d['reason']}",
    "message.complained": lambda d: f"Marked “{d['message']}” as unwanted, says their mail provider",
    "deal.created": lambda d: f"Deal made on {d['pipeline']}, in “{d['stage']}”",
    "stage.changed": lambda d: f"Deal moved from “{d['old']}” to “{d['stage']}”",
    "deal.put_back": lambda d: f"Deal put back from “{d['old']}” to “{d['stage']}”",
    "deal.changed": lambda d: f"Deal “{d['name']}” changed: {', '.join(d['fields']).replace('_', ' ')}",
    "deal.asked_again": lambda d: f"Came again by “{d['by']}”; the deal is open already, and no second was made",
    "deal.rested": lambda d: f"Deal rests too long in “{d['stage']}”",
    "deal.joined": lambda d: f"In the deal “{d['name']}”{': ' + d['part'] if d['part'] else ''}",
    "deal.won": lambda d: f"Deal won on {d['pipeline']}",
    "deal.lost": lambda d: f"Deal lost on {d['pipeline']}",
    "score.changed": lambda d: f"{d.get('score') or 'Score'} from {d['old']:.0f} to {d['new']:.0f}",
    "appointment.booked": lambda d: f"Booked: {d['type']}",
    "appointment.moved": lambda d: f"Moved: {d['type']}",
    "appointment.cancelled": lambda d: f"Cancelled: {d['type']}",
    "appointment.missed": lambda d: f"Missed: {d['type']}",
    "appointment.attended": lambda d: f"Kept: {d['type']}",
    "appointment.waited_for": lambda d: f"On the waiting list: {d['type']}",
    "webhook.answered": lambda d: f"Request to {d['url']} answered",
    "webhook.failed": lambda d: f"Request to {d['url']} failed: {d['reason']}",
    "link.clicked": lambda d: f"Clicked a link in “{d['message']}”" if d["message"] else "Clicked a link",
    "task.tried": lambda d: f"Call “{d['title']}”: {d['outcome'].replace('_', ' ')}, try {d['tried']} of {d['of']}",
    "task.done": lambda d: f"{TASKS.get(d['kind'], 'Task')} “{d['title']}”: {d['outcome'].replace('_', ' ')}",
    "task.called_off": lambda d: f"{TASKS.get(d['kind'], 'Task')} “{d['title']}” called off: {d['why']}",
    "contact.proposed": lambda d: f"To decide on: {d['what']}, {d['source']}",
    "enrolment.started": lambda d: f"Came into “{d['name']}”: {d['why']}",
    "enrolment.ended": lambda d: f"Left “{d['name']}”: {d['why']}",
    "enrolment.held_back": lambda d: f"Held back from “{d['name']}” on purpose, to compare",
    "enrolment.refused": lambda d: f"Did not come into “{d['name']}”",
    "enrolment.moved": lambda d: f"Moved to version {d['to']} of “{d['name']}”",
    "enrolment.sent": lambda d: f"Moved within “{d['name']}”",
    "enrolment.skipped": lambda d: f"A wait of “{d['name']}” was ended by hand",
    "enrolment.paused": lambda d: f"Paused in “{d['name']}”",
    "enrolment.resumed": lambda d: f"Goes on in “{d['name']}”",
    "enrolment.taken_out": lambda d: f"Taken out of “{d['name']}”",
}
DETAILS: dict[str, Callable[[dict[str, Any]], str]] = {
    "note.added": lambda d: d["text"],
    "enrolment.refused": lambda d: d["why"],
    "enrolment.sent": lambda d: d["why"],
    "enrolment.skipped": lambda d: d["why"],
    "enrolment.paused": lambda d: d["why"],
    "enrolment.resumed": lambda d: d["why"],
    "consent.given": lambda d: d.get("evidence", ""),
    "consent.withdrawn": lambda d: d.get("evidence", ""),
    "reply.received": lambda d: d["text"],
    "form.sent": lambda d: _answers(d["answers"], d.get("order", d["answers"])),
    "lead.received": lambda d: _answers(d["details"], d["details"]),
    "contact.merged": lambda d: "\n".join(one for one in (d["email"], d["mobile"]) if one),
    "link.clicked": lambda d: d["url"],
    "task.tried": lambda d: d["note"],
    "task.done": lambda d: d["note"],
}


def story_of(contact: Contact) -> list[Item]:
    """Newest first; what happened at one instant stands in the order it happened, newest first."""
    found: list[tuple[datetime, int, float, Item]] = []
    zone = contact.account.zone
    for event in Event.objects.filter(contact_id=contact.id).select_related("actor").order_by("-id")[:LONGEST]:
        if event.kind not in SENTENCES or (event.enrolment_id and event.kind in TOLD_ELSEWHERE):
            continue
        kind: Kind = "reply" if event.kind == "reply.received" else "event"
        rank = 0 if event.kind in ("contact.added", "reply.received", "tag.added", "consent.withdrawn") else 3
        rank = 1 if event.kind == "enrolment.started" else rank
        data = event.data | {
            name: day_of(datetime.fromisoformat(event.data[name]), zone) for name in INSTANTS if event.data.get(name)
        }
        detail = DETAILS[event.kind](data) if event.kind in DETAILS else ""
        by = event.actor.name if event.actor else ""
        found.append((event.at, rank, event.id, Item(event.at, kind, SENTENCES[event.kind](data), detail, by, "", {})))
    for message in contact.messages.select_related("by").order_by("-id")[:LONGEST]:
        found.append((message.sent_at or message.queued_at, 2, message.id, _message_item(message)))
    turns = EnrolmentReasons.objects.filter(enrolment__in=contact.enrolments.all()).select_related(
        "enrolment__workflow"
    )
    for turn in turns.order_by("-at", "-id")[:LONGEST]:
        name = turn.enrolment.workflow.name
        for number, reason in enumerate(turn.reasons):
            own = (turn.enrolment_id, reason["step"], turn.enrolment.workflow_id)
            values = values_as_written(reason["values"], contact.account.region)
            item = Item(turn.at, "reason", reason["sentence"], "", "", name, values, *own)
            found.append((turn.at, 2, turn.id + number / 1_000, item))
    found.sort(key=lambda one: one[:3], reverse=True)
    return [item for _, _, _, item in found[:LONGEST]]


def became(message: Message) -> str:
    """What has become of a message, in words."""
    return {
        "held": f"is held: {message.reason}" if message.reason else "is held until somebody lets it go",
        "uncertain": f"may or may not have gone: {message.reason}",
        "queued": "waits to be sent",
        "sending": "is being sent",
        "sent": "sent",
        "delivered": "delivered",
        "failed": f"failed: {message.reason}",
        "cancelled": f"not sent: {message.reason}",
    }[message.state]


def _message_item(message: Message) -> Item:
    what = message.channel.capitalize()
    named = f" “{message.name}”" if message.name else ""
    detail = f"{message.subject}\n{message.body}" if message.subject else message.body
    by = message.by.name if message.by else ""
    own = (message.enrolment_id or 0, message.step)
    return Item(
        message.sent_at or message.queued_at, "message", f"{what}{named} {became(message)}", detail, by, "", {}, *own
    )
