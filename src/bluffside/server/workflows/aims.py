"""Who has reached what their workflow is for: decided by the core for each enrolment, from the stream as it goes; and from what has been,
when a workflow gets another aim.

The aim is that of the version that is published, for all who ever came in. Who has left may reach it all the same, and so may who was
held back: by that it is known what the workflow adds.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Q, QuerySet

from bluffside.core.conditions import Case
from bluffside.core.events import Event as CoreEvent
from bluffside.core.facts import Facts
from bluffside.core.workflow.aim import MOST_DAYS, Aim
from bluffside.server import sql
from bluffside.server.events.counting import touch
from bluffside.server.events.stream import Cause, Happened, Recorded, history, record
from bluffside.server.messaging.models import Message
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, Workflow
from bluffside.server.workflows.versions import program_of

BATCH = 500  # enrolments that are looked at anew at a time
LONGEST = timedelta(days=MOST_DAYS)


def aims_of(account: Account, workflow_ids: Iterable[int] | None = None) -> dict[int, Aim]:
    """The aims of what is published, by workflow."""
    rows = Workflow.objects.filter(account=account, published__isnull=False)
    rows = rows if workflow_ids is None else rows.filter(id__in=workflow_ids)
    found = {id: program_of(version).aim for id, version in rows.values_list("id", "published_id") if version}
    return {id: aim for id, aim in found.items() if aim}


def reach(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: decides whether events reach the aims of those whom they are about."""
    about = [event for event in events if event.contact_id]
    aims = aims_of(account) if about else {}
    kinds = frozenset().union(*(aim.listens_to() for aim in aims.values()))
    about = [event for event in about if event.kind in kinds]
    if not about:
        return
    who = {event.contact_id or 0 for event in about}
    rows = _open(account).filter(workflow__in=aims, contact__any=who, joined_at__gt=about[0].at - LONGEST)
    came: dict[int, list[Enrolment]] = defaultdict(list)
    for row in rows.select_related("workflow").order_by("id"):
        came[row.contact_id].append(row)
    if not came:
        return
    facts, deals = _facts(account, aims.values(), came), _deals(account, came)
    for event in about:
        for row in came.get(event.contact_id or 0, ()):
            if row.reached_at is None and _decide(
                row, aims[row.workflow_id], event.as_core(), facts[row.contact_id], deals
            ):
                data = {"workflow": row.workflow.name, "what": event.kind, "value": str(row.reached_worth)}
                cause = Cause(enrolment_id=row.pk)
                record(account, [Happened("aim.reached", row.contact_id, data, cause)])


def _open(account: Account) -> QuerySet[Enrolment]:
    return Enrolment.objects.filter(account=account, reached_at=None)


def _facts(account: Account, aims: Iterable[Aim], contact_ids: Iterable[int]) -> dict[int, Facts]:
    triggers = (trigger for aim in aims for trigger in aim.happens if trigger.when)
    needs = frozenset().union(*(trigger.when.all_needs() for trigger in triggers if trigger.when))
    return load_facts(account, contact_ids, needs, clock.now())


def _deals(account: Account, contact_ids: Iterable[int]) -> dict[str, Decimal]:
    rows = Deal.objects.filter(account=account, contact__any=set(contact_ids)).values_list("id", "value")
    return {str(id): value for id, value in rows}


def _decide(row: Enrolment, aim: Aim, event: CoreEvent, facts: Facts, deals: Mapping[str, Decimal]) -> bool:
    """Writes it down where an event reaches the aim of an enrolment."""
    if not aim.reached(row.joined_at, event, Case(facts, event.at), row.deal):
        return False
    row.reached_at, row.reached_worth = event.at, aim.value(event, deals)
    row.reached_message_id = _earned_by(row, event.at)
    row.save(update_fields=["reached_at", "reached_worth", "reached_message_id"])
    touch(row.account_id, messages=[row.reached_message_id] if row.reached_message_id else (), enrolments=[row.pk])
    return True


def _earned_by(row: Enrolment, at: datetime) -> int | None:
    """The last message that the enrolment had sent by then."""
    sent = Message.objects.filter(contact_id=row.contact_id, enrolment_id=row.pk, sent_at__lte=at)
    return sent.order_by("-sent_at", "-id").values_list("id", flat=True).first()


# ---- another aim


def follow_batch(account: Account) -> int:
    """Decides anew, some at a time, of everybody who ever came into a workflow whose aim is another one now; answers of how many."""
    with transaction.atomic():
        if not sql.try_lock("aims", account.id):
            return 0
        row = unfollowed(account).select_for_update(of=("self",)).order_by("id").first()
        if row is None or row.published_id is None:
            return 0
        aim = program_of(row.published_id).aim
        before = program_of(row.aim_of).aim if row.aim_of else None
        if row.aim_next == 0 and aim == before:
            row.aim_of = row.published_id
            row.save(update_fields=["aim_of"])
            return 1
        some = list(row.enrolments.filter(id__gt=row.aim_next).order_by("id")[:BATCH])
        _look_again(account, some, aim)
        # A version that is published meanwhile begins from the start.
        row.aim_next = some[-1].pk if len(some) == BATCH else 0
        row.aim_of = row.aim_of if row.aim_next else row.published_id
        row.save(update_fields=["aim_of", "aim_next"])
        return max(1, len(some))


def unfollowed(account: Account) -> QuerySet[Workflow]:
    rows = Workflow.objects.filter(account=account, published__isnull=False)
    return rows.filter(Q(aim_of=None) | ~Q(aim_of=F("published_id")))


def _look_again(account: Account, rows: Sequence[Enrolment], aim: Aim | None) -> None:
    """Of enrolments as if the aim had always been this one."""
    if not rows:
        return
    touch(
        account.id,
        [one.reached_message_id for one in rows if one.reached_message_id],
        enrolments=[one.pk for one in rows],
    )
    Enrolment.objects.filter(id__in=[one.pk for one in rows]).update(
        reached_at=None, reached_worth=None, reached_message_id=None
    )
    if aim is None:
        return
    who = {one.contact_id for one in rows}
    past = history(account, list(who), aim.listens_to(), min(one.joined_at for one in rows))
    facts, deals = _facts(account, [aim], past), _deals(account, past)
    for row in rows:
        events = past.get(row.contact_id, ())
        next((one for one in events if _decide(row, aim, one, facts[row.contact_id], deals)), None)
