"""What will go out by itself in the days ahead: as things stand, if nobody answers and nothing else happens.

The core plays it (core.rehearsal.world), a contact at a time: where they stand in the workflows that they are inside of, the
intakes that bring them in, the dates that start something for them, and whatever starts by that. What waits in the outbox
for its moment is counted where it stands.

Where more people are concerned than MOST, those who stand at the same line of the same version until the same hour, who come
in by the same portion of an intake, or whose date comes in the same hour, are played once, as one of them, and counted: so a
hundred thousand people in one series cost one rehearsal. Where something decides by who they are, the others of such a
group may differ.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from itertools import islice

from django.db.models import Count, Max, Min, Q, QuerySet
from django.db.models.functions import TruncHour

from bluffside.core.conditions import Need
from bluffside.core.engine.effects import Effect, MakeTask, SendMessage
from bluffside.core.engine.signals import Joined
from bluffside.core.facts import Facts
from bluffside.core.messages.merge import BadTemplate
from bluffside.core.rehearsal.ahead import ahead
from bluffside.core.rehearsal.coming import by_time_alone
from bluffside.core.rehearsal.world import World
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.program import Program
from bluffside.server import sql
from bluffside.server.messaging.models import Message
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.workflows import intakes
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.models import Enrolment, Expected, Intake, IntakePerson, Workflow
from bluffside.server.workflows.versions import program_of, published_document

MOST = 3_000  # people who are played one by one
BATCH = 2_000
MOST_GROUPS = 600  # played where there are more; beyond that the smallest are left out, and told of


@dataclass(frozen=True, slots=True)
class Outlook:
    """So many messages of a name by a channel, or tasks (channel empty), from one workflow on a local day; `first` is
    the earliest of them."""

    day: date
    workflow_id: int
    channel: str
    name: str
    count: int
    first: datetime


@dataclass(frozen=True, slots=True)
class Forecast:
    """`left_out`: how many people were not looked at, since there are too many."""

    rows: list[Outlook]
    left_out: int


@dataclass(slots=True)
class _Counts:
    zone: str
    counts: Counter[tuple[date, int, str, str]] = field(default_factory=Counter)
    first: dict[tuple[date, int, str, str], datetime] = field(default_factory=dict)

    def add(self, at: datetime, workflow_id: int, channel: str, name: str, count: int = 1) -> None:
        key = (to_local(at, self.zone).date(), workflow_id, channel, name)
        self.counts[key] += count
        self.first[key] = min(at, self.first.get(key, at))

    def effect(self, at: datetime, workflow_id: int, effect: Effect, count: int = 1) -> None:
        if isinstance(effect, SendMessage) and not effect.held:
            self.add(at, workflow_id, effect.channel, effect.name, count)
        elif isinstance(effect, MakeTask):
            self.add(at, workflow_id, "", effect.title, count)

    def forecast(self, left_out: int) -> Forecast:
        found = [Outlook(*key, count, self.first[key]) for key, count in self.counts.items()]
        return Forecast(sorted(found, key=lambda one: (one.first, one.name)), left_out)


def forecast(account: Account, until: datetime, workflow: int | None = None) -> Forecast:
    """By local day of the account, in order of time; of one workflow, or of all."""
    now, counts = clock.now(), _Counts(account.zone)
    _count_outbox(account, now, until, workflow, counts)
    inside, coming = _inside(account, until), _Coming(account, now, until)
    ids = set(inside.values_list("contact_id", flat=True)[: MOST + 1]) | coming.contact_ids
    if len(ids) <= MOST:
        played = [_Played(id, 1, coming.enrols.get(id, ())) for id in sorted(ids)]
        _play(account, now, until, workflow, played, counts)
        return counts.forecast(0)
    newcomers = sorted(coming.groups(), key=lambda one: -one.count)
    _play(account, now, until, workflow, newcomers[:MOST_GROUPS], counts, alone=True)
    left_out = sum(one.count for one in newcomers[MOST_GROUPS:])
    return counts.forecast(left_out + _by_groups(account, now, until, workflow, counts))


def _inside(account: Account, until: datetime) -> QuerySet[Enrolment]:
    rows = Enrolment.objects.filter(account=account, ended_at=None, fault="", paused_at=None)
    return rows.filter(Q(until=None) | Q(until__lte=until))


def _count_outbox(account: Account, now: datetime, until: datetime, workflow: int | None, counts: _Counts) -> None:
    waiting = Message.objects.filter(
        account=account, state=Message.State.QUEUED, next_try_at__lte=until, enrolment_id__isnull=False
    )
    rows = list(waiting.values_list("next_try_at", "enrolment_id", "channel", "name"))
    enrolments = Enrolment.objects.filter(id__in={row[1] for row in rows})
    of = dict(enrolments.values_list("id", "workflow_id"))
    for at, enrolment_id, channel, name in rows:
        if (id := of.get(enrolment_id or 0)) and workflow in (None, id):
            counts.add(max(at, now), id, channel, name)


# ---- one by one


@dataclass(frozen=True, slots=True)
class _Played:
    """A contact who is played, for so many; `enrols`: when they come into which workflow by what is planned."""

    contact_id: int
    count: int
    enrols: Sequence[tuple[datetime, str]] = ()


class _Coming:
    """Who comes in by what is planned: portions of intakes, and dates."""

    def __init__(self, account: Account, now: datetime, until: datetime) -> None:
        self.now = now
        self.enrols: dict[int, list[tuple[datetime, str]]] = defaultdict(list)  # by contact: when, in which workflow
        self.portions: list[_Played] = []
        running = Intake.objects.filter(account=account, next_at__lte=until)
        for intake in running.select_related("workflow__published", "account"):
            waiting = IntakePerson.objects.filter(intake=intake, did="").order_by("number")
            people = waiting.values_list("contact_id", flat=True).iterator(chunk_size=BATCH)
            for at, size in intakes.coming(intake, until):
                if not (some := list(islice(people, size))):
                    break
                comes = (max(at, now), intake.workflow.name)
                self.portions.append(_Played(some[0], len(some), [comes]))
                for contact_id in some if len(self.enrols) <= MOST else ():
                    self.enrols[contact_id].append(comes)
        self.dated = Expected.objects.filter(account=account, at__lte=until)
        dated = self.dated.values_list("contact_id", flat=True)[: MOST + 1]
        self.contact_ids = {*self.enrols, *dated}

    def groups(self) -> list[_Played]:
        """Each portion of an intake, and those whose date comes in the same hour, as one of them."""
        hours = self.dated.values_list("workflow__name", TruncHour("at")).annotate(n=Count("id"), one=Min("contact_id"))
        dated = [_Played(one, n, [(max(at, self.now), name)]) for name, at, n, one in hours.order_by("-n")]
        return [*self.portions, *dated]


def _play(
    account: Account,
    now: datetime,
    until: datetime,
    workflow: int | None,
    played: Sequence[_Played],
    counts: _Counts,
    alone: bool = False,
) -> None:
    """`alone`: only what they come into, and what starts by that; not where they stand, nor their dates."""
    documents: list[Document] = []
    ids_of: dict[str, int] = {}
    programs: dict[str, Program] = {}
    for one in Workflow.objects.filter(account=account, published__isnull=False, archived_at=None):
        document = published_document(one.published_id or 0)
        # Closed to newcomers: who is inside goes on, and nothing starts it.
        dated = by_time_alone(document.starts) if alone else []
        starts = tuple(start for start in document.starts if start not in dated) if one.open else ()
        documents.append(document.model_copy(update={"starts": starts}))
        ids_of[document.name], programs[document.name] = one.id, program_of(one.published_id or 0)
    ids = sorted({one.contact_id for one in played})
    rows: dict[int, list[Enrolment]] = defaultdict(list)
    inside = Enrolment.objects.filter(account=account, contact_id__in=ids, ended_at=None, fault="", paused_at=None)
    for row in () if alone else inside.order_by("id"):
        rows[row.contact_id].append(row)
    left = Enrolment.objects.filter(account=account, contact_id__in=ids).exclude(ended_at=None)
    before = left.values_list("contact_id", "workflow__name", "deal").annotate(last=Max("ended_at"))
    were: dict[int, list[tuple[str, datetime, str]]] = defaultdict(list)
    for contact_id, name, deal, last in before:
        were[contact_id].append((name, last, deal))
    known = _facts(account, ids, [*programs.values()], now)
    for who in played:
        if (facts := known.get(who.contact_id)) is None:
            continue
        world = World(documents, facts.account, facts.member, programs=programs)
        names = dict(ids_of)
        for name, last, deal in were[who.contact_id]:
            world.was_inside(facts.contact.id, name, last, deal)
        world.add(facts.contact, now)
        for row in rows[who.contact_id]:
            program = program_of(row.version_id)
            names[program.name] = row.workflow_id
            joined = None if row.begun else Joined(row.why, row.about)
            world.resume(facts.contact.id, program, row.state, now, joined)
        for at, name in who.enrols:
            if name in programs:
                world.enrol(facts.contact.id, name, at)
        try:
            for moment in world.run(until):
                id = names.get(moment.workflow, 0)
                if workflow in (None, id):
                    for effect in moment.effects:
                        counts.effect(moment.at, id, effect, who.count)
        except BadTemplate:  # the engine will set it aside and say so
            continue


def _facts(account: Account, ids: Sequence[int], programs: Iterable[Program], now: datetime) -> Mapping[int, Facts]:
    needs: frozenset[Need] = frozenset().union(*(program.needs for program in programs))
    return load_facts(account, ids, needs, now, in_life=True)


# ---- by groups

GROUPS = """
SELECT workflow_id, version_id, min(id), count(*)
  FROM workflows_enrolment
 WHERE account_id = %s AND ended_at IS NULL AND fault = '' AND paused_at IS NULL
   AND (until IS NULL OR until <= %s) {narrow}
 GROUP BY workflow_id, version_id, place, date_trunc('hour', until), rest @> '{{"finished": true}}'
 ORDER BY count(*) DESC
"""


def _by_groups(account: Account, now: datetime, until: datetime, workflow: int | None, counts: _Counts) -> int:
    """Answers how many people are left out."""
    narrow, more = ("AND workflow_id = %s", [workflow]) if workflow else ("", [])
    groups = sql.rows(GROUPS.format(narrow=narrow), [account.id, until, *more])
    played = groups[:MOST_GROUPS]
    rows = Enrolment.objects.filter(id__in=[group[2] for group in played]).in_bulk()
    programs = [program_of(group[1]) for group in played]
    facts = _facts(account, [row.contact_id for row in rows.values()], programs, now)
    for workflow_id, version_id, id, count in played:
        row = rows.get(id)
        if row is None or row.contact_id not in facts:
            continue
        try:
            for at, effect in ahead(program_of(version_id), row.state, facts[row.contact_id], now, until):
                counts.effect(at, workflow_id, effect, count)
        except BadTemplate:  # the engine will set it aside and say so
            continue
    return sum(group[3] for group in groups[MOST_GROUPS:])
