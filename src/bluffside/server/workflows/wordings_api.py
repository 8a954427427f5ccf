"""What a line says, counted: of its wordings, how many were sent each and what came of it; of those still to read it, who lacks a field."""

from ninja import Path, Router, Schema

from bluffside.core.statistics.compared import in_words
from bluffside.core.statistics.share import share
from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import walk
from bluffside.server.messaging.models import Message
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.workflows import lacking, writing
from bluffside.server.workflows.api import written_of
from bluffside.server.workflows.models import Workflow
from bluffside.server.workflows.outcomes import Outcome, outcomes

router = Router(tags=["wordings"], auth=InAccount())


class WordingCount(Schema):
    """Of one wording, from 0, as it stands in the draft: since its words are as they are, how many were handed to carriers, how many of them had
    a link, and of how many it was followed by a person; how many were answered. `against_first`: of what is given by shares, what is known of it against the first wording, in words."""

    channel: Channel
    number: int
    sent: int = 0
    with_link: int = 0
    clicked: int = 0
    answered: int = 0
    against_first: str = ""


class LackingOut(Schema):
    """`of`: how many were looked at, 2,000 at most."""

    of: int = 0
    fields: list[lacking.Lack] = []


def _line(request: AccountRequest, workflow_id: int, step: str) -> tuple[Workflow, Speaking | None]:
    row = written_of(request, workflow_id)
    lines = (one for one in walk(writing.draft_of(row).steps) if one.id == step)
    return row, next((one for one in lines if isinstance(one, Speaking)), None)


@router.get("workflows/{int:workflow_id}/lacking/{step}", response=LackingOut)
def lacking_fields(request: AccountRequest, account: Path[str], workflow_id: int, step: str) -> LackingOut:
    """Who of those still to read the line has nothing in one of its merge fields, by what is written of it now."""
    row, line = _line(request, workflow_id, step)
    if line is None:
        return LackingOut()
    of, rows = lacking.lacking(request.account, lacking.readers(row, line), line)
    return LackingOut(of=of, fields=rows)


@router.get("workflows/{int:workflow_id}/wordings/{step}", response=list[WordingCount])
def count_wordings(request: AccountRequest, account: Path[str], workflow_id: int, step: str) -> list[WordingCount]:
    """Of the line of that id, where it has several wordings; nothing else is counted."""
    _, line = _line(request, workflow_id, step)
    versions = line.versions() if line else {}
    keys = {
        wording.key_of(number): (channel, number)
        for channel, wording in versions.items()
        for number in (range(len(wording.others) + 1) if wording.others else ())
    }
    counted = outcomes(
        Message.objects.filter(account=request.account, wording__in=keys, sent_at__isnull=False), "wording"
    )
    rows = [
        WordingCount(channel=channel, number=number, **counted.get(key, Outcome())._asdict())
        for key, (channel, number) in keys.items()
    ]
    for channel, wording in versions.items():
        if wording.by_share:
            _compare([one for one in rows if one.channel == channel])
    return rows


def _compare(rows: list[WordingCount]) -> None:
    """The first of several wordings against each other one, all of it sure together (Bonferroni)."""
    first, *others = rows
    for one in others:
        sides = (share(first.answered, first.sent), share(one.answered, one.sent))
        one.against_first = in_words(*sides, "answered", 100 - 5 / len(others))
