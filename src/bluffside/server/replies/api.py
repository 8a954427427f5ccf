"""The page Replies: who waits, what was said with whom, answered in place."""

from contextlib import suppress
from datetime import datetime, time, timedelta

from django.shortcuts import get_object_or_404
from ninja import Path, Query, Router, Schema
from ninja.errors import HttpError
from pydantic import AwareDatetime, Field

from bluffside.core import words
from bluffside.core.care.quiet import QuietHours
from bluffside.core.channels.consent import why_closed
from bluffside.core.engine.turn import Setting
from bluffside.core.facts import TwoWay
from bluffside.core.messages.merge import BadTemplate, render
from bluffside.core.terms import CHANNEL_KINDS, Channel
from bluffside.core.timing.local import at_time, to_instant, to_local
from bluffside.server.diary.services import TAKEN_BACK_FOR
from bluffside.server.messaging import answering, correspondence
from bluffside.server.messaging.correspondence import MovedOn
from bluffside.server.messaging.models import Correspondence, Reply, StrangerMail
from bluffside.server.messaging.services import CannotSend
from bluffside.server.people.api import contact_of
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import load_contacts
from bluffside.server.practice import clock, connections
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.team import people_of
from bluffside.server.practice.words import moment
from bluffside.server.replies import ledger
from bluffside.server.replies.assistant_api import AtTurn, ConversationOut, talks_with
from bluffside.server.replies.dialogue import Who, dialogue
from bluffside.server.workflows import conversations
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.library import words_of

router = Router(tags=["replies"], auth=InAccount())
TWO_WAY: tuple[TwoWay, ...] = ("text", "email")
MOST_PAGES, MOST_WORDINGS, MOST_TALKS = 100, 8, 50
MORNING = time(9)


class CorrespondenceRow(Schema):
    """`local_since`: since when it waits, else when they wrote last; `waited`: for how long, in words; `turn`: to act at;
    `assistant`: where the booking assistant is with them, in words."""

    contact_id: int
    contact: str
    channel: str
    text: str
    local_since: str
    waited: str
    waits: bool
    to_decide: bool
    assigned: str
    put_off: str
    answered_by: str
    turn: int
    assistant: str = ""


class ReplyCounts(Schema):
    """`next_put_off`: when the first of those put off comes back; `by_itself`: how many replies were answered by what, in a week;
    `strangers`: emails from people nobody here knows."""

    waiting: int
    mine: int
    nobody: int
    put_off: int
    next_put_off: str
    by_itself: dict[str, int]
    with_assistant: int
    strangers: int


class RepliesOut(Schema):
    """`more`: there are further pages; `with_assistant`: beside those who wait, on the first page of them."""

    rows: list[CorrespondenceRow]
    with_assistant: list[CorrespondenceRow]
    counts: ReplyCounts
    more: bool


class RepliesAsked(Schema):
    show: ledger.Shown = "waiting"
    words: str = Field(default="", max_length=200)
    page: int = Field(default=0, ge=0, le=MOST_PAGES)


class SaidOut(Schema):
    """`at`: ISO 8601; `local`: the same in the account's zone; `to_come`: it has not gone yet."""

    key: str
    at: datetime
    local: str
    of: Who
    who: str
    text: str
    channel: Channel | None
    subject: str
    workflow: int | None
    state: str
    reason: str
    to_come: bool
    answered_by: str
    waits: bool
    likely_out: bool
    opted_out: bool
    automatic: bool


class AnswerWayOut(Schema):
    """A channel to answer by; `closed`: why it cannot be."""

    channel: TwoWay
    closed: str


class MayTakeOut(Schema):
    id: int
    name: str


class PutOffUntilOut(Schema):
    """`until`: a local time of the account."""

    words: str
    until: str


class DialogueOut(Schema):
    """`talks`: the booking assistant, where it talks with them. `last_by`: the channel they wrote by last. `team`: to whom it can be given; `later`: until when it can be put off."""

    contact_id: int
    turn: int
    waits: bool
    to_decide: bool
    assigned: int | None
    put_off: str
    last_by: str
    said: list[SaidOut]
    more: bool
    ways: list[AnswerWayOut]
    team: list[MayTakeOut]
    later: list[PutOffUntilOut]
    talks: ConversationOut | None


class LibraryWordsOut(Schema):
    """A message of the library, with what it would say to this contact."""

    name: str
    text: str


class ReplyAnswerIn(Schema):
    """`turn`: at which it was written; `night`: what to do when it is night where they are: ask, send at once, or in the morning."""

    text: str = Field(min_length=1, max_length=5_000)
    channel: TwoWay
    turn: int
    night: str = Field(default="ask", pattern=r"^(ask|now|morning)$")


class ReplyAnswerOut(Schema):
    """`asks`: nothing was sent, since it is night: in words; `goes`: when it would go in the morning, or goes."""

    asks: str = ""
    goes: str = ""


class WantsOutIn(AtTurn):
    wants_out: bool


class NoAnswerOut(Schema):
    """`turn`: at which it is now; `undo_for`: seconds for which it can be taken back."""

    turn: int
    undo_for: float


