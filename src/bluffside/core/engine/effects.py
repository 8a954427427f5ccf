"""What the engine decides to have done, as data. Carrying it out is the server's, or a rehearsal's.

`step` and `round` are the effect's key within its enrolment: each effect is carried out once for it.
Each says what it `changes` in the facts, so that later steps see it, and which `event` it puts on the stream.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from decimal import Decimal
from typing import Any, Literal

from bluffside.core.channel_kinds.mail_head import SentHead
from bluffside.core.events import Event
from bluffside.core.facts import Consent, Deal, Facts, FieldValue
from bluffside.core.letters.compiling import Addressed
from bluffside.core.scoring import sheet
from bluffside.core.terms import Channel, Purpose


@dataclass(frozen=True, slots=True)
class Effect:
    step: str
    round: int

    def changes(self, facts: Facts, now: datetime) -> Facts:
        return facts

    def event(self, facts: Facts, now: datetime) -> Event | None:
        """What happened to the contact by it, given the facts as they were; None when nothing did."""
        return None


# ---- messages and people


@dataclass(frozen=True, slots=True)
class SendMessage(Effect):
    """A message rendered for this contact. `subject` is empty but for email and push; `held` waits for a person;
    `sender` names an address or number of the account, its usual one when empty; `letter`: an email in lines, whose plain words
    are the body; `head`: of an email, besides its subject; `wording`: which of several it is (Wording.key_of), else empty; `later`:
    seconds for which it lies in the outbox, so that the team can see it before it goes."""

    channel: Channel
    name: str
    subject: str
    body: str
    purpose: Purpose = "marketing"
    held: bool = False
    sender: str = ""
    letter: Addressed | None = None
    head: SentHead | None = None
    wording: str = ""
    later: int = 0

    def changes(self, facts: Facts, now: datetime) -> Facts:
        sent = self.event(facts, now) if facts.remembers else None
        return facts.with_contact(happened=(*facts.contact.happened, sent)) if sent else facts

    def event(self, facts: Facts, now: datetime) -> Event | None:
        if self.held:
            return None
        return Event("message.sent", now, {"message": self.name, "channel": self.channel, "purpose": self.purpose})


@dataclass(frozen=True, slots=True)
class Assignee:
    """Who gets a task: the responsible member, whoever caused it, a named one, or the named ones in turn."""

    to: Literal["responsible", "causer", "member", "in_turn"] = "responsible"
    members: tuple[str, ...] = ()


TaskKind = Literal["call", "to_do", "letter", "custom"]


@dataclass(frozen=True, slots=True)
class MakeTask(Effect):
    """Something for a member. `say` is what to say on a call, or what the letter says; `attempts` how often to
    try; `last` what to do on the last attempt; `due` when the team is there, the moment itself when None."""

    task: TaskKind
    title: str
    say: str = ""
    attempts: int = 1
    last: str = ""
    assignee: Assignee = Assignee()
    due: datetime | None = None


@dataclass(frozen=True, slots=True)
class Notify(Effect):
    """A notice to members of the team."""

    text: str
    assignee: Assignee = Assignee()
    by: Literal["app", "email", "both"] = "app"


@dataclass(frozen=True, slots=True)
class CallOff(Effect):
    """What the enrolment has set going and has not gone out yet is not to: messages that are held or wait in the outbox,
    calls, to-dos and letters that nobody has dealt with. `lines`: of these lines alone (all of them when empty)."""

    why: str
    lines: tuple[str, ...] = ()


# ---- records


@dataclass(frozen=True, slots=True)
class AddTag(Effect):
    tag: str

    def changes(self, facts: Facts, now: datetime) -> Facts:
        return facts.with_contact(tags=facts.contact.tags | {self.tag})

    def event(self, facts: Facts, now: datetime) -> Event | None:
        return None if self.tag in facts.contact.tags else Event("tag.added", now, {"tag": self.tag})


@dataclass(frozen=True, slots=True)
class RemoveTag(Effect):
    tag: str

    def changes(self, facts: Facts, now: datetime) -> Facts:
        return facts.with_contact(tags=facts.contact.tags - {self.tag})

    def event(self, facts: Facts, now: datetime) -> Event | None:
        return Event("tag.removed", now, {"tag": self.tag}) if self.tag in facts.contact.tags else None


@dataclass(frozen=True, slots=True)
class AddNote(Effect):
    text: str


@dataclass(frozen=True, slots=True)
class SetField(Effect):
    """`value` None empties the field. `own` is for a field every contact has, like last_name."""

    field: str
    value: FieldValue
    own: bool = False

    def _old(self, facts: Facts) -> FieldValue:
        return getattr(facts.contact, self.field) if self.own else facts.contact.fields.get(self.field)

    def changes(self, facts: Facts, now: datetime) -> Facts:
        if self.own:
            own: Any = {self.field: self.value or ""}
            return facts.with_contact(**own)
        return facts.with_contact(fields={**facts.contact.fields, self.field: self.value})

    def event(self, facts: Facts, now: datetime) -> Event | None:
        old = self._old(facts)
        if (old or None) == (self.value or None):
            return None
        data = {"field": self.field, "old": "" if old is None else old, "new": "" if self.value is None else self.value}
        return Event("field.changed", now, data)


@dataclass(frozen=True, slots=True)
class SetList(Effect):
    """Puts the contact on a list of the account, or takes it off."""

    list: str
    on: bool

    def changes(self, facts: Facts, now: datetime) -> Facts:
        lists = facts.contact.lists | {self.list} if self.on else facts.contact.lists - {self.list}
        return facts.with_contact(lists=lists)

    def event(self, facts: Facts, now: datetime) -> Event | None:
        if (self.list in facts.contact.lists) == self.on:
            return None
        return Event("list.joined" if self.on else "list.left", now, {"list": self.list})


@dataclass(frozen=True, slots=True)
class AddPoints(Effect):
    """Points on a score ("" is the lead score), under the name of a rule (see scoring.sheet)."""

    rule: str
    points: float
    half_life: timedelta | None = None
    limit: float | None = None
    score: str = ""

    def changes(self, facts: Facts, now: datetime) -> Facts:
        score = facts.contact.score.plus(self.rule, self.points, now, self.half_life, self.limit, self.score)
        return facts.with_contact(score=score)

    def event(self, facts: Facts, now: datetime) -> Event | None:
        return next(iter(sheet.changes(facts.contact.score, self.changes(facts, now).contact.score, now)), None)


@dataclass(frozen=True, slots=True)
class SetOwner(Effect):
    assignee: Assignee

    def changes(self, facts: Facts, now: datetime) -> Facts:
        if self.assignee.to != "member" or not self.assignee.members:
            return facts  # who it is in turn is known to whoever carries it out
        return facts.with_owner(self.assignee.members[0])


@dataclass(frozen=True, slots=True)
class CreateDeal(Effect):
    """`deal` is the id it gets, unique among the contact's deals."""

    deal: str
    pipeline: str
    stage: str
    name: str
    value: Decimal = Decimal(0)

    def changes(self, facts: Facts, now: datetime) -> Facts:
        made = Deal(self.deal, self.pipeline, self.stage, now, now, self.value, "open", self.name)
        return facts.with_contact(deals=(*facts.contact.deals, made))

    def event(self, facts: Facts, now: datetime) -> Event | None:
        return Event("deal.created", now, {"deal": self.deal, "pipeline": self.pipeline, "stage": self.stage})


