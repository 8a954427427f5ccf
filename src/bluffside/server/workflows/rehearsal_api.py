"""Rehearsing a workflow before anybody gets it: one contact along the script, a typical few, the scenarios, and the
whole series to oneself. Nobody is changed, and nothing is sent but to who asks."""

from datetime import datetime, timedelta
from typing import Any

from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field, ValidationError

from bluffside.core.channels.text_parts import measure
from bluffside.core.engine.effects import MakeTask, SendMessage
from bluffside.core.facts import Facts
from bluffside.core.messages.closing import closing_for
from bluffside.core.phone_numbers import as_written
from bluffside.core.rehearsal.keeping import kept, some_contact
from bluffside.core.rehearsal.offers import offers
from bluffside.core.rehearsal.rehearse import Answer, Answers, Rehearsal, rehearse
from bluffside.core.rehearsal.report import signal_words
from bluffside.core.rehearsal.scenarios import event_of, not_reached, play
from bluffside.core.rehearsal.typical import typical
from bluffside.core.timing.durations import Duration
from bluffside.core.timing.local import next_clock_change, to_instant, to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.scenario import Act, Scenario
from bluffside.server.messaging import testing
from bluffside.server.messaging.models import OwnCopy
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.workflows.api import Invented, facts_for, start_of, workflow_of
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.rehearsed_dates import Dates, MoveIn, dates, moved

router = Router(tags=["rehearsal"], auth=InAccount())
MOST_ANSWERS = 30  # in a conversation
LOOKED_AT = 150  # contacts among whom a typical few is looked for


class AnswerIn(Schema):
    """`act`: what happens, as scenarios write it (without its moment); none: nothing does until the limit."""

    act: dict[str, Any] | None = None
    after: Duration = Duration(0, "minute")


class RehearseIn(Schema):
    """`contact_id` of a real contact, who is only read, or an invented one; or the name of a scenario of the document,
    which brings all the rest. `start` is local time."""

    document: Document
    contact_id: int | None = None
    invented: Invented = Invented()
    start: datetime | None = None
    answers: dict[str, AnswerIn | list[AnswerIn]] = {}
    moves: list[MoveIn] = Field(default=[], max_length=20)
    scenario: str = ""
    to_the_end: bool = False


class RehearsedMessage(Schema):
    """`below`: the line that stands under the body; `parts` of a text count it, too."""

    channel: str
    name: str
    subject: str
    body: str
    below: str
    parts: int


class RehearsedLine(Schema):
    """What a rehearsal did at one line. `step` is empty for what happens to the whole enrolment."""

    step: str
    at: str
    when: str
    day: int
    what: str
    reasons: list[str]
    messages: list[RehearsedMessage]
    tasks: list[str]


class OfferOut(Schema):
    words: str
    act: dict[str, Any] | None


class Rehearsed(Schema):
    """`awaits` is the line that waits for an answer, `offers` what may happen there. `failures` are a scenario's."""

    contact: str
    start: str
    lines: list[RehearsedLine]
    awaits: str
    offers: list[OfferOut]
    dates: Dates
    ended: str
    tags: list[str]
    failures: list[str]


class Kept(Schema):
    """`already`: the name of the scenario of the document that is this one already; empty when there is none."""

    scenario: Scenario
    already: str = ""


class ScenarioVerdict(Schema):
    name: str
    failures: list[str]
    day: int
    reached: list[str]


class Verdicts(Schema):
    """`not_reached`: the lines that no scenario comes to."""

    verdicts: list[ScenarioVerdict]
    not_reached: list[str]


class TypicalRow(Schema):
    """A contact that stands for `alike` others; `shows`: the lines seen with them and not with those before."""

    contact_id: int
    contact: str
    alike: int
    shows: list[str]


class TypicalOut(Schema):
    """`looked_at`: among how many contacts. `unseen`: lines nobody of them comes to when they answer nothing."""

    rows: list[TypicalRow]
    looked_at: int
    unseen: list[str]


class Moment(Schema):
    words: str
    start: str


class SeriesIn(RehearseIn):
    """`apart`: seconds between one message and the next."""

    workflow_id: int
    apart: int = Field(default=60, ge=0, le=3_600)


class CopyOut(Schema):
    number: int
    channel: str
    name: str
    due: str
    gone: bool
    fault: str


class CopiesOut(Schema):
    """The series to oneself; `to` are one's own addresses."""

    to: list[str]
    copies: list[CopyOut]


def _act_of(act: dict[str, Any]) -> Act:
    try:
        return Act.model_validate({**act, "after": "0 minutes"})
    except ValidationError as error:
        said = "; ".join(str(one["msg"]).removeprefix("Value error, ") for one in error.errors())
        raise HttpError(422, f"That cannot happen: {said}.") from None