class ReplyGivenTo(Schema):
    """`person` of the team; none: nobody's."""

    person: int | None


class PutOffIn(Schema):
    """`until`: a local time of the account; none: it waits again."""

    until: datetime | None


@router.get("replies", response=RepliesOut)
def replies(request: AccountRequest, account: Path[str], asked: Query[RepliesAsked]) -> RepliesOut:
    rows = ledger.shown(request.account, request.person, asked.show, asked.words)
    begin = asked.page * ledger.PAGE
    page = list(rows.select_related("contact", "assigned")[begin : begin + ledger.PAGE + 1])
    said = correspondence.last_words([one.contact_id for one in page])
    counted, zone = ledger.counts(request.account, request.person), request.account.zone
    return RepliesOut(
        rows=[_row(one, said.get(one.contact_id), zone) for one in page[: ledger.PAGE]],
        counts=ReplyCounts(
            **{
                name: getattr(counted, name)
                for name in ("waiting", "mine", "nobody", "put_off", "by_itself", "with_assistant")
            },
            next_put_off=moment(counted.next_at, zone) if counted.next_at else "",
            strangers=StrangerMail.objects.filter(account=request.account).count(),
        ),
        more=len(page) > ledger.PAGE,
        with_assistant=_with_assistant(request) if asked.show == "waiting" and not begin and not asked.words else [],
    )


def _with_assistant(request: AccountRequest) -> list[CorrespondenceRow]:
    rows = list(ledger.with_assistant(request.account).select_related("contact", "assigned")[:MOST_TALKS])
    contacts = [one.contact_id for one in rows]
    said, talks = correspondence.last_words(contacts), conversations.where_they_are(request.account, contacts)
    return [
        _row(one, said.get(one.contact_id), request.account.zone).model_copy(
            update={"assistant": talks.get(one.contact_id, "")}
        )
        for one in rows
    ]


def _row(one: Correspondence, said: Reply | None, zone: str) -> CorrespondenceRow:
    since = one.waiting_since or one.heard_at
    return CorrespondenceRow(
        contact_id=one.contact_id, contact=one.contact.name, channel=said.channel if said else "",
        text=said.text[:300] if said else "", waited=words.span(clock.now() - since), local_since=to_local(since, zone).isoformat(timespec="minutes"),
        waits=one.waiting_since is not None, to_decide=one.to_decide, assigned=one.assigned.first_name if one.assigned else "",
        put_off=_put_off(one, zone), answered_by=said.answered_by if said else "", turn=one.turn,
    )  # fmt: skip


def _put_off(one: Correspondence, zone: str) -> str:
    """Until when, in words; empty where it is not, or not any more."""
    until = one.put_off_until
    return moment(until, zone) if until and until > clock.now() else ""


@router.get("replies/{int:contact_id}", response=DialogueOut)
def one_dialogue(
    request: AccountRequest, account: Path[str], contact_id: int, before: AwareDatetime | None = None
) -> DialogueOut:
    """What was said with a contact, the last of it, or before an instant."""
    contact, zone, now = contact_of(request, contact_id), request.account.zone, clock.now()
    row = Correspondence.objects.filter(contact=contact).first() or Correspondence(contact=contact)
    said, more = dialogue(contact, before)
    heard = next((one.channel for one in reversed(said) if one.of == "contact" and one.channel), None)
    return DialogueOut(
        contact_id=contact.pk, turn=row.turn, waits=row.waiting_since is not None, to_decide=row.to_decide,
        assigned=row.assigned_id, put_off=_put_off(row, zone),
        last_by=heard or "",
        said=[
            SaidOut(
                **{name: getattr(one, name) for name in one.__slots__}, local=to_local(one.at, zone).isoformat(timespec="minutes"),
                to_come=one.of != "contact" and one.state in ("queued", "held") and (one.at > now or one.state == "held"),
            )
            for one in said
        ],
        more=more,
        ways=_ways(contact),
        team=[MayTakeOut(id=one.pk, name=one.name) for one in people_of(request.account).order_by("name")],
        later=_later(now, zone),
        talks=talks_with(contact),
    )  # fmt: skip


@router.get("replies/{int:contact_id}/wordings", response=list[LibraryWordsOut])
def wordings(
    request: AccountRequest, account: Path[str], contact_id: int, channel: TwoWay, find: str = ""
) -> list[LibraryWordsOut]:
    """What the library has to say by a channel, found by its name."""
    contact, found = contact_of(request, contact_id), find.casefold().strip()
    lines = {name: line.versions().get(channel) for name, line in words_of(request.account.pk).items()}
    fitting = [(name, one) for name, one in sorted(lines.items()) if one and found in name.casefold()]
    facts = load_facts(request.account, [contact.pk])[contact.pk]
    said = []
    for name, one in fitting[:MOST_WORDINGS]:
        with suppress(BadTemplate):  # a check of the library says so
            said.append(LibraryWordsOut(name=name, text=render(one.body, facts)))
    return said


