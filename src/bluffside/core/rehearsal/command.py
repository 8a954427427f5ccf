"""`./bluffside rehearse`: the plan and outcome of a rehearsal, from files alone, with no database.

    ./bluffside rehearse WORKFLOW.yaml --contact CONTACT.json --start 2026-03-02T09:00 --zone Europe/London
                         [--events EVENTS.json] [--json]

WORKFLOW   a workflow document, JSON or YAML (docs/workflow.schema.json)
CONTACT    {"first_name": "Ada", "mobile": "+447700900123", "tags": ["new"], "account": {...}, "member": {...}};
           "account" and "member" may be left out
EVENTS     [{"after": "3 hours", "reply": "yes"}, {"at": "2026-03-05T10:00", "reply": "stop", "channel": "text"},
            {"after": "P2D", "remove": "moved away"}]; "after" counts from the start, "at" is local time

Exit codes: 0 it ran, 2 a file or an option cannot be read (the message names the place).
"""

import argparse
import json
import sys
from dataclasses import asdict, fields
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from bluffside.core.engine.effects import AddNote, AddTag, Effect, MakeTask, RemoveTag, SendMessage
from bluffside.core.engine.signals import Joined, Removed, Replied, Signal
from bluffside.core.facts import CHANNELS, Account, Contact, Facts, Member
from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.rehearse import Rehearsal, rehearse
from bluffside.core.timing.durations import after, parse_elapsed
from bluffside.core.timing.local import to_instant, to_local, zone_of
from bluffside.core.timing.words import moment
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import BadFile, read_workflow

Made = TypeVar("Made", Account, Contact, Member)


class BadInput(ValueError):
    """Something given on the command line that cannot be read, in words."""


def main(arguments: list[str]) -> int:
    options = _options().parse_args(arguments)
    try:
        workflow = read_workflow(_text(options.workflow))
        zone_of(options.zone)
        facts = _facts(_data(options.contact), options.zone)
        joined = _instant(options.start, facts.zone)
        events = _events(_data(options.events), joined, facts.zone) if options.events else []
        played = rehearse(workflow, facts, joined, events)
    except BadFile as error:
        print(f"{options.workflow} is not a workflow:", *error.faults, sep="\n  ", file=sys.stderr)
        return 2
    except (BadInput, BadTemplate, ValueError) as error:
        print(f"rehearse: {error}", file=sys.stderr)
        return 2
    report = to_report(workflow, played, facts.zone)
    print(json.dumps(report, indent=2, ensure_ascii=False) if options.json else in_words(report))
    return 0


def _options() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="bluffside rehearse", description="Plays a workflow through from files alone."
    )
    parser.add_argument("workflow", help="a workflow document, JSON or YAML")
    parser.add_argument("--contact", required=True, help="a JSON file with the contact")
    parser.add_argument("--start", required=True, help="local time of joining, like 2026-03-02T09:00")
    parser.add_argument("--zone", required=True, help="the account's time zone, like Europe/London")
    parser.add_argument("--events", help="a JSON file with what the contact does, and when")
    parser.add_argument("--json", action="store_true", help="print JSON instead of words")
    return parser


def _text(path: str) -> str:
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"{path} cannot be read: {error}") from None


def _data(path: str) -> Any:
    try:
        return json.loads(_text(path))
    except json.JSONDecodeError as error:
        raise BadInput(f"{path} is not JSON: {error}") from None


def _made(kind: type[Made], data: Any, what: str) -> Made:
    known = {one.name for one in fields(kind)}
    if not isinstance(data, dict) or set(data) - known:
        raise BadInput(f"{what} takes {', '.join(sorted(known))}")
    return kind(**data)


def _facts(data: Any, zone: str) -> Facts:
    if not isinstance(data, dict):
        raise BadInput("the contact's file holds one JSON object")
    data = dict(data)
    account = _made(Account, {"zone": zone} | data.pop("account", {}), "an account")
    member = _made(Member, data.pop("member", {}), "a member")
    for name in ("tags", "opted_out"):
        data[name] = frozenset(data.get(name, ()))
    contact = _made(Contact, data, "a contact")
    zone_of(contact.zone or account.zone)
    return Facts(contact, account, member)


