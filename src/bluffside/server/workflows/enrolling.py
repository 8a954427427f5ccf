"""Who comes in: by hand and by events."""

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import repeat

from django.db import transaction
from django.db.models import F, Func, JSONField, Value

from bluffside.core.conditions import Case, Need
from bluffside.core.engine.state import DEEPEST, FINISHED
from bluffside.core.triggers import Trigger
from bluffside.core.workflow.document import Entry
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.entering import HELD_BACK, Before, chain_ends, is_held_back, once_for, started_by, why_not
from bluffside.server import sql
from bluffside.server.events.counting import touch
from bluffside.server.events.stream import Cause, Happened, Recorded, record, record_alike
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.wake import wake
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, EnrolmentReasons, Start, Workflow
from bluffside.server.workflows.versions import program_of, published_document

BATCH = 5_000  # whose facts are held at a time
NOTHING: Mapping[str, str] = {}
Who = tuple[int, str]  # a contact's id, and what a deal of theirs is known by; empty: for none


class CannotEnrol(ValueError):
    """Why nobody can come in, in words."""


@dataclass(frozen=True, slots=True)
class Coming:
    """Who would come in, each for a deal or for none, and who would not with the reason of each."""

    who: list[Who]
    refused: list[tuple[int, str]]

    @property
    def contact_ids(self) -> list[int]:
        return [contact_id for contact_id, _ in self.who]

    @property
    def left_out(self) -> Counter[str]:
        """How many would not, by reason."""
        return Counter(why for _, why in self.refused)


@dataclass(frozen=True, slots=True)
class Came:
    """Who came in, with the enrolment of each, and who did not with the reason."""

    ids: Mapping[Who, int]
    left_out: Counter[str]


def coming(workflow: Workflow, contact_ids: Sequence[int], deals: Sequence[str] = ()) -> Coming:
    """Applies the entry rules of the published version to contacts of the account; `deals`: which of theirs each comes for,
    in the same order. Raises CannotEnrol."""
    who: list[Who] = list(zip(contact_ids, deals or repeat(""), strict=bool(deals)))
    document = document_of(workflow)
    if not workflow.open:
        raise CannotEnrol("It is closed to newcomers.")
    entry, now = document.entry, clock.now()
    before = _before(workflow, contact_ids, entry)
    joining: list[Who] = []
    kept_out: list[tuple[int, str]] = []
    taken: set[Who] = set()
    for some in sql.chunks(list(dict.fromkeys(who)), BATCH):
        places = [(id, once_for(entry, {"deal": deal})) for id, deal in some]
        looked_at = [place[0] for place in places if entry.who or place in before]
        facts = load_facts(workflow.account, looked_at, _needs(workflow), now) if looked_at else {}
        for one, place in zip(some, places, strict=True):
            refused = ""
            if place[0] in facts:
                refused = why_not(entry, Case(facts[place[0]], now), before.get(place))
            elif entry.who:
                refused = "not in this account"
            if not refused and place in taken:
                refused = "comes in for another deal, and people come in once"
            if refused:
                kept_out.append((one[0], refused))
            else:
                joining.append(one)
                taken.add(place)
    return Coming(joining, kept_out)


def _needs(workflow: Workflow) -> frozenset[Need]:
    entry = document_of(workflow).entry
    return entry.who.all_needs() if entry.who else frozenset()


def _before(workflow: Workflow, contact_ids: Sequence[int], entry: Entry) -> dict[Who, Before]:
    """The last enrolment of those who, or whose deals, were in the workflow before. Who has come to the end and only stays in
    case a date moves (engine.replanning) counts as having left then."""
    found: dict[Who, Before] = {}
    were = Enrolment.objects.filter(workflow=workflow, contact__any=set(contact_ids))
    for contact_id, about, ended_at, arrived_at, rest in were.values_list(
        "contact_id", "about", "ended_at", "arrived_at", "rest"
    ):
        left = arrived_at if rest.get("finished") else ended_at
        place = contact_id, once_for(entry, about)
        known = found.get(place)
        if known is None or (known.ended is not None and (left is None or left > known.ended)):
            found[place] = Before(left)
    return found


