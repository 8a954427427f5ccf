"""What waits for a person: enrolments and events that failed, messages that are held or of which nobody knows whether
they went, requests that other systems did not take. Each with its reason and what can be done."""

from typing import Any, Literal

from django.db.models import Count, Min, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError

from bluffside.server.events.models import Pending
from bluffside.server.events.stream import retry_laid_aside
from bluffside.server.hooks import sending as hooks
from bluffside.server.hooks.models import Call
from bluffside.server.messaging import services as messaging
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.outbox import HELD_BACK
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.connections import why_out_of_order
from bluffside.server.practice.models import Account, Connection
from bluffside.server.practice.words import moment
from bluffside.server.workflows import signals
from bluffside.server.workflows.held import let_go
from bluffside.server.workflows.held_back import standing
from bluffside.server.workflows.models import Enrolment

router = Router(tags=["aside"], auth=InAccount())
MOST = 100


class AsideEnrolment(Schema):
    id: int
    contact_id: int
    contact: str
    workflow_id: int
    workflow: str
    fault: str


class AsideMessage(Schema):
    id: int
    state: Literal["held", "uncertain"]
    contact_id: int
    contact: str
    channel: str
    name: str
    subject: str
    body: str
    reason: str
    since: str


class AsideCall(Schema):
    id: int
    contact_id: int | None
    contact: str
    method: str
    url: str
    reason: str
    answer: str
    attempts: int
    since: str


class BrokenConnection(Schema):
    """A connection that does not work, or has gone silent: `reason` as a sentence, how many messages or requests wait for it,
    and when they are tried again."""

    kind: str
    name: str
    reason: str
    count: int
    again: str


class Counts(Schema):
    """How many of each there are, however many are shown."""

    enrolments: int
    events: int
    held: int
    uncertain: int
    calls: int
    held_back: int


class Aside(Schema):
    counts: Counts
    enrolments: list[AsideEnrolment]
    messages: list[AsideMessage]
    calls: list[AsideCall]
    broken: list[BrokenConnection]


class Retried(Schema):
    count: int


class Found(Schema):
    """What somebody found out about an uncertain message, or decided about a held one."""

    did: Literal["let_go", "drop", "arrived", "send_again"]


class Settled(Schema):
    """`goes`: when a message that was let go goes, where the hours keep it; else empty."""

    goes: str = ""


def counts_of(account: Account) -> Counts:
    messages = Message.objects.filter(account=account)
    held_back = messages.filter(state=Message.State.HELD, reason__in=HELD_BACK).count()
    return Counts(
        enrolments=Enrolment.objects.filter(account=account).exclude(fault="").count(),
        events=Pending.objects.filter(account=account).exclude(fault="").count(),
        held=messages.filter(state=Message.State.HELD).exclude(reason__in=HELD_BACK).count(),
        uncertain=messages.filter(state=Message.State.UNCERTAIN).count(),
        calls=Call.objects.filter(account=account, state=Call.State.FAILED).count(),
        held_back=held_back + standing(account).count(),
    )


def message_out(one: Message, zone: str) -> AsideMessage:
    """A held or uncertain message; its contact is at hand."""
    return AsideMessage(
        id=one.id,
        state="held" if one.state == Message.State.HELD else "uncertain",
        contact_id=one.contact_id,
        contact=one.contact.name,
        channel=one.channel,
        name=one.name,
        subject=one.subject,
        body=one.body,
        reason=one.reason,
        since=moment(one.queued_at, zone),
    )


@router.get("aside", response=Aside)
def what_waits(request: AccountRequest, account: Path[str]) -> Aside:
    own, zone = request.account, request.account.zone
    rows = Enrolment.objects.filter(account=own).exclude(fault="").select_related("contact", "workflow")
    states = [Message.State.HELD, Message.State.UNCERTAIN]
    waiting = Message.objects.filter(account=own, state__in=states).exclude(reason__in=HELD_BACK)
    calls = list(Call.objects.filter(account=own, state=Call.State.FAILED).order_by("-id")[:MOST])
    people = Contact.objects.in_bulk([call.contact_id for call in calls if call.contact_id])
    return Aside(
        counts=counts_of(own),
        enrolments=[
            AsideEnrolment(
                id=row.id,
                contact_id=row.contact_id,
                contact=row.contact.name,
                workflow_id=row.workflow_id,
                workflow=row.workflow.name,
                fault=row.fault,
            )
            for row in rows.order_by("id")[:MOST]
        ],
        messages=[message_out(one, zone) for one in waiting.select_related("contact").order_by("id")[:MOST]],
        calls=[
            AsideCall(
                id=call.id,
                contact_id=call.contact_id,
                contact=people[call.contact_id].name if call.contact_id in people else "",
                method=call.method,
                url=call.url,
                reason=call.reason,
                answer=call.answer,
                attempts=call.attempts,
                since=moment(call.made_at, zone),
            )
            for call in calls
        ],
        broken=_broken(own),
    )


def _broken(account: Account) -> list[BrokenConnection]:
    """But for those that somebody has switched off; the most waiting first."""
    rows = [row for row in Connection.objects.filter(account=account, off_at=None) if why_out_of_order(row)]
    waits = Message.objects.filter(account=account, state=Message.State.QUEUED, attempts__gt=0)
    found = []
    for row in rows:
        calls = Call.objects.filter(account=account, connection=f"{row.kind}:{row.name}", state=Call.State.QUEUED)
        waiting: QuerySet[Any] = (
            waits.filter(channel=row.name) if row.kind == "channel" else calls.filter(attempts__gt=0)
        )
        counted = waiting.aggregate(n=Count("id"), again=Min("next_try_at"))
        again = moment(counted["again"], account.zone) if counted["again"] else ""
        reason = why_out_of_order(row)
        found.append(BrokenConnection(kind=row.kind, name=row.name, reason=reason, count=counted["n"], again=again))
    return sorted(found, key=lambda one: (-one.count, one.reason))


@router.post("aside/retry", response=Retried)
def retry_all(request: AccountRequest, account: Path[str]) -> Retried:
    """Tries every enrolment and event that was set aside again."""
    require(request, "workflows")
    return Retried(count=signals.retry(request.account) + retry_laid_aside(request.account))


@router.post("messages/{int:message_id}/settle", response=Settled)
def settle_message(request: AccountRequest, account: Path[str], message_id: int, found: Found) -> Settled:
    require(request, "people")
    message = get_object_or_404(Message.objects.select_related("account"), account=request.account, id=message_id)
    now = clock.now()
    try:
        if found.did == "let_go":
            goes = let_go(message, request.person)
            return Settled(goes=moment(goes, request.account.zone) if goes > now else "")
        if found.did == "drop":
            messaging.drop(message, request.person)
        else:
            messaging.settle_uncertain(message, found.did, request.person)
    except messaging.CannotSend as error:
        raise HttpError(409, str(error)) from None
    return Settled()


@router.post("calls/{int:call_id}/retry", response={204: None})
def retry_call(request: AccountRequest, account: Path[str], call_id: int) -> tuple[int, None]:
    require(request, "workflows")
    hooks.retry(get_object_or_404(Call, account=request.account, id=call_id))
    return 204, None