@dataclass(frozen=True, slots=True)
class MoveDeal(Effect):
    """Moves a deal to a stage, or closes it as won or lost there."""

    deal: str
    stage: str
    state: Literal["open", "won", "lost"] = "open"

    def changes(self, facts: Facts, now: datetime) -> Facts:
        def moved(deal: Deal) -> Deal:
            if deal.id != self.deal:
                return deal
            stage = self.stage or deal.stage
            return replace(deal, stage=stage, since=now if stage != deal.stage else deal.since, state=self.state)

        return facts.with_contact(deals=tuple(map(moved, facts.contact.deals)))

    def event(self, facts: Facts, now: datetime) -> Event | None:
        deal = facts.contact.deal(self.deal)
        if deal is None:
            return None
        data = {"deal": deal.id, "pipeline": deal.pipeline, "stage": self.stage or deal.stage, "old": deal.stage}
        if self.state != deal.state and self.state != "open":
            return Event(f"deal.{self.state}", now, data)
        return Event("stage.changed", now, data) if data["stage"] != deal.stage else None


@dataclass(frozen=True, slots=True)
class SetConsent(Effect):
    channel: Channel
    purpose: Purpose
    state: Literal["given", "withdrawn", "asked"]
    how: str = ""
    wording: str = ""

    def changes(self, facts: Facts, now: datetime) -> Facts:
        said = Consent(self.channel, self.purpose, self.state, now, self.how, self.wording)
        return facts.with_contact(consents=facts.contact.consents_after(said))

    def event(self, facts: Facts, now: datetime) -> Event | None:
        before = facts.contact.consent(self.channel, self.purpose)
        if self.state == "asked" or (before and before.state == self.state):
            return None
        return Event(f"consent.{self.state}", now, {"channel": self.channel, "purpose": self.purpose})