@transaction.atomic
def enrol(
    workflow: Workflow,
    contact_ids: Sequence[int],
    why: str,
    cause: Cause,
    about: Mapping[str, str] = NOTHING,
    by: str = "",
    deals: Sequence[str] = (),
) -> Came:
    """Brings contacts in, as far as the entry rules let them; `deals`: which of theirs each comes for, in the same order,
    where `about` does not say it for all. Raises CannotEnrol.

    Two that come at the same instant: the constraint lets one in, the other is as if it came second.
    """
    found = coming(workflow, contact_ids, deals or [about.get("deal", "")] * len(contact_ids))
    entry, now = document_of(workflow).entry, clock.now()
    deals = [deal for _, deal in found.who]
    places = [once_for(entry, {"deal": deal}) for deal in deals]
    _make_room(workflow, found.contact_ids, places)
    held = [is_held_back(entry, str(workflow.pk), str(id)) for id, _ in found.who]
    # Who is in already is passed over, and who came in answered: the ORM does one or the other.
    came = sql.rows(
        """
        INSERT INTO workflows_enrolment
               (account_id, workflow_id, version_id, contact_id, why, about, deal, by, depth, joined_at,
                due_at, held_back, begun, ended, ended_at)
        SELECT c.account_id, %s, %s, c.id, %s,
               %s::jsonb || CASE WHEN u.deal = '' THEN '{}' ELSE jsonb_build_object('deal', u.deal) END,
               u.place, %s, %s, %s,
               CASE WHEN NOT u.held THEN %s::timestamptz END, u.held, u.held, CASE WHEN u.held THEN %s ELSE '' END,
               CASE WHEN u.held THEN %s::timestamptz END
          FROM unnest(%s::bigint[], %s::text[], %s::text[], %s::bool[]) AS u (id, deal, place, held)
          JOIN people_contact c ON c.id = u.id AND c.account_id = %s
        ON CONFLICT DO NOTHING
        RETURNING contact_id, coalesce(about->>'deal', ''), id, held_back
        """,
        [workflow.id, workflow.published_id, why[:200], sql.to_json(dict(about)), by[:120], cause.depth, now, now, HELD_BACK, now,
         found.contact_ids, deals, places, held, workflow.account_id],
    )  # fmt: skip
    ids = {(contact_id, deal): id for contact_id, deal, id, kept in came if not kept}
    data = {"workflow": workflow.id, "name": workflow.name, "why": why}
    if left_out := [contact_id for contact_id, _, _, kept in came if kept]:
        record_alike(workflow.account, "enrolment.held_back", left_out, data, cause)
        found.refused.extend((id, HELD_BACK) for id in left_out)
    touch(workflow.account_id, enrolments=[id for _, _, id, _ in came])
    if ids:
        record_alike(workflow.account, "enrolment.started", [contact_id for contact_id, _ in ids], data, cause)
        wake("advance")
    return Came(ids, found.left_out)


def _make_room(workflow: Workflow, contact_ids: Sequence[int], places: Sequence[str]) -> None:
    """Ends the enrolments of newcomers that have come to the end and only stay in case a date moves."""
    stays = Enrolment.objects.filter(
        workflow=workflow, contact__any=set(contact_ids), ended_at=None, rest__contains={"finished": True}
    )
    coming = set(zip(contact_ids, places, strict=True))
    rows = stays.select_for_update(of=("self",)).values_list("id", "contact_id", "deal")
    gone = [(id, who) for id, who, deal in rows if (who, deal) in coming]
    rest = Func(F("rest"), Value({"finished": False}, JSONField()), template="(%(expressions)s)", arg_joiner=" || ")
    ended = {"place": "", "until": None, "due_at": None, "ended": FINISHED, "ended_at": clock.now(), "rest": rest}
    Enrolment.objects.filter(id__in=[id for id, _ in gone]).update(**ended)
    data = {"workflow": workflow.id, "name": workflow.name, "why": FINISHED}
    record(workflow.account, [Happened("enrolment.ended", who, data, Cause(enrolment_id=id)) for id, who in gone])


