"""Who may come in: the triggers with their conditions, then the entry rules; and who matches them already."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from bluffside.core.care.pause import share_of
from bluffside.core.conditions import AllOf, AnyOf, Case
from bluffside.core.engine.state import DEEPEST
from bluffside.core.engine.turn import NOTHING, Reason
from bluffside.core.events import Event
from bluffside.core.facts import Facts
from bluffside.core.triggers import Trigger
from bluffside.core.workflow.document import Entry, Workflow


@dataclass(frozen=True, slots=True)
class Before:
    """The last enrolment of a person, or of a deal of theirs, in the workflow: `ended` None while it runs."""

    ended: datetime | None


def started_by(workflow: Workflow, event: Event, case: Case) -> Trigger | None:
    """The first trigger that an event fires for somebody; None when it starts nothing."""
    return next((trigger for trigger in workflow.starts if trigger.admits(event, case)), None)


def once_for(entry: Entry, about: Mapping[str, str]) -> str:
    """The deal that an enrolment is the only one of its contact for; empty where it is the only one of the contact."""
    return about.get("deal", "") if entry.each == "deal" else ""


def why_not(entry: Entry, case: Case, before: Before | None) -> str:
    """Why somebody may not come in now, in words; empty when they may. `before` is None for who was never in."""
    if before is not None:
        if before.ended is None:
            return "inside already"
        if entry.again == "never":
            return f"was in it before, and {'no deal' if entry.each == 'deal' else 'nobody'} comes in twice"
        if entry.after and entry.after.after(before.ended, case.zone) > case.now:
            return f"left it less than {entry.after} ago"
    if entry.who and not entry.who.holds(case):
        return f"only who {entry.who.describe()}"
    return ""


HELD_BACK = "held back on purpose, to compare"


def is_held_back(entry: Entry, workflow: str, contact: str) -> bool:
    """Whether chance leaves somebody out who fits: the same person always, by whichever way they come. `workflow`: what it is known by
    however it is called."""
    return bool(entry.hold_back) and share_of("hold back", workflow, contact) * entry.hold_back < 1


def kept_out(entry: Entry, case: Case, before: Before | None, workflow: str) -> str:
    """Why somebody does not come in now, chance included; empty when they do."""
    held = is_held_back(entry, workflow, case.contact.id)
    return why_not(entry, case, before) or (HELD_BACK if held else "")


def chain_ends(workflow: str, zone: str) -> Reason:
    """Why a workflow does not start on what another did; said by the one that would have started it."""
    words = "“{}” does not start: {} workflows have led here, one by another."
    return Reason("", words, (workflow, DEEPEST), NOTHING, zone)


def already_matching(workflow: Workflow) -> AnyOf:
    """Who would have come in had the workflow been there before, as one condition (of none: nobody)."""
    by_start = []
    for start in workflow.starts:
        already = start.already()
        if already is not None:
            parts = (already, start.when, workflow.entry.who)
            by_start.append(AllOf(of=tuple(part for part in parts if part is not None)))
    return AnyOf(of=tuple(by_start))


def deals_matching(workflow: Workflow, facts: Facts, now: datetime) -> tuple[str, ...]:
    """For which deals somebody who matches already would have come in; for none (an empty name) where they match without
    one, or people come in and not deals."""
    matches, deals = already_matching(workflow), facts.contact.deals
    if workflow.entry.each == "person" or matches.holds(Case(facts.with_contact(deals=()), now)):
        return ("",)
    return tuple(one.id for one in deals if matches.holds(Case(facts.with_contact(deals=(one,)), now)))