@dataclass(frozen=True, slots=True)
class SetChannelOrder(Effect):
    order: tuple[Channel, ...]

    def changes(self, facts: Facts, now: datetime) -> Facts:
        return facts.with_contact(channel_order=self.order)


@dataclass(frozen=True, slots=True)
class ChangeAppointment(Effect):
    """Confirms or cancels an appointment."""

    appointment: str
    to: Literal["confirmed", "cancelled"]

    def changes(self, facts: Facts, now: datetime) -> Facts:
        appointments = tuple(
            replace(one, state=self.to) if one.id == self.appointment else one for one in facts.contact.appointments
        )
        return facts.with_contact(appointments=appointments)

    def event(self, facts: Facts, now: datetime) -> Event | None:
        one = facts.contact.appointment(self.appointment)
        if one is None or self.to != "cancelled" or one.state == "cancelled":
            return None
        return Event("appointment.cancelled", now, {"appointment": one.id, "type": one.type, "start": one.start})


# ---- outside, and other workflows


@dataclass(frozen=True, slots=True)
class CallWebhook(Effect):
    """A request to another system. `query` and `headers` are pairs, in order; `body` is JSON or text, empty for GET."""

    method: str
    url: str
    query: tuple[tuple[str, str], ...] = ()
    headers: tuple[tuple[str, str], ...] = ()
    body: str = ""


@dataclass(frozen=True, slots=True)
class Asking(Effect):
    """Something is asked of an outside service about the contact."""

    def asks(self) -> tuple[str, Mapping[str, Any]]:
        """The service's name, and what it is asked, which JSON can hold."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class AskService(Asking):
    """Asks a service whose requests need no words of their own in rehearsals."""

    service: str
    body: Mapping[str, Any]

    def asks(self) -> tuple[str, Mapping[str, Any]]:
        return self.service, self.body


@dataclass(frozen=True, slots=True)
class ChangeSeries(Asking):
    """Puts the contact on a list or a series of an outside service, or takes it off."""

    service: str
    what: Literal["list", "series"]
    name: str
    on: bool

    def asks(self) -> tuple[str, Mapping[str, Any]]:
        return "series", {"service": self.service, "what": self.what, "name": self.name, "on": self.on}


@dataclass(frozen=True, slots=True)
class HandOver(Effect):
    """The contact goes on in another workflow; `depth` is how many hand-overs led there."""

    workflow: str
    depth: int
    about: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class StopOthers(Effect):
    """The contact leaves other workflows: those named, or all but this one. `here`: their other enrolments in this one."""

    workflows: tuple[str, ...] = ()
    here: bool = False
