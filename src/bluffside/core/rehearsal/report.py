"""A rehearsal, and the verdicts on scenarios, as data and as words."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, fields
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Any

from bluffside.core.engine.effect_names import DOES
from bluffside.core.engine.effects import Effect
from bluffside.core.engine.signals import Happened, Joined, Removed, Replied, Signal
from bluffside.core.facts import Contact
from bluffside.core.rehearsal.rehearse import Rehearsal
from bluffside.core.rehearsal.scenarios import Verdict
from bluffside.core.timing.local import to_local
from bluffside.core.words import moment
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.document import Workflow


def plain_data(value: Any) -> Any:
    """A value as JSON can hold it."""
    if isinstance(value, datetime | date):
        return value.isoformat()
    if isinstance(value, timedelta):
        return value.total_seconds()
    if isinstance(value, Decimal):
        return str(value)
    if isinstance(value, frozenset | set):
        return sorted(plain_data(one) for one in value)
    if isinstance(value, Mapping):
        return {str(key): plain_data(one) for key, one in value.items()}
    if isinstance(value, tuple | list):
        return [plain_data(one) for one in value]
    if hasattr(value, "__dataclass_fields__"):
        return {one.name: plain_data(getattr(value, one.name)) for one in fields(value)}
    return value


def effect_data(effect: Effect) -> dict[str, Any]:
    """An effect as data, with what it is in `does`."""
    return {"does": DOES[type(effect)], **plain_data(effect)}


def signal_words(signal: Signal) -> str:
    match signal:
        case Joined():
            return "joins"
        case Replied(text=text, channel=channel):
            return f"replies by {channel}: “{text}”"
        case Happened(event=event):
            return f"{event.kind.replace('.', ' ')} {event.subject}".strip()
        case Removed(why=why):
            return f"is taken out: {why}"
    return "time has come"


def contact_data(contact: Contact) -> dict[str, Any]:
    data: dict[str, Any] = plain_data(contact)
    del data["happened"]
    return data | {"opted_out": sorted(contact.opted_out)}


def to_report(workflow: Workflow, played: Rehearsal, zone: str) -> dict[str, Any]:
    """The whole rehearsal as data: every moment with its effects and reasons, and how it came out."""
    first = to_local(played.moments[0].at, zone).date()
    return {
        "workflow": workflow.name,
        "zone": zone,
        "plan": [
            {
                "at": one.at.isoformat(),
                "local": to_local(one.at, zone).isoformat(timespec="minutes"),
                "day": (to_local(one.at, zone).date() - first).days,
                "when": moment(one.at, zone, played.moments[0].at),
                "workflow": one.workflow,
                "what": signal_words(one.signal),
                "effects": [
                    effect_data(effect) | ({"goes": one.goes[number].isoformat()} if number in one.goes else {})
                    for number, effect in enumerate(one.effects)
                ],
                "reasons": [
                    {"step": reason.step, "sentence": reason.sentence, "values": dict(reason.values)}
                    for reason in one.reasons
                ],
            }
            for one in played.moments
        ],
        "outcome": {
            "aim": played.reached.isoformat() if played.reached else "",
            "ended": played.state.ended,
            "place": played.state.place,
            "messages": len(played.messages),
            "contact": contact_data(played.contact),
        },
        "checks": [asdict(one) for one in check(workflow)],
    }


def in_words(report: dict[str, Any]) -> str:
    lines = [report["workflow"], ""]
    for happened in report["plan"]:
        where = "" if happened["workflow"] == report["workflow"] else f" [{happened['workflow']}]"
        lines.append(f"Day {happened['day']:<3} {happened['when']}  {happened['what']}{where}")
        lines += [f"    {reason['sentence']}" for reason in happened["reasons"]]
        lines += [
            f"      | {row}" for e in happened["effects"] if e["does"] == "send" for row in e["body"].splitlines()
        ]
    outcome = report["outcome"]
    tags = ", ".join(outcome["contact"]["tags"]) or "none"
    ended = f"Ended: {outcome['ended']}" if outcome["ended"] else "Still inside"
    lines += ["", f"{outcome['messages']} messages. Tags: {tags}. {ended}."]
    lines += [f"Check ({one['severity']}): {one['sentence']}" for one in report["checks"]]
    return "\n".join(lines)


def verdict_words(verdicts: Sequence[Verdict]) -> str:
    """One line for each scenario, with its failures below."""
    lines = []
    for verdict in verdicts:
        lines.append(f"  {'passed' if verdict.passed else 'FAILED'}  {verdict.scenario}")
        lines += [f"          {failure}" for failure in verdict.failures]
    return "\n".join(lines)
