"""The outbox: messages on their way to the carriers. Queueing them, and calling off what has not gone."""

from collections import defaultdict
from collections.abc import Sequence
from datetime import timedelta
from typing import Any, NamedTuple

from bluffside.core.channel_kinds.mail_head import SentHead
from bluffside.core.letters.compiling import Addressed
from bluffside.core.letters.link_tags import LinkTags, tagged
from bluffside.core.terms import CHANNEL_KINDS, Channel, Purpose
from bluffside.server import sql
from bluffside.server.events.set_going import CalledOff, among
from bluffside.server.events.stream import Happened
from bluffside.server.messaging import heads
from bluffside.server.messaging.letters import keep_letters
from bluffside.server.messaging.links import counted
from bluffside.server.messaging.models import Link, Message
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.team import addresses_of
from bluffside.server.wake import wake

# Why a message is held that nobody wanted held.
STOPPED, NOT_LIVE = "sending was stopped", "the account is not live yet"
SWITCHED_OFF = "the connection was switched off"
HELD_BACK = (STOPPED, NOT_LIVE, SWITCHED_OFF)  # all of them are decided upon in one place (workflows/held_back.py)


class Draft(NamedTuple):
    """A message to be put into the outbox."""

    contact_id: int
    key: str
    channel: Channel
    purpose: Purpose
    address: str
    body: str
    name: str = ""
    subject: str = ""
    sender: str = ""
    enrolment_id: int | None = None
    step: str = ""
    held: bool = False
    by: Person | None = None
    answers_word: bool = False
    calendar: str = ""
    letter: Addressed | None = None
    head: SentHead | None = None
    wording: str = ""
    later: timedelta = timedelta()


def queue(account: Account, drafts: Sequence[Draft], later: timedelta = timedelta()) -> None:
    """Puts messages into the outbox, in the transaction at hand, to go at once or so much later. A key that is there
    already is left as it is."""
    if not drafts:
        return
    now = clock.now()
    team = addresses_of(account) if account.trying_out else None
    messages: list[tuple[Any, ...]] = []
    links: list[tuple[int, int, int, str]] = []
    letters: list[tuple[int, Addressed, list[str]]] = []
    for id, draft in zip(sql.next_ids(Message, len(drafts)), drafts, strict=True):
        pressed = CHANNEL_KINDS[draft.channel].reads == "pressed"
        body, urls = counted(draft.body, account.id, id) if pressed else (draft.body, [])
        tags = draft.head.tags if draft.head else LinkTags()
        links += [(account.id, id, number, tagged(url, tags)) for number, url in enumerate(urls, start=1)]
        if draft.letter:
            letters.append((id, draft.letter, urls))
        why = STOPPED if account.stopped_at else NOT_LIVE if team is not None and draft.address not in team else ""
        state = Message.State.HELD if draft.held or why else Message.State.QUEUED
        why = "" if draft.held else why
        messages.append(
            (id, account.id, draft.contact_id, draft.key, draft.channel, draft.purpose, draft.sender[:120],
             draft.address[:300], draft.name[:120], draft.subject[:500], body, draft.enrolment_id, draft.step,
             draft.by.id if draft.by else None, draft.answers_word, state, why, now + later + draft.later, now, draft.calendar,
             heads.kept(draft.head), draft.wording)
        )  # fmt: skip
    columns = (
        "id", "account_id", "contact_id", "key", "channel", "purpose", "sender", "address", "name", "subject", "body",
        "enrolment_id", "step", "by_id", "answers_word", "state", "reason", "next_try_at", "queued_at", "calendar",
        "head", "wording",
    )  # fmt: skip
    fresh = sql.insert(Message, columns, messages, on_conflict="ON CONFLICT DO NOTHING", returning="id")
    new = {row[0] for row in fresh}
    sql.insert(Link, ("account_id", "message_id", "number", "url"), [link for link in links if link[1] in new])
    keep_letters(account, [one for one in letters if one[0] in new])
    wake("deliver")


def about(message: Message, **more: Any) -> dict[str, Any]:
    return {
        "message": message.name,
        "channel": message.channel,
        "purpose": message.purpose,
        "message_id": message.id,
        **more,
    }


def call_off(account: Account, called_off: Sequence[CalledOff]) -> list[Happened]:
    """What nobody has handed over yet is not to go, in the transaction at hand. Answers what happened by it, for the caller
    to record."""
    states = (Message.State.QUEUED, Message.State.HELD)
    found = among(Message.objects.filter(account=account, state__in=states), called_off)
    by_why: dict[str, list[int]] = defaultdict(list)
    for row, off in found:
        by_why[off.why[:300]].append(row.id)
    for why, ids in by_why.items():
        cancelled = {"state": Message.State.CANCELLED, "reason": why, "settled_at": clock.now()}
        Message.objects.filter(id__in=ids).update(**cancelled)
    return [Happened("message.cancelled", row.contact_id, about(row, reason=off.why), off.cause) for row, off in found]
