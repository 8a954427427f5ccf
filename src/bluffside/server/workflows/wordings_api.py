"""Wordings of one message beside each other: how many were sent each, and what came of it."""

from django.db.models import Count, Exists, OuterRef, Q
from ninja import Path, Router, Schema

from bluffside.core.steps.speaking import Speaking
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import walk
from bluffside.server.messaging.models import Link, Message, Reply
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.workflows import writing
from bluffside.server.workflows.api import written_of

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
    links = Link.objects.filter(message=OuterRef("pk"))
    rows = (
        Message.objects.filter(account=request.account, wording__in=keys, sent_at__isnull=False)
        .annotate(
            linked=Exists(links),
            followed=Exists(links.filter(clicks__gt=0)),
            replied=Exists(Reply.objects.filter(message=OuterRef("pk"), automatic=False)),
        )
        .values("wording")
        .annotate(
            sent=Count("id"),
            with_link=Count("id", filter=Q(linked=True)),
            clicked=Count("id", filter=Q(followed=True)),
            answered=Count("id", filter=Q(replied=True)),
        )
        .order_by()
    )
    counted = {row["wording"]: row for row in rows}
    found = []
    for key, (channel, number) in keys.items():
        one = WordingCount(channel=channel, number=number)
        if row := counted.get(key):
            one.sent, one.with_link, one.clicked, one.answered = (
                row["sent"],
                row["with_link"],
                row["clicked"],
                row["answered"],
            )
        found.append(one)
    return found