def _play(request: AccountRequest, given: RehearseIn) -> tuple[Facts, datetime, Rehearsal, list[str]]:
    """The facts, the start, what was played, and what a scenario expected otherwise."""
    account = account_facts(request.account)
    if given.scenario:
        scenario = next((one for one in given.document.scenarios if one.name == given.scenario), None)
        if scenario is None:
            raise HttpError(404, "The draft has no scenario of this name.")
        verdict = play(given.document, scenario, account)
        start = to_instant(scenario.start, scenario.contact.zone or scenario.zone)
        facts = Facts(scenario.contact.facts(start, scenario.zone), account)
        return facts, start, verdict.rehearsal, list(verdict.failures)
    facts = facts_for(request, given.contact_id, given.invented)
    start = start_of(request, given.start)
    events = [(at, event) for at, event, _ in moved(facts, start, given.moves)]
    answers = _answers(given, facts, start)
    played = rehearse(given.document, facts, start, events, answers=answers, to_the_end=given.to_the_end)
    return facts, start, played, []


def _answers(given: RehearseIn, facts: Facts, start: datetime) -> dict[str, Answers]:
    someone = some_contact(facts.contact, facts.account.zone, start)

    def answer(one: AnswerIn) -> Answer:
        happens = event_of(_act_of(one.act), someone, start, facts.zone) if one.act is not None else None
        return Answer(happens, one.after)

    return {
        step: answer(said) if isinstance(said, AnswerIn) else [answer(one) for one in said[:MOST_ANSWERS]]
        for step, said in given.answers.items()
    }


def _given(given: RehearseIn, step: str, number: int) -> AnswerIn:
    said = given.answers[step]
    return said if isinstance(said, AnswerIn) else said[number]


@router.post("rehearse", response=Rehearsed)
def rehearse_workflow(request: AccountRequest, account: Path[str], given: RehearseIn) -> Rehearsed:
    """Plays the document through; stops at the first wait that has no answer yet, unless it goes to the end."""
    facts, start, played, failures = _play(request, given)
    zone = facts.zone
    steps = {step.id: step for step in walk(given.document.steps)}
    waits = played.state.arrived or start
    return Rehearsed(
        contact=facts.contact.name,
        start=to_local(start, zone).isoformat(timespec="minutes"),
        lines=_lines(played, facts, start),
        awaits=played.awaits,
        offers=[
            OfferOut(words=one.words, act=_as_json(one.act))
            for one in (offers(steps[played.awaits], to_local(waits, zone)) if played.awaits else ())
        ],
        dates=dates(given.document, facts, start),
        ended=played.state.ended,
        tags=sorted(played.contact.tags),
        failures=failures,
    )


def _as_json(act: Any) -> dict[str, Any] | None:
    if act is None:
        return None
    return {name: value.isoformat() if isinstance(value, datetime) else value for name, value in act.items()}


def _lines(played: Rehearsal, facts: Facts, start: datetime) -> list[RehearsedLine]:
    zone = facts.zone
    first = to_local(start, zone).date()
    lines: list[RehearsedLine] = []
    for happened in played.moments:
        local = to_local(happened.at, zone)
        for step in dict.fromkeys(reason.step for reason in happened.reasons):
            effects = [effect for effect in happened.effects if effect.step == step]
            lines.append(
                RehearsedLine(
                    step=step,
                    at=local.isoformat(timespec="minutes"),
                    when=moment(happened.at, zone),
                    day=(local.date() - first).days,
                    what=signal_words(happened.signal),
                    reasons=[reason.sentence for reason in happened.reasons if reason.step == step],
                    messages=[
                        RehearsedMessage(
                            channel=e.channel,
                            name=e.name,
                            subject=e.subject,
                            body=e.body,
                            below=closing_for(facts, e.channel, e.body).strip(),
                            parts=measure(e.body + closing_for(facts, e.channel, e.body)).parts,
                        )
                        for e in effects
                        if isinstance(e, SendMessage)
                    ],
                    tasks=[f"{e.title}: {e.say}" if e.say else e.title for e in effects if isinstance(e, MakeTask)],
                )
            )
    return lines


@router.post("rehearse/keep", response=Kept)
def keep_as_scenario(request: AccountRequest, account: Path[str], given: RehearseIn, name: str) -> Kept:
    """The rehearsal, to its end, as a scenario that expects what came of it. The page puts it into the draft."""
    facts, start, played, _ = _play(request, given.model_copy(update={"to_the_end": True}))
    acts = [(at, _act_of(_given(given, step, number).act or {})) for at, step, number in played.given]
    acts += [(at, act) for at, _, act in moved(facts, start, given.moves)]
    acts.sort(key=lambda one: one[0])
    made = kept(name[:200], facts.contact, played, start, request.account.zone, acts)
    same = (one.name for one in given.document.scenarios if one.model_copy(update={"name": made.name}) == made)
    return Kept(scenario=made, already=next(same, ""))


