"""`./bluffside rehearse`: rehearsals and scenarios, from files alone, with no database.

    ./bluffside rehearse PATH… [--account ACCOUNT.json] [--json]
        plays every scenario of each workflow file, and of those in each folder; workflows in one folder can
        start one another, and hand over

    ./bluffside rehearse WORKFLOW --contact CONTACT.json --start 2026-03-02T09:00 --zone Europe/London
                         [--events EVENTS.json] [--account ACCOUNT.json] [--json]
        plays one contact through one workflow, and prints the plan and the outcome with every reason

WORKFLOW   a workflow document, JSON or YAML (docs/workflow.schema.json)
CONTACT    {"first_name": "Ada", "mobile": "+447700900123", "tags": ["new"], "fields": {…}, "appointments": […]},
           as in a scenario; "account" and "member" may stand in it, too
EVENTS     [{"after": "3 hours", "reply": "yes"}, {"at": "2026-03-05T10:00", "reply": "stop", "channel": "text"},
            {"after": "P2D", "remove": "moved away"}], as in a scenario; "after" counts from the start
ACCOUNT    {"name": …, "zone": …, "care": {…}, "score": {…}}: the house's care is kept, and points are given by its
           rules for the lead score (core/care/house.py, core/scoring/rules.py)

Exit codes, fit for a build server:
    0   everything that was asked for ran, and every scenario passed
    1   a scenario failed, or a workflow has an error that keeps it from being published
    2   a file or an option cannot be read (the message names the place)
    3   there was no scenario to play
"""

import argparse
import json
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError

from bluffside.core.care.house import Care
from bluffside.core.document_part import DocumentPart
from bluffside.core.facts import Account, Facts, Member
from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.rehearse import rehearse
from bluffside.core.rehearsal.report import in_words, to_report, verdict_words
from bluffside.core.rehearsal.scenarios import Verdict, event_of, moment_of, not_reached, play_all
from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.timing.local import to_instant, zone_of
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.document import Workflow
from bluffside.core.workflow.files import faults_in_words, on_line, place_of, read_workflow
from bluffside.core.workflow.plain_data import BadFile, lines_of, read_data
from bluffside.core.workflow.program import GoesRoundTooOften
from bluffside.core.workflow.scenario import Act, SomeContact, Zone

PASSED, FAILED, UNREADABLE, NOTHING = 0, 1, 2, 3
SUFFIXES = (".yaml", ".yml", ".json")
Part = TypeVar("Part", bound=DocumentPart)


class BadInput(ValueError):
    """Something given on the command line that cannot be read, in words."""


def main(arguments: list[str]) -> int:
    options = _options().parse_args(arguments)
    try:
        return _one(options) if options.contact else _scenarios(options)
    except (BadInput, ValueError) as error:
        print(f"rehearse: {error}", file=sys.stderr)
        return UNREADABLE


def _options() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="bluffside rehearse", description="Plays workflows through from files alone: scenarios, or one contact."
    )
    parser.add_argument("paths", nargs="+", help="workflow documents, JSON or YAML, or folders of them")
    parser.add_argument("--contact", help="a JSON file with a contact: plays it through one workflow")
    parser.add_argument("--start", help="local time of joining, like 2026-03-02T09:00")
    parser.add_argument("--zone", help="the account's time zone, like Europe/London")
    parser.add_argument("--events", help="a JSON file with what happens to the contact, and when")
    parser.add_argument("--account", help="a JSON file with the account: its details and its care")
    parser.add_argument("--json", action="store_true", help="print JSON instead of words")
    return parser


# ---- all scenarios


def _scenarios(options: argparse.Namespace) -> int:
    account, rules = _account(_object(options.account, "account")) if options.account else (None, None)
    report, code, played = [], PASSED, 0
    for folder in _found(options.paths):
        workflows = {path: _workflow(path) for path in folder}
        for path, workflow in workflows.items():
            others = [other for other in workflows.values() if other.name != workflow.name]
            errors = [one.sentence for one in check(workflow) if one.severity == "error"]
            with _placed(path):
                verdicts = play_all(workflow, account, others, rules)
            played += len(verdicts)
            if errors or not all(verdict.passed for verdict in verdicts):
                code = FAILED
            report.append(_file_report(path, workflow, verdicts, errors))
            if not options.json and (verdicts or errors):
                print(_file_words(path, workflow, verdicts, errors))
    if options.json:
        print(json.dumps(report, indent=2, ensure_ascii=False))
    elif not played and code == PASSED:
        print("There is no scenario in these files.")
    else:
        failed = sum(bool(one["failures"]) for file in report for one in file["scenarios"])
        print(f"{played} scenarios played, {failed} failed.")
    return NOTHING if not played and code == PASSED else code


def _file_report(path: Path, workflow: Workflow, verdicts: Sequence[Verdict], errors: Sequence[str]) -> dict[str, Any]:
    return {
        "file": str(path),
        "workflow": workflow.name,
        "errors": list(errors),
        "scenarios": [{"name": one.scenario, "failures": list(one.failures)} for one in verdicts],
        "not_reached": not_reached(workflow, verdicts),
    }


