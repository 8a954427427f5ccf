"""Wordings of one message beside each other: how many were sent each, and what came of it."""

from ninja import Path, Router, Schema

from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import walk
from bluffside.server.messaging.models import Message
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.workflows import writing
from bluffside.server.workflows.api import written_of
from bluffside.server.workflows.outcomes import Outcome, outcomes

router = Router(tags=["wordings"], auth=InAccount())


class WordingCount(Schema):
    """Of one wording, from 0, as it stands in the draft: since its words are as they are, how many were handed to carriers, how many of them had
    a link, and of how many it was followed by a person; how many were answered."""

    channel: Channel
    number: int
    sent: int = 0
    with_link: int = 0
    clicked: int = 0
    answered: int = 0


@router.get("workflows/{int:workflow_id}/wordings/{step}", response=list[WordingCount])
def count_wordings(request: AccountRequest, account: Path[str], workflow_id: int, step: str) -> list[WordingCount]:
    """Of the line of that id, where it has several wordings; nothing else is counted."""
    document = writing.draft_of(written_of(request, workflow_id))
    line = next((one for one in walk(document.steps) if one.id == step), None)
    versions = line.versions() if isinstance(line, Speaking) else {}
    keys = {
        wording.key_of(number): (channel, number)
        for channel, wording in versions.items()
        for number in (range(len(wording.others) + 1) if wording.others else ())
    }
    counted = outcomes(
        Message.objects.filter(account=request.account, wording__in=keys, sent_at__isnull=False), "wording"
    )
    return [
        WordingCount(channel=channel, number=number, **counted.get(key, Outcome())._asdict())
        for key, (channel, number) in keys.items()
    ]