def start_on_events(account: Account, events: Sequence[Recorded]) -> None:
    """Subscriber: enrols the contacts of events that published workflows start on."""
    by_kind: dict[str, list[Recorded]] = defaultdict(list)
    for event in events:
        if event.contact_id is not None:
            by_kind[event.kind].append(event)
    for kind, of_kind in by_kind.items():
        _start(account, kind, of_kind)


def _start(account: Account, kind: str, events: Sequence[Recorded]) -> None:
    subjects = {event.as_core().subject for event in events}
    rows = Start.objects.filter(account=account, event_kind=kind, subject__in={*subjects, ""}, workflow__open=True)
    candidates: dict[str, list[Workflow]] = defaultdict(list)
    for start in rows.select_related("workflow__published"):
        start.workflow.account = account
        candidates[start.subject].append(start.workflow)
    if not candidates:
        return
    ways = {one for some in candidates.values() for one in some}
    needs: frozenset[Need] = frozenset().union(*(program_of(one.published_id or 0).needs for one in ways))
    facts = load_facts(account, {event.contact_id or 0 for event in events}, needs, clock.now())
    groups: dict[tuple[int, str, Cause, tuple[tuple[str, str], ...], str], list[int]] = defaultdict(list)
    for event in events:
        if event.contact_id not in facts:
            continue
        core_event, case = event.as_core(), Case(facts[event.contact_id], event.at)
        fitting = candidates[core_event.subject] if core_event.subject else []
        for workflow in {one.id: one for one in (*fitting, *candidates[""])}.values():
            if kind == "workflow.handed_over" and event.data["workflow"] != workflow.name:
                continue
            if workflow.id not in event.data.get("starts", (workflow.id,)):
                continue  # the score was counted anew, and somebody has said what starts by that
            if trigger := started_by(document_of(workflow), core_event, case):
                about = tuple(trigger.about(core_event).items())
                cause = Cause(None, event.enrolment_id, event.depth)
                groups[workflow.id, _why(trigger, event), cause, about, event.by].append(event.contact_id)
    workflows = {one.id: one for one in ways}
    for (workflow_id, why, cause, about, by), contact_ids in groups.items():
        if cause.depth > DEEPEST:
            _end_chain(workflows[workflow_id], contact_ids, cause)
        else:
            enrol(workflows[workflow_id], contact_ids, why, cause, dict(about), by)


def _end_chain(workflow: Workflow, contact_ids: Sequence[int], cause: Cause) -> None:
    """Says in the workflow that led there, at the contact and on Watch, that one does not start."""
    account, now = workflow.account, clock.now()
    why = chain_ends(workflow.name, account.zone)
    data = {"workflow": workflow.id, "name": workflow.name, "why": why.sentence}
    record_alike(account, "enrolment.refused", contact_ids, data, Cause(enrolment_id=cause.enrolment_id))
    if cause.enrolment_id:
        said = [{"step": why.step, "sentence": why.sentence, "values": {}}]
        EnrolmentReasons.objects.create(
            account=account, enrolment_id=cause.enrolment_id, at=now, steps=[], reasons=said
        )


def document_of(workflow: Workflow) -> Document:
    """The published document. Raises CannotEnrol when there is none."""
    if workflow.published_id is None:
        raise CannotEnrol("It is not published yet.")
    return published_document(workflow.published_id)


def _why(trigger: Trigger, event: Recorded) -> str:
    return f"tagged “{event.data['tag']}”" if event.kind == "tag.added" else trigger.describe()