def _later(now: datetime, zone: str) -> list[PutOffUntilOut]:
    """An hour from now, tomorrow when work begins, and on the Monday to come."""
    local = to_local(now, zone)
    days = {"until tomorrow, 09:00": 1, "until Monday, 09:00": 7 - local.weekday()}
    choices = {words: at_time(local.date() + timedelta(days=ahead), MORNING, zone) for words, ahead in days.items()}
    whole = {"for an hour": now + timedelta(hours=1)} | choices
    return [PutOffUntilOut(words=words, until=f"{to_local(at, zone):%Y-%m-%dT%H:%M}") for words, at in whole.items()]


def _ways(contact: Contact) -> list[AnswerWayOut]:
    facts = load_contacts(contact.account, [contact.pk])[contact.pk]
    off = connections.switched_off(contact.account, "channel")

    def closed(channel: TwoWay) -> str:
        why = why_closed(facts.contact, channel, "service", facts.account.care, clock.now())
        return "switched off" if channel in off else why

    return [AnswerWayOut(channel=channel, closed=closed(channel)) for channel in TWO_WAY]


def _morning(contact: Contact, channel: TwoWay) -> datetime:
    """When the night ends for them: this instant where it is none. By the account's quiet hours; where it has none, as usual ones."""
    facts, now = load_contacts(contact.account, [contact.pk])[contact.pk], clock.now()
    care = (
        facts.account.care
        if facts.account.care.quiet
        else facts.account.care.model_copy(update={"quiet": (QuietHours(),)})
    )
    setting = Setting(zone=facts.contact.zone or facts.account.zone, care=care)
    return setting.next_allowed(now, channel, "service") if CHANNEL_KINDS[channel].keywords else now


@router.post("replies/{int:contact_id}/answer", response=ReplyAnswerOut)
def answer(request: AccountRequest, account: Path[str], contact_id: int, given: ReplyAnswerIn) -> ReplyAnswerOut:
    """Writes to them by a channel that is open, and takes what waits of them off the list. In the night it asks first."""
    require(request, "people")
    contact, now = contact_of(request, contact_id), clock.now()
    morning, zone = _morning(contact, given.channel), contact.zone or request.account.zone
    if morning > now and given.night == "ask":
        local = f"{to_local(now, zone):%H:%M}"
        asks = f"It is {local} where {contact.first_name or contact.name} is ({words.place(zone)})."
        return ReplyAnswerOut(asks=asks, goes=f"{to_local(morning, zone):%H:%M}")
    later = morning - now if given.night == "morning" else timedelta()
    try:
        answering.answer(contact, given.channel, given.text, request.person, given.turn, later)
    except (CannotSend, MovedOn) as error:
        raise HttpError(409, f"{error} What you wrote was not sent.") from None
    return ReplyAnswerOut(goes=moment(morning, request.account.zone) if later else "")


@router.post("replies/{int:contact_id}/done", response=NoAnswerOut)
def done(request: AccountRequest, account: Path[str], contact_id: int, given: AtTurn) -> NoAnswerOut:
    """It needs no answer."""
    require(request, "people")
    try:
        turn = answering.need_no_answer(
            contact_of(request, contact_id), request.person, given.turn, held_for=TAKEN_BACK_FOR
        )
    except MovedOn as error:
        raise HttpError(409, f"{error} It waits as before.") from None
    return NoAnswerOut(turn=turn, undo_for=TAKEN_BACK_FOR.total_seconds())


@router.delete("replies/{int:contact_id}/done", response={204: None})
def wait_again(request: AccountRequest, account: Path[str], contact_id: int, turn: int) -> tuple[int, None]:
    """It waits as before: that it needs no answer is taken back."""
    require(request, "people")
    try:
        answering.wait_again(contact_of(request, contact_id), request.person, turn)
    except MovedOn as error:
        raise HttpError(409, str(error)) from None
    return 204, None


@router.post("replies/{int:contact_id}/decide", response={204: None})
def decide(request: AccountRequest, account: Path[str], contact_id: int, given: WantsOutIn) -> tuple[int, None]:
    """Whether what may mean so means that they want no more: then they are opted out of its channel."""
    require(request, "people")
    try:
        answering.decide(contact_of(request, contact_id), given.wants_out, request.person, given.turn)
    except MovedOn as error:
        raise HttpError(409, f"{error} Nothing was decided.") from None
    return 204, None


@router.post("replies/{int:contact_id}/give", response={204: None})
def give(request: AccountRequest, account: Path[str], contact_id: int, given: ReplyGivenTo) -> tuple[int, None]:
    require(request, "people")
    to = get_object_or_404(people_of(request.account), id=given.person) if given.person else None
    correspondence.give(contact_of(request, contact_id), to)
    return 204, None


@router.post("replies/{int:contact_id}/put-off", response={204: None})
def put_off(request: AccountRequest, account: Path[str], contact_id: int, given: PutOffIn) -> tuple[int, None]:
    require(request, "people")
    until = to_instant(given.until.replace(tzinfo=None), request.account.zone) if given.until else None
    try:
        correspondence.put_off(contact_of(request, contact_id), until)
    except MovedOn as error:
        raise HttpError(422, str(error)) from None
    return 204, None
