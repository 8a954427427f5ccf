"""The next messages of the library from one, by a list of words: what each would say, and all of them made at once, with a script that says
one after the other where that is wanted."""

from datetime import date, time, timedelta
from typing import Any, NamedTuple

from django.db import transaction
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field, ValidationError

from bluffside.core.messages.next_ones import BadList, next_name, next_one, swaps_of
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.core.workflow.library import message_of
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Person
from bluffside.server.practice.naming import NotAName, is_taken
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows import publishing_messages, writing
from bluffside.server.workflows.library import draft_of
from bluffside.server.workflows.messages_api import message_row
from bluffside.server.workflows.models import Sort, Workflow
from bluffside.server.workflows.replacing_api import MOST_SHOWN, TextChange

router = Router(tags=["messages"], auth=InAccount())


class NextIn(Schema):
    """`words`: the list (core.messages.next_ones)."""

    words: str = Field(max_length=50_000)


class NextOne(Schema):
    """A next message; `silent`: words of the list that this one does not say. `fault`: why it cannot be made."""

    name: str
    texts: list[TextChange]
    more: int
    silent: list[str]
    fault: str


class NextMake(NextIn):
    """`publish`: at once, each with its checks. `script`: the name of a script that says them on `first` and every so many days after, at `at`
    in the account's time; none when it is empty."""

    publish: bool = False
    script: str = Field(default="", max_length=120)
    first: date | None = None
    days: int = Field(default=7, ge=1, le=366)
    at: time = time(10)


class NextMade(Schema):
    """`script`: the id of the script that says them."""

    made: int
    script: int | None


class _Next(NamedTuple):
    name: str
    texts: list[tuple[str, str]]
    silent: list[str]
    line: Speaking | None
    fault: str


def _next_ones(request: AccountRequest, row: Workflow, words: str) -> list[_Next]:
    try:
        lists = swaps_of(words)
    except BadList as error:
        raise BadFields({"words": str(error)}) from None
    data: dict[str, Any] = to_data(draft_of(row))
    messages = Workflow.written.filter(sort=Sort.MESSAGE)
    found: list[_Next] = []
    for swaps in lists:
        name = " ".join(next_name(row.name, swaps).split())
        step, texts, silent = next_one(data["steps"][0], swaps)
        fault, line = "", None
        if len(name) > 120 or is_taken(messages, request.account, name) or any(one.name == name for one in found):
            fault = f"There is a message “{name}” already." if len(name) <= 120 else "Its name would be too long."
        try:
            line = message_of(parse_workflow(data | {"steps": [step]}))
        except ValidationError:
            fault = fault or "It would be longer than a message can be."
        found.append(_Next(name, list(texts), silent, line, fault))
    return found


@router.post("messages/{int:message_id}/next/plan", response=list[NextOne])
def next_plan(request: AccountRequest, account: Path[str], message_id: int, asked: NextIn) -> list[NextOne]:
    """What each would say; nothing is made."""
    return [
        NextOne(
            name=one.name,
            texts=[TextChange(before=before, after=after) for before, after in one.texts[:MOST_SHOWN]],
            more=max(0, len(one.texts) - MOST_SHOWN),
            silent=one.silent,
            fault=one.fault,
        )
        for one in _next_ones(request, message_row(request, message_id), asked.words)
    ]


@router.post("messages/{int:message_id}/next", response={201: NextMade})
def make_next(request: AccountRequest, account: Path[str], message_id: int, asked: NextMake) -> tuple[int, NextMade]:
    """All of them or none."""
    require(request, "workflows")
    row = message_row(request, message_id)
    found = _next_ones(request, row, asked.words)
    if faults := [f"“{one.name}”: {one.fault}" for one in found if one.fault]:
        raise BadFields({"words": f"Nothing was made. {' '.join(faults[:3])}"})
    if asked.script and asked.first is None:
        raise BadFields({"first": "From which day on?"})
    try:
        with transaction.atomic():
            for one in found:
                assert one.line is not None  # else it has a fault
                made = publishing_messages.create(request.account, one.name, one.line, request.person)
                made.labels = row.labels
                made.save(update_fields=["labels"])
                if asked.publish:
                    publishing_messages.publish(made, made.revision, request.person)
            script = _script(row, found, asked, request.person) if asked.script.strip() else None
    except NotAName as error:
        raise BadFields({"words": f"Nothing was made. {error}"}) from None
    except (writing.CannotPublish, publishing_messages.Objected) as error:
        raise HttpError(422, f"Nothing was made. {error}") from None
    return 201, NextMade(made=len(found), script=script.pk if script else None)


def _script(row: Workflow, found: list[_Next], asked: NextMake, by: Person) -> Workflow:
    """A draft that says them, a day each; nobody is in it, and nobody comes in until it is published and somebody brings them in."""
    steps: list[dict[str, Any]] = []
    for number, one in enumerate(found):
        day = (asked.first or date.min) + number * timedelta(days=asked.days)
        steps.append({"kind": "on_date", "id": f"day-{number + 1}", "date": day.isoformat(), "at": f"{asked.at:%H:%M}"})
        line = one.line.model_dump(mode="json") if one.line else {}
        steps.append(line | {"id": f"say-{number + 1}", "library": one.name})
    written: Document = parse_workflow({"name": asked.script.strip(), "starts": [{"kind": "by_hand"}], "steps": steps})
    return writing.create(row.account, written, by)
