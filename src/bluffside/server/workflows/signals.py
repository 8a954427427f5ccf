"""What reaches those who are inside: events and replies that their workflow listens to, and what people of the team
decide about them."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

from django.db import transaction
from django.db.models import Exists, OuterRef, Q, QuerySet

from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.program import Program
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, Recorded, record
from bluffside.server.pipeline.models import Deal
from bluffside.server.pipeline.services import renamed_of
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake
from bluffside.server.workflows.models import Enrolment, Expected, IntakePerson, ScoreTurn, Signal
from bluffside.server.workflows.versions import program_of

# Always handed on to who is inside: a reply may ask to stop, and one workflow may end others.
REACH_ALL = ("reply.received", "reply.read", "others.stopped")

OF_ONE = ("message.let_go", "message.dropped")  # heard by the enrolment whose message it is


class _Inside(NamedTuple):
    id: int
    version_id: int
    workflow_id: int
    workflow: str


def heard_by(program: Program, document: Document) -> set[str]:
    """Kinds of event that a published version listens to, from outside and from inside."""
    starts = {kind for start in document.starts for kind in start.listens_to}
    aim = program.aim.listens_to() if program.aim else frozenset[str]()
    return starts | program.hears | aim | set(REACH_ALL)


def tell_inside(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: lets the contacts' running enrolments hear what they listen to."""
    inside: dict[int, list[_Inside]] = defaultdict(list)
    who = {event.contact_id for event in events if event.contact_id}
    running = Enrolment.objects.filter(account=account, contact__any=who, ended_at=None)
    columns = ("contact_id", "id", "version_id", "workflow_id", "workflow__name")
    for contact_id, *row in running.values_list(*columns):
        inside[contact_id].append(_Inside(*row))
    signals = []
    for event in events:
        theirs = inside.get(event.contact_id or 0, ())
        for one in _hearers(event, theirs):
            if told := _told(event, one):
                kind, data = told
                signals.append((account.id, one.id, event.id, kind, event.kind, sql.to_json(data), event.at))
    send(account, signals)


def _hearers(event: Recorded, inside: Sequence[_Inside]) -> Sequence[_Inside]:
    """Of those inside of one workflow, each for a deal, a reply reaches whose message it answers, else who came in last."""
    if event.kind != "reply.received" or len(inside) < 2:
        return inside
    answered = {one.workflow_id: one.id for one in sorted(inside)}
    answered |= {one.workflow_id: one.id for one in inside if one.id == event.data.get("enrolment")}
    return [one for one in inside if one.id == answered[one.workflow_id] or not program_of(one.version_id).by_deal]


def answers_unheard() -> QuerySet[Signal]:
    """Answers that those inside, of whichever workflow, are still to hear: one of them may take the contact out of others."""
    hears = {"enrolment__ended_at": None, "enrolment__paused_at": None, "enrolment__fault": ""}
    return Signal.objects.filter(kind=Signal.Kind.REPLY, **hears)


def _told(event: Recorded, one: _Inside) -> tuple[str, dict[str, Any]] | None:
    """How an enrolment hears of an event; None when it does not."""
    if event.kind == "reply.received":
        return Signal.Kind.REPLY, event.data
    if event.kind == "others.stopped":
        named = event.data["workflows"]
        if one.id == event.enrolment_id or (named and one.workflow not in named):
            return None
        if event.data.get("here", one.workflow_id) != one.workflow_id:
            return None
        return Signal.Kind.REMOVED, {"why": f"stopped by “{event.data['from']}”"}
    if event.kind in OF_ONE and event.enrolment_id != one.id:
        return None
    # A reply that opts out is heard as the reply.
    reaches = event.kind in REACH_ALL or event.kind in program_of(one.version_id).hears
    if not reaches or event.data.get("by_reply"):
        return None
    return Signal.Kind.HAPPENED, event.data | {"by": event.by}


