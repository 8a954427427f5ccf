"""The scenarios of a document, played and judged. A failed expectation reads like a sentence:

Expected: “Thanks” goes out by text by day 0, after tagged “keen”. It came on day 2 at 09:00.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from bluffside.core.engine.effect_names import DOES
from bluffside.core.engine.effects import (
    AddNote,
    AddTag,
    CreateDeal,
    Effect,
    HandOver,
    MakeTask,
    MoveDeal,
    RemoveTag,
    SendMessage,
    SetField,
)
from bluffside.core.engine.signals import Removed, Replied
from bluffside.core.engine.state import State
from bluffside.core.events import Event
from bluffside.core.facts import Account, Facts, Member
from bluffside.core.rehearsal.moments import Moment
from bluffside.core.rehearsal.rehearse import Rehearsal, rehearse
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.timing.durations import after, parse_elapsed
from bluffside.core.timing.local import to_instant, to_local
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.scenario import Act, Expect, Scenario, SomeContact, field_value


@dataclass(frozen=True, slots=True)
class Verdict:
    """How a scenario came out: `failures` are sentences, none when all it expects came true; `reached` the lines it
    came to."""

    scenario: str
    failures: tuple[str, ...]
    reached: frozenset[str]
    rehearsal: Rehearsal

    @property
    def passed(self) -> bool:
        return not self.failures


def play(
    workflow: Workflow,
    scenario: Scenario,
    account: Account | None = None,
    others: Sequence[Workflow] = (),
    member: Member | None = None,
    rules: ScoreRules | None = None,
) -> Verdict:
    """Plays one scenario and judges it. `account` gives the care and the details; its zone is the scenario's. `rules`
    are the account's for the lead score."""
    base = account or Account()
    home = Account(
        base.name, scenario.zone, base.phone, base.booking_link, base.signature, base.care, assistant=base.assistant
    )
    zone = scenario.contact.zone or scenario.zone
    start = to_instant(scenario.start, zone)
    contact = scenario.contact.facts(start, scenario.zone)
    facts = Facts(contact, home, member or Member())
    events = [(moment_of(act, start, zone), event_of(act, scenario.contact, start, zone)) for act in scenario.events]
    played = rehearse(workflow, facts, start, events, others=others, about=scenario.about, rules=rules)
    failures = tuple(_failures(scenario, played, start, zone))
    own = [moment for moment in played.moments if moment.workflow == workflow.name]
    reached = frozenset(reason.step for moment in own for reason in moment.reasons if reason.step)
    return Verdict(scenario.name, failures, reached, played)


def play_all(
    workflow: Workflow,
    account: Account | None = None,
    others: Sequence[Workflow] = (),
    rules: ScoreRules | None = None,
) -> list[Verdict]:
    return [play(workflow, scenario, account, others, rules=rules) for scenario in workflow.scenarios]


# ---- what happens in it


def moment_of(act: Act, start: datetime, zone: str) -> datetime:
    return to_instant(act.at, zone) if act.at else after(start, parse_elapsed(act.after), zone)


Happening = Event | Replied | Removed


def event_of(act: Act, contact: SomeContact, start: datetime, zone: str) -> Happening:
    """What an act of a scenario is to the engine; its instant is that of `moment_of`."""
    if act.what == "reply":
        return Replied(act.reply or "", act.channel, act.message)
    if act.what == "remove":
        return Removed(act.remove or "taken out")
    kind, data = _event_data(act, contact, zone)
    return Event(kind, moment_of(act, start, zone), data, act.by)


def _event_data(act: Act, contact: SomeContact, zone: str) -> tuple[str, Mapping[str, Any]]:
    match act.what:
        case "click":
            return "link.clicked", {"message": act.click, "url": act.url}
        case "form":
            return "form.sent", {"form": act.form}
        case "keyword":
            return "keyword.texted", {"keyword": (act.keyword or "").casefold()}
        case "tag" | "untag":
            kind = "tag.added" if act.what == "tag" else "tag.removed"
            return kind, {"tag": act.tag if act.what == "tag" else act.untag}
        case "lead":
            return "lead.received", {"source": act.lead}
        case "buys":
            return "purchase.made", {"item": act.buys, "amount": str(act.amount)}
        case "list":
            return "list.joined", {"list": act.list}
        case "field":
            return "field.changed", {"field": act.field, "old": "", "new": field_value(act.to)}
        case "stage" | "won" | "lost" | "rests":
            return _deal_data(act)
        case "bounce":
            return "message.bounced", {"channel": act.bounce, "message": act.message}
        case "outcome":
            return "task.done", {"step": act.step, "outcome": act.outcome, "task": "call"}
        case "read":
            return "reply.read", {"channel": act.channel, "wants_out": act.read == "out"}
        case "opt_out":
            return "consent.withdrawn", {"channel": act.opt_out}
    return _appointment_data(act, contact, zone)


def _deal_data(act: Act) -> tuple[str, Mapping[str, Any]]:
    """Which deal it is about is found when it happens (see happening.named)."""
    kind = {"stage": "stage.changed", "rests": "deal.rested"}.get(act.what, f"deal.{act.what}")
    return kind, {"deal": "", "pipeline": act.pipeline, "stage": getattr(act, act.what), "old": ""}


def _appointment_data(act: Act, contact: SomeContact, zone: str) -> tuple[str, Mapping[str, Any]]:
    type = getattr(act, act.what)
    if act.what == "wait_for":
        return "appointment.waited_for", {"type": type}
    kind = {"book": "booked", "move": "moved", "cancel": "cancelled", "miss": "missed", "attend": "attended"}[act.what]
    ids = [one.id or f"appointment-{number}" for number, one in enumerate(contact.appointments, 1) if one.type == type]
    data = {"appointment": ids[0] if ids and act.what != "book" else f"booked-{type}", "type": type}
    if act.start:
        data["start"] = to_instant(act.start, zone)
    return f"appointment.{kind}", data