def _instant(text: str, zone: str) -> datetime:
    """A local time, or one with its own offset."""
    try:
        read = datetime.fromisoformat(text)
    except ValueError:
        raise BadInput(f"“{text}” is not a time; write one like 2026-03-02T09:00") from None
    return read.astimezone(UTC) if read.tzinfo else to_instant(read, zone)


def _events(data: Any, joined: datetime, zone: str) -> list[tuple[datetime, Replied | Removed]]:
    if not isinstance(data, list):
        raise BadInput("the events' file holds a JSON list")
    events: list[tuple[datetime, Replied | Removed]] = []
    for number, event in enumerate(data, start=1):
        place = f"event {number}"
        if not isinstance(event, dict) or ("at" in event) == ("after" in event):
            raise BadInput(f"{place} needs “at” (a local time) or “after” (like “3 hours”), one of them")
        if unknown := set(event) - {"at", "after", "reply", "channel", "remove"}:
            raise BadInput(f"{place} has “{min(unknown)}”, which is not known")
        if ("reply" in event) == ("remove" in event):
            raise BadInput(f"{place} needs “reply” (what is said) or “remove” (why), one of them")
        at = _instant(event["at"], zone) if "at" in event else after(joined, parse_elapsed(event["after"]), zone)
        channel = event.get("channel", "text")
        if channel not in CHANNELS:
            raise BadInput(f"{place} has the channel “{channel}”; there are {' and '.join(CHANNELS)}")
        events.append((at, Replied(event["reply"], channel) if "reply" in event else Removed(event["remove"])))
    return events


def effect_data(effect: Effect) -> dict[str, Any]:
    """An effect as data, with what it is in `does`."""
    names = {SendMessage: "send", AddTag: "tag", RemoveTag: "untag", AddNote: "note", MakeTask: "task"}
    return {"does": names[type(effect)], **asdict(effect)}


def signal_words(signal: Signal) -> str:
    match signal:
        case Joined():
            return "joins"
        case Replied(text, channel):
            return f"replies by {channel}: “{text}”"
        case Removed(why):
            return f"is taken out: {why}"
    return "time has come"


def to_report(workflow: Workflow, played: Rehearsal, zone: str) -> dict[str, Any]:
    """The whole rehearsal as data: every moment with its effects and reasons, and how it came out."""
    first = to_local(played.moments[0].at, zone).date()
    contact = asdict(played.contact)
    return {
        "workflow": workflow.name,
        "zone": zone,
        "plan": [
            {
                "at": moment_.at.isoformat(),
                "local": to_local(moment_.at, zone).isoformat(timespec="minutes"),
                "day": (to_local(moment_.at, zone).date() - first).days,
                "when": moment(moment_.at, zone),
                "what": signal_words(moment_.signal),
                "effects": [effect_data(effect) for effect in moment_.effects],
                "reasons": [
                    {"step": reason.step, "sentence": reason.sentence, "values": dict(reason.values)}
                    for reason in moment_.reasons
                ],
            }
            for moment_ in played.moments
        ],
        "outcome": {
            "ended": played.state.ended,
            "place": played.state.place,
            "messages": len(played.messages),
            "contact": contact | {name: sorted(contact[name]) for name in ("tags", "opted_out")},
        },
        "checks": [asdict(one) for one in check(workflow)],
    }


def in_words(report: dict[str, Any]) -> str:
    lines = [report["workflow"], ""]
    for happened in report["plan"]:
        lines.append(f"Day {happened['day']:<3} {happened['when']}  {happened['what']}")
        lines += [f"    {reason['sentence']}" for reason in happened["reasons"]]
        lines += [
            f"      | {row}" for e in happened["effects"] if e["does"] == "send" for row in e["body"].splitlines()
        ]
    outcome = report["outcome"]
    tags = ", ".join(outcome["contact"]["tags"]) or "none"
    lines += [
        "",
        f"{outcome['messages']} messages. Tags: {tags}. {'Ended: ' + outcome['ended'] if outcome['ended'] else 'Still inside'}.",
    ]
    lines += [f"Check ({one['severity']}): {one['sentence']}" for one in report["checks"]]
    return "\n".join(lines)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