def _file_words(path: Path, workflow: Workflow, verdicts: Sequence[Verdict], errors: Sequence[str]) -> str:
    lines = [f"{workflow.name} ({path})", *(f"  ERROR   {error}" for error in errors)]
    if verdicts:
        lines.append(verdict_words(verdicts))
        missed = not_reached(workflow, verdicts)
        if missed:
            lines.append(f"          no scenario comes to: {', '.join(missed)}")
    return "\n".join(lines)


def _found(paths: Sequence[str]) -> list[list[Path]]:
    """Workflow files that belong together: those of one folder, and those named one by one."""
    groups: list[list[Path]] = []
    named = [Path(path) for path in paths if not Path(path).is_dir()]
    if named:
        groups.append(named)
    for folder in (Path(path) for path in paths if Path(path).is_dir()):
        below = sorted(path for path in folder.rglob("*") if path.suffix in SUFFIXES and path.is_file())
        if not below:
            raise BadInput(f"there is no workflow file in {folder}")
        by_folder: dict[Path, list[Path]] = {}
        for path in below:
            by_folder.setdefault(path.parent, []).append(path)
        groups += by_folder.values()
    return groups


def _workflow(path: Path) -> Workflow:
    try:
        return read_workflow(_text(path))
    except BadFile as error:
        raise BadInput("\n  ".join([f"{path} is not a workflow:", *error.faults])) from None


@contextmanager
def _placed(path: Path) -> Iterator[None]:
    """Says in which file, and on which line of it, something stands that cannot be played."""
    try:
        yield
    except BadTemplate as error:
        text = _text(path)
        line = on_line(place_of(error.step, read_data(text)), lines_of(text))
        raise BadInput(f"{path}, {line}“{error.step}”: the message {error}.") from None
    except GoesRoundTooOften as error:
        raise BadInput(f"{path}: {error}.") from None


# ---- one contact


def _one(options: argparse.Namespace) -> int:
    if len(options.paths) != 1 or not options.start or not options.zone:
        raise BadInput("with --contact, give one workflow, --start and --zone")
    zone_of(options.zone)
    workflow = _workflow(Path(options.paths[0]))
    data = _object(options.contact, "contact")
    given = _object(options.account, "account") if options.account else {}
    said = data.pop("account", {})
    if not isinstance(said, dict):
        raise BadInput(f"{options.contact}: the contact's account is an object")
    home, rules = _account({"zone": options.zone} | given | said)
    member = _part(SomeMember, data.pop("member", {}), "the member").member()
    contact = _part(SomeContact, data, "the contact")
    zone = contact.zone or home.zone
    start = _instant(options.start, zone)
    acts = _acts(_data(options.events)) if options.events else []
    events = [(moment_of(act, start, zone), event_of(act, contact, start, zone)) for act in acts]
    facts = Facts(contact.facts(start, home.zone), home, member)
    with _placed(Path(options.paths[0])):
        played = rehearse(workflow, facts, start, events, rules=rules)
    report = to_report(workflow, played, zone)
    print(json.dumps(report, indent=2, ensure_ascii=False) if options.json else in_words(report))
    return PASSED


def _acts(data: Any) -> list[Act]:
    if not isinstance(data, list):
        raise BadInput("the events' file holds a JSON list")
    return [_part(Act, one, f"event {number}") for number, one in enumerate(data, start=1)]


def _instant(text: str, zone: str) -> datetime:
    """A local time, or one with its own offset."""
    try:
        read = datetime.fromisoformat(text)
    except ValueError:
        raise BadInput(f"“{text}” is not a time; write one like 2026-03-02T09:00") from None
    return read.astimezone(UTC) if read.tzinfo else to_instant(read, zone)


# ---- files


def _text(path: Path | str) -> str:
    try:
        return Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"{path} cannot be read: {error}") from None


def _data(path: str) -> Any:
    """What a file of JSON (or YAML) holds."""
    try:
        return read_data(_text(path))
    except BadFile as error:
        raise BadInput(f"{path}: {error}") from None


def _object(path: str, what: str) -> dict[str, Any]:
    data = _data(path)
    if not isinstance(data, dict):
        raise BadInput(f"{path}: the {what}'s file holds one object")
    return data


def _part(kind: type[Part], data: Any, what: str) -> Part:
    try:
        return kind.model_validate(data)
    except ValidationError as error:
        raise BadInput(f"{what}: {'; '.join(faults_in_words(error, data))}") from None


class SomeMember(DocumentPart):
    """A member of the team, as files describe one."""

    first_name: str = ""
    name: str = ""
    phone: str = ""
    signature: str = ""

    def member(self) -> Member:
        return Member(self.first_name, self.name, self.phone, self.signature)


class SomeAccount(DocumentPart):
    """An account, as files describe one."""

    name: str = ""
    zone: Zone = "UTC"
    phone: str = ""
    booking_link: str = ""
    signature: str = ""
    care: Care = Care()
    score: ScoreRules | None = None


def _account(data: Any) -> tuple[Account, ScoreRules | None]:
    one = _part(SomeAccount, data, "the account")
    return Account(one.name, one.zone, one.phone, one.booking_link, one.signature, one.care), one.score


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
