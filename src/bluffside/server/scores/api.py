"""The lead score's page: its rules, what would change by those that do not count yet, and letting them count."""

from datetime import date, datetime, time, timedelta
from typing import Literal

from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.scoring.rules import ScoreRules
from bluffside.core.scoring.sheet import Score
from bluffside.core.timing.local import at_time
from bluffside.server.events.models import Event
from bluffside.server.people.api import contact_of
from bluffside.server.people.values import read_score
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment
from bluffside.server.scores import recounting
from bluffside.server.scores.counting import STEP, compare, counted_anew, crossing
from bluffside.server.scores.models import ScoreDraft, ScoreRecount, ScoreVersion
from bluffside.server.throttled_cache import lately
from bluffside.server.workflows.facts import load_facts
from bluffside.server.workflows.scoring import rules_of

router = Router(tags=["scores"], auth=InAccount())
MOST_VERSIONS = 50


RecountState = Literal["running", "stopped", "done"]
STATES: dict[str, RecountState] = {"running": "running", "stopped": "stopped", "done": "done"}


class RecountOut(Schema):
    state: RecountState
    done: int
    total: int
    moved: int
    asked: str


class ScoreVersionOut(Schema):
    since: str
    by: str
    rules: ScoreRules


class ScoreOut(Schema):
    """`rules`: the draft's where there is one, else those that count, which are `counting`. `revision`: 0 where there is no draft.
    `faults`: why they cannot count yet."""

    rules: ScoreRules
    counting: ScoreRules
    revision: int
    changed: str
    by: str
    faults: list[str]
    recount: RecountOut | None
    versions: list[ScoreVersionOut]


class ScoreRulesIn(Schema):
    rules: ScoreRules
    revision: int = Field(ge=0)


class MovesOut(Schema):
    """From one mark to another; "" is below all of them."""

    before: str
    after: str
    count: int


class MoverOut(Schema):
    id: int
    name: str
    before: float
    after: float
    mark_before: str
    mark_after: str


class BarOut(Schema):
    """From so many points on, `step` wide: people now, and with the changes."""

    points: int
    before: int
    after: int


class StartsOut(Schema):
    workflow: int
    name: str
    words: str
    count: int


class ComparedOut(Schema):
    """`looked_at` of `people` (fewer where there are very many: then all figures are of these); by the names of the rules, to how many
    each gives something, and what it gives the one who was asked for, before and after."""

    people: int
    looked_at: int
    step: int
    moves: list[MovesOut]
    bars: list[BarOut]
    rules: dict[str, int]
    who: list[MoverOut]
    starts: list[StartsOut]
    of_one: dict[str, tuple[float, float]]
    one_before: float
    one_after: float


class LetCountIn(Schema):
    revision: int
    starts: list[int] = Field(default=[], max_length=100)


class ThenOut(Schema):
    """A contact's score on a day, at its end: `known` is false where nothing was written down yet."""

    known: bool
    score: float
    mark: str
    made_of: list[tuple[str, float]]
    changed: str


@router.get("score", response=ScoreOut)
def score(request: AccountRequest, account: Path[str]) -> ScoreOut:
    own = request.account
    row, counting, rules = recounting.at_hand(own)
    last = ScoreRecount.objects.filter(account=own).order_by("-id").first()
    versions = ScoreVersion.objects.filter(account=own).select_related("by").order_by("-id")[:MOST_VERSIONS]
    return ScoreOut(
        rules=rules, counting=counting, revision=row.revision if row else 0, faults=recounting.missing(rules) + recounting.still_named(own, rules),
        changed=moment(row.changed_at, own.zone) if row else "", by=row.changed_by.name if row and row.changed_by else "",
        recount=RecountOut(
            state=STATES[last.state], done=last.done, total=last.total, moved=last.moved,
            asked=moment(last.asked_at, own.zone),
        ) if last else None,
        versions=[
            ScoreVersionOut(since=moment(one.since, own.zone), by=one.by.name if one.by else "", rules=ScoreRules.model_validate(one.rules))
            for one in versions
        ],
    )  # fmt: skip


@router.put("score", response=ScoreOut)
def keep(request: AccountRequest, account: Path[str], given: ScoreRulesIn) -> ScoreOut:
    """Keeps a draft: nothing counts by it yet."""
    require(request, "workflows")
    try:
        recounting.keep_draft(request.account, given.rules, given.revision, request.person)
    except recounting.BadScore as error:
        raise HttpError(422, f"{error} Nothing was changed.") from None
    except recounting.WrittenElsewhere:
        raise HttpError(
            409, "Somebody else has changed the rules meanwhile. Look again; nothing was changed."
        ) from None
    return score(request, account)