# ---- what is expected of it


@dataclass(frozen=True, slots=True)
class _Done:
    """One thing that was done, with its local time and the day it was counted from joining."""

    order: int
    effect: Effect | None
    day: int
    at: str

    def when(self) -> str:
        return f"on day {self.day} at {self.at}"


def _failures(scenario: Scenario, played: Rehearsal, start: datetime, zone: str) -> Iterator[str]:
    done = list(_all_done(played.moments, start, zone))
    gone = _gone(played, len(done), start, zone)
    since, last = -1, ""
    for expect in scenario.expect:
        if expect.what in ("not_sent", "inside", "gone", "aim"):
            aim = _done(0, None, played.reached, start, zone) if played.reached else None
            failure = (
                _aim_failure(expect, aim) if expect.what == "aim" else _state_failure(expect, done, gone, played.state)
            )
            if failure:
                yield f"Expected: {expect.describe()}. {failure}"
            continue
        fitting = [one for one in done if one.effect and _fits(expect, one.effect)]
        later = [one for one in fitting if one.order > since]
        found = next((one for one in later if _in_time(expect, one)), None)
        if found:
            since, last = found.order, expect.describe()
            continue
        then = f", after {last}" if last else ""
        yield f"Expected: {expect.describe()}{then}. {_instead(expect, fitting, later, done, gone)}"


def _all_done(moments: Sequence[Moment], start: datetime, zone: str) -> Iterator[_Done]:
    order = 0
    for moment in moments:
        for effect in moment.effects:
            yield _done(order, effect, moment.at, start, zone)
            order += 1


def _done(order: int, effect: Effect | None, at: datetime, start: datetime, zone: str) -> _Done:
    local = to_local(at, zone)
    return _Done(order, effect, (local.date() - to_local(start, zone).date()).days, f"{local:%H:%M}")


def _gone(played: Rehearsal, order: int, start: datetime, zone: str) -> _Done | None:
    if not played.state.ended or not played.moments:
        return None
    workflow = played.moments[0].workflow
    at = next(one.at for one in played.moments if one.workflow == workflow and one.state.ended)
    return _done(order, None, at, start, zone)


def _fits(expect: Expect, effect: Effect) -> bool:
    wanted = getattr(expect, expect.what)
    match effect:
        case SendMessage(name=name, channel=channel):
            return expect.what == "sent" and wanted in ("", name) and expect.by in (None, channel)
        case AddTag(tag=tag):
            return expect.what == "tagged" and tag == wanted
        case RemoveTag(tag=tag):
            return expect.what == "untagged" and tag == wanted
        case MakeTask(task=task, title=title):
            return expect.what == "task" and wanted in ("", task, title)
        case AddNote(text=text):
            return expect.what == "note" and wanted in ("", text)
        case SetField(field=field, value=value):
            return expect.what == "field" and field == wanted and str(value) == expect.to
        case MoveDeal(stage=stage) | CreateDeal(stage=stage):
            return expect.what == "stage" and stage == wanted
        case HandOver(workflow=workflow):
            return expect.what == "handed_over" and workflow == wanted
    return expect.what == "does" and DOES[type(effect)] == wanted


def _in_time(expect: Expect, done: _Done) -> bool:
    return (
        (expect.by_day is None or done.day <= expect.by_day)
        and (expect.on_day is None or done.day == expect.on_day)
        and (not expect.at or done.at == expect.at)
    )


def _state_failure(expect: Expect, done: Sequence[_Done], gone: _Done | None, state: State) -> str:
    """What is otherwise with an expectation on the whole; empty when it came true."""
    if expect.what == "inside":
        until = expect.on_day if expect.on_day is not None else expect.by_day
        left = gone if gone and (until is None or gone.day <= until) else None
        return f"The contact left {left.when()}: {state.ended}." if left else ""
    if expect.what == "gone":
        if gone is None:
            return f"The contact is still inside, at “{state.place}”."
        return "" if _in_time(expect, gone) else f"The contact left {gone.when()}: {state.ended}."
    for one in done:
        effect = one.effect
        if (
            isinstance(effect, SendMessage)
            and expect.not_sent in ("", effect.name)
            and expect.by in (None, effect.channel)
            and _in_time(expect, one)
        ):
            return f"“{effect.name}” went out by {effect.channel} {one.when()}."
    return ""


def _aim_failure(expect: Expect, aim: _Done | None) -> str:
    if aim is None:
        return "It was not reached." if expect.aim else ""
    return "" if _in_time(expect, aim) is expect.aim else f"It was reached {aim.when()}."


def _instead(
    expect: Expect, fitting: Sequence[_Done], later: Sequence[_Done], done: Sequence[_Done], gone: _Done | None
) -> str:
    if later:
        return f"It came {later[0].when()}."
    if fitting:
        return f"It came before that, {fitting[-1].when()}."
    by = expect.model_copy(update={"by": None})
    other = next((one.effect for one in done if one.effect and _fits(by, one.effect)), None)
    if isinstance(other, SendMessage):
        return f"It went out by {other.channel}."
    return f"It never came; the contact left {gone.when()}." if gone else "It never came."


def not_reached(workflow: Workflow, verdicts: Sequence[Verdict]) -> list[str]:
    """The lines that no scenario has come to, in the order of the script."""
    reached = frozenset().union(*(verdict.reached for verdict in verdicts))
    return [step.id for step in walk(workflow.steps) if step.id not in reached]