def send(account: Account, signals: Iterable[tuple[Any, ...]]) -> None:
    """Writes signals (the columns of the table in order) and makes their enrolments due."""
    rows = list(signals)
    if not rows:
        return
    sql.insert(
        Signal,
        ("account_id", "enrolment_id", "event_id", "kind", "event_kind", "data", "at"),
        rows,
        on_conflict="ON CONFLICT DO NOTHING",
    )
    # Waits for a batch that holds the row, and then makes it due again: the signal is not overlooked. What reaches who is
    # paused waits, too, except that they are to leave.
    leaving = [row[1] for row in rows if row[3] == Signal.Kind.REMOVED]
    hearing = Enrolment.objects.filter(id__in=[row[1] for row in rows], ended_at=None, fault="")
    hearing.filter(Q(paused_at=None) | Q(id__in=leaving)).update(due_at=clock.now())
    wake("advance")


def take_out(enrolment: Enrolment, why: str, by: Person) -> None:
    """A person takes a contact out; nothing more happens in this enrolment."""
    take_out_many(enrolment.account, [enrolment], why, by)


@transaction.atomic
def take_out_many(account: Account, enrolments: Sequence[Enrolment], why: str, by: Person) -> None:
    """Takes people out; those who are paused, too. The workflows of the enrolments are at hand."""
    why = why.replace("\0", "").strip()[:180] or f"taken out by {by.name}"
    happened = [
        Happened(
            "enrolment.taken_out",
            one.contact_id,
            {"workflow": one.workflow_id, "name": one.workflow.name, "why": why},
            Cause(actor=by, enrolment_id=one.id),
        )
        for one in enrolments
    ]
    told = (Signal.Kind.REMOVED, "enrolment.taken_out", sql.to_json({"why": why}), clock.now())
    events = record(account, happened)
    send(account, [(account.id, one.id, id, *told) for one, id in zip(enrolments, events, strict=True)])


def give_way(account: Account, stays: int, goes: int) -> None:
    """Before two contacts become one: of a workflow that both are in, one enrolment ends; moments expected for who goes
    are found again for who stays."""
    _follow_deals(account, goes)
    running = Enrolment.objects.filter(account=account, ended_at=None)
    both = running.filter(contact_id=stays, workflow=OuterRef("workflow"), deal=OuterRef("deal"))
    why = "the contact was merged into one who is in this workflow, too"
    running.filter(Exists(both), contact_id=goes).update(ended=why, ended_at=clock.now(), due_at=None)
    Expected.objects.filter(account=account, contact_id=goes).delete()
    ScoreTurn.objects.filter(account=account, contact_id=goes).delete()
    theirs = IntakePerson.objects.filter(
        account=account, contact_id=stays, intake=OuterRef("intake"), deal=OuterRef("deal")
    )
    IntakePerson.objects.filter(Exists(theirs), account=account, contact_id=goes).delete()


def _follow_deals(account: Account, goes: int) -> None:
    """Deals that were given another name, since who stays has one of theirs (pipeline.services.give_way)."""
    for new in Deal.objects.filter(account=account, contact_id=goes, ref__endswith=renamed_of(goes)):
        old = new.ref.removesuffix(renamed_of(goes))
        IntakePerson.objects.filter(account=account, contact_id=goes, deal=old).update(deal=new.ref)
        for one in Enrolment.objects.filter(account=account, contact_id=goes, about__deal=old):
            one.about["deal"] = new.ref
            one.deal = new.ref if one.deal else ""
            if one.rest.get("about", {}).get("deal") == old:
                one.rest["about"]["deal"] = new.ref
            one.save(update_fields=["about", "deal", "rest"])


# ---- those set aside


def retry(account: Account, enrolment_ids: Sequence[int] | None = None) -> int:
    """Lets enrolments that were set aside be tried again, all of them or some; answers how many."""
    aside = Enrolment.objects.filter(account=account, ended_at=None).exclude(fault="")
    if enrolment_ids is not None:
        aside = aside.filter(id__in=enrolment_ids)
    with transaction.atomic():
        count = aside.filter(paused_at=None).update(fault="", due_at=clock.now())
        count += aside.update(fault="")  # those who are paused, too, go on once they are resumed
        wake("advance")
    return count