@router.delete("score", response=ScoreOut)
def drop(request: AccountRequest, account: Path[str]) -> ScoreOut:
    """The rules that count stay as they are."""
    require(request, "workflows")
    ScoreDraft.objects.filter(account=request.account).delete()
    return score(request, account)


@router.get("score/compared", response=ComparedOut)
def compared(
    request: AccountRequest, account: Path[str], revision: int = 0, contact: int | None = None, of: str = ""
) -> ComparedOut:
    """What would change in a score if the draft counted; where there is none, how people stand. `of`: which; "" is the lead score."""
    own, now = request.account, clock.now()
    hand = recounting.at_hand(own)
    rules = hand.rules
    found = lately(("score", own.pk, of[:40], hand.said), lambda: compare(own, hand.counting, rules, of, now))
    of_one: dict[str, tuple[float, float]] = {}
    before = after = 0.0
    if contact:
        contact_of(request, contact)
        known, anew = counted_anew(own, [contact], rules, now)[contact]
        was, would = (dict(one.make_up(now, of)) for one in (known.contact.score, anew))
        of_one = {name: (was.get(name, 0.0), would.get(name, 0.0)) for name in {*was, *would}}
        before, after = known.contact.score.at(now, of), anew.at(now, of)
    return ComparedOut(
        people=found.people, looked_at=found.looked_at, step=STEP,
        moves=[MovesOut(before=a, after=b, count=count) for (a, b), count in found.moves.items() if count],
        bars=[
            BarOut(points=points, before=found.before[points], after=found.after[points])
            for points in sorted({*found.before, *found.after})
        ],
        rules=dict(found.rules), of_one=of_one, one_before=before, one_after=after,
        who=[
            MoverOut(id=one.id, name=one.name, before=round(one.before, 1), after=round(one.after, 1),
                     mark_before=one.mark_before, mark_after=one.mark_after)
            for one in found.who
        ],
        starts=[
            StartsOut(workflow=workflow.pk, name=workflow.name, words=start.describe(), count=found.starts.get(workflow.pk, 0))
            for workflow, start in crossing(own)
        ],
    )  # fmt: skip


@router.post("score/count", response=ScoreOut)
def let_count(request: AccountRequest, account: Path[str], given: LetCountIn) -> ScoreOut:
    """The draft counts from now on, and a worker counts everybody anew."""
    require(request, "workflows")
    try:
        recounting.let_count(request.account, given.revision, given.starts, request.person)
    except recounting.BadScore as error:
        raise HttpError(422, f"{error} Nothing was changed.") from None
    except recounting.WrittenElsewhere:
        raise HttpError(409, "The rules were changed meanwhile. Look again; nothing was changed.") from None
    return score(request, account)


@router.post("score/stop", response=ScoreOut)
def stop(request: AccountRequest, account: Path[str]) -> ScoreOut:
    require(request, "workflows")
    recounting.stop(request.account)
    return score(request, account)


@router.get("contacts/{int:contact_id}/score/on", response=ThenOut)
def score_on(request: AccountRequest, account: Path[str], contact_id: int, day: date, of: str = "") -> ThenOut:
    """What it was at the end of a day, and what of: as the last change before that wrote it down."""
    contact_of(request, contact_id)
    own, now = request.account, clock.now()
    at = min(at_time(day + timedelta(days=1), time(), own.zone), now)
    if at == now:
        known = load_facts(own, [contact_id], frozenset(), now)[contact_id].contact.score
        return _then(own.zone, known, of, at, None, rules_of(own))
    rows = Event.objects.filter(account=own, contact_id=contact_id, kind="score.changed", at__lt=at)
    last = rows.order_by("-at", "-id").first()
    if last is None or "made_of" not in last.data:
        return ThenOut(known=False, score=0, mark="", made_of=[], changed="")
    rules = _rules_then(request, at)
    return _then(own.zone, read_score(last.data["made_of"]), of, at, last.at, rules)


def _rules_then(request: AccountRequest, at: datetime) -> ScoreRules:
    row = ScoreVersion.objects.filter(account=request.account, since__lte=at).order_by("-since", "-id").first()
    return ScoreRules.model_validate(row.rules) if row else rules_of(request.account) or ScoreRules()


def _then(
    zone: str, known: Score, of: str, at: datetime, changed: datetime | None, rules: ScoreRules | None
) -> ThenOut:
    points = known.at(at, of)
    return ThenOut(
        known=True, score=round(points, 1), mark=(rules or ScoreRules()).mark(points, of),
        made_of=[(name, round(each, 1)) for name, each in known.make_up(at, of) if round(each, 1)],
        changed=moment(changed, zone) if changed else "",
    )  # fmt: skip
