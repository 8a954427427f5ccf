"""Find and replace over the library: what each message would say, and the act on those that are ticked. Drafts change; nothing is published."""

from typing import Any

from django.db import transaction
from ninja import Path, Router, Schema
from pydantic import Field, ValidationError

from bluffside.core.messages.replacing import changes, with_replaced
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow, to_data
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import writing
from bluffside.server.workflows.library import draft_of
from bluffside.server.workflows.models import Sort, Workflow

router = Router(tags=["messages"], auth=InAccount())
MOST_SHOWN = 5  # texts of one message


class ReplaceIn(Schema):
    """`label`: only in messages that have it; `only`: when it is done, those that are ticked."""

    find: str = Field(min_length=1, max_length=200)
    by: str = Field(max_length=200)
    label: str = Field(default="", max_length=40)
    only: list[int] = Field(default=[], max_length=5_000)


class TextChange(Schema):
    before: str
    after: str


class MessageChange(Schema):
    """What a message would say; `more`: how many texts besides those that are shown. `fault`: why it cannot be changed so."""

    id: int
    name: str
    texts: list[TextChange]
    more: int
    fault: str


class ReplacedOut(Schema):
    changed: int


def _found(request: AccountRequest, asked: ReplaceIn) -> list[tuple[Workflow, list[tuple[str, str]], Document | None]]:
    """The messages that say it, with each text before and after, and the document then; None where it could not be kept."""
    rows = Workflow.written.filter(account=request.account, sort=Sort.MESSAGE, archived_at=None).order_by("name")
    if asked.label:
        rows = rows.filter(labels__contains=[asked.label])
    found: list[tuple[Workflow, list[tuple[str, str]], Document | None]] = []
    for row in rows:
        data: dict[str, Any] = to_data(draft_of(row))
        after = data | {"steps": with_replaced(data["steps"], {asked.find: asked.by})}
        texts = list(changes(data["steps"], after["steps"]))
        if not texts:
            continue
        try:
            found.append((row, texts, parse_workflow(after)))
        except ValidationError:
            found.append((row, texts, None))
    return found


@router.post("messages/replace/plan", response=list[MessageChange])
def replace_plan(request: AccountRequest, account: Path[str], asked: ReplaceIn) -> list[MessageChange]:
    """Nothing is changed."""
    return [
        MessageChange(
            id=row.pk,
            name=row.name,
            texts=[TextChange(before=before, after=after) for before, after in texts[:MOST_SHOWN]],
            more=max(0, len(texts) - MOST_SHOWN),
            fault="" if document else "It would be longer than a message can be.",
        )
        for row, texts, document in _found(request, asked)
    ]


@router.post("messages/replace", response=ReplacedOut)
def replace_words(request: AccountRequest, account: Path[str], asked: ReplaceIn) -> ReplacedOut:
    """In the drafts of those that are ticked: all of them or none."""
    require(request, "workflows")
    with transaction.atomic():
        ticked = [(row, document) for row, _, document in _found(request, asked) if row.pk in asked.only and document]
        for row, document in ticked:
            writing.save_draft(row, document, row.revision, request.person)
    return ReplacedOut(changed=len(ticked))