@router.post("scenarios", response=Verdicts)
def play_scenarios(request: AccountRequest, account: Path[str], document: Document) -> Verdicts:
    """Every scenario of the document, played and judged."""
    own = account_facts(request.account)
    verdicts = [play(document, scenario, own) for scenario in document.scenarios]
    return Verdicts(
        verdicts=[
            ScenarioVerdict(
                name=one.scenario,
                failures=list(one.failures),
                day=(one.rehearsal.moments[-1].at - one.rehearsal.moments[0].at).days if one.rehearsal.moments else 0,
                reached=sorted(one.reached),
            )
            for one in verdicts
        ],
        not_reached=not_reached(document, verdicts) if verdicts else [],
    )


@router.post("typical", response=TypicalOut)
def typical_few(request: AccountRequest, account: Path[str], given: RehearseIn) -> TypicalOut:
    """A few real contacts with whom each line is seen that somebody comes to by who they are; they are only read."""
    newest = Contact.objects.filter(account=request.account).order_by("-added_at", "-id")
    names = {row.id: row.name for row in newest[:LOOKED_AT]}
    start = start_of(request, given.start)
    reached: dict[str, set[str]] = {}
    for id, facts in load_facts(request.account, names).items():
        played = rehearse(given.document, facts, start)
        reached[str(id)] = {reason.step for one in played.moments for reason in one.reasons if reason.step}
    seen = frozenset().union(*reached.values())
    return TypicalOut(
        rows=[
            TypicalRow(contact_id=int(one.who), contact=names[int(one.who)], alike=one.alike, shows=list(one.shows))
            for one in typical(dict(sorted(reached.items(), key=lambda row: -int(row[0]))))
        ],
        looked_at=len(names),
        unseen=[step.id for step in walk(given.document.steps) if step.id not in seen],
    )


@router.get("moments", response=list[Moment])
def telling_moments(request: AccountRequest, account: Path[str]) -> list[Moment]:
    """Moments from which a rehearsal tells most: local times of the account."""
    zone, now = request.account.zone, clock.now()
    local = to_local(now, zone).replace(tzinfo=None, second=0, microsecond=0)
    friday = (local + timedelta(days=(4 - local.weekday()) % 7)).replace(hour=18, minute=0)
    if friday <= local:
        friday += timedelta(days=7)
    found = [("now", local), ("on Friday evening", friday)]
    if change := next_clock_change(now, zone):
        found.append(
            (
                "the day before the clocks change",
                datetime(change.year, change.month, change.day, 12) - timedelta(days=1),  # noqa: DTZ001  # a local time
            )
        )
    return [Moment(words=words, start=at.isoformat(timespec="minutes")) for words, at in found]


# ---- the whole series to oneself


@router.post("own-copies", response=CopiesOut)
def series_to_oneself(request: AccountRequest, account: Path[str], given: SeriesIn) -> CopiesOut:
    """Every message of the rehearsal, to its end, to one's own phone and mailbox: marked as a test, counted nowhere."""
    require(request, "workflows")
    workflow = workflow_of(request, given.workflow_id)
    _, _, played, _ = _play(request, given.model_copy(update={"to_the_end": True}))
    messages = [message for _, message in played.messages]
    try:
        testing.series(request.account, request.person, workflow.id, messages, timedelta(seconds=given.apart))
    except testing.NotSent as error:
        raise HttpError(422, f"Nothing is sent: {error}") from None
    return own_copies(request, account)


@router.get("own-copies", response=CopiesOut)
def own_copies(request: AccountRequest, account: Path[str]) -> CopiesOut:
    rows = OwnCopy.objects.filter(account=request.account, person=request.person).order_by("number")
    return CopiesOut(
        to=[one for one in (as_written(request.person.phone, request.account.region), request.person.email) if one],
        copies=[
            CopyOut(
                number=one.number + 1,
                channel=one.channel,
                name=one.name or one.subject,
                due=moment(one.due_at, request.account.zone) if one.due_at else "",
                gone=one.gone_at is not None,
                fault=one.fault,
            )
            for one in rows
        ],
    )


@router.post("own-copies/stop", response=CopiesOut)
def stop_own_copies(request: AccountRequest, account: Path[str]) -> CopiesOut:
    """What has not gone yet does not go."""
    testing.stop_series(request.account, request.person)
    return own_copies(request, account)
