"""The open deals of a pipeline as a table: its stages across, and down when the next thing happens about each. Rows and columns add up
over all of them, however few of a cell are shown."""

from bisect import bisect_right
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Literal, NamedTuple

from django.db.models import QuerySet

from bluffside.core.engine.turn import NEVER
from bluffside.core.timing.local import at_time, to_local
from bluffside.server.deals.next_up import Next, next_of
from bluffside.server.people.models import said_of
from bluffside.server.pipeline.models import Deal, Pipeline, Stage
from bluffside.server.pipeline.services import rests_too_long
from bluffside.server.practice.models import Account

Row = Literal["nothing", "late", "today", "tomorrow", "week", "later"]
ROWS: tuple[Row, ...] = ("nothing", "late", "today", "tomorrow", "week", "later")
MOST = 10_000  # deals of one pipeline that are looked at
SHOWN = 4  # of a cell


@dataclass(frozen=True, slots=True)
class Filter:
    """`whose`: a person's id, 0 for nobody's, None for everybody's; `least`: worth at least; `only`: those with nothing next, or those
    that rest too long; `among`: their ids, None for all."""

    whose: int | None = None
    least: Decimal = Decimal(0)
    only: Literal["", "nothing", "long"] = ""
    among: frozenset[int] | None = None


class Known(NamedTuple):
    """What the table knows of a deal: as rows of the database, five thousand of them take four times as long. `contact`: how they
    are called."""

    id: int
    contact_id: int
    ref: str
    stage: str
    state: str
    name: str
    value: Decimal
    owner_id: int | None
    since: datetime
    expected_on: date | None
    closed_at: datetime | None
    why: str
    contact: str = ""


COLUMNS = Known._fields[:-1]
CALLED = tuple(f"contact__{name}" for name in ("first_name", "last_name", "email", "mobile"))


def known(deals: QuerySet[Deal]) -> list[Known]:
    several = len(CALLED)
    return [Known._make((*row[:-several], said_of(*row[-several:]))) for row in deals.values_list(*COLUMNS, *CALLED)]


class Standing(NamedTuple):
    """A deal where it stands: what is next; how many days it is here, and by how many too long."""

    deal: Known
    next: Next
    days: int
    over: int


@dataclass(slots=True)
class Sum:
    count: int = 0
    worth: Decimal = Decimal(0)
    longer: int = 0
    some: list[Standing] = field(default_factory=list)

    def add(self, one: Standing) -> None:
        self.count += 1
        self.worth += one.deal.value
        self.longer += one.over > 0
        self.some.append(one)


@dataclass(slots=True)
class Tide:
    """`stages`: in their order, and those that deals stand in though the pipeline has them no more; `cells`: by row and stage."""

    stages: list[Stage]
    columns: dict[str, Sum]
    rows: dict[Row, Sum]
    cells: dict[tuple[Row, str], Sum]
    nothing: int
    longer: int
    mine: int = 0


def beginnings(today: date, zone: str) -> list[datetime]:
    """When the rows after "late" begin, in their order."""
    return [at_time(today + timedelta(days=days), time(), zone) for days in (0, 1, 2, 7)]


def row_of(one: Next, begin: Sequence[datetime]) -> Row:
    """`begin`: `beginnings`."""
    return "nothing" if one.at is None else ROWS[1 + bisect_right(begin, one.at)]


def tide(account: Account, pipeline: Pipeline, wanted: Filter, person: int, now: datetime) -> Tide:
    """`person`: whose deals are counted as mine."""
    rows = known(
        Deal.objects.filter(account=account, pipeline=pipeline.name, state=Deal.State.OPEN).order_by("pk")[:MOST]
    )
    found = sort_out(rows, next_of(account, rows, now), stages_of(pipeline, rows), wanted, now, account.zone)
    found.mine = sum(one.owner_id == person for one in rows)
    return found


def stages_of(pipeline: Pipeline, deals: Sequence[Known]) -> dict[str, Stage]:
    """By name, in their order; and those that deals stand in though the pipeline has them no more."""
    found = {one.name: one for one in pipeline.stages.all()}
    gone = sorted({one.stage for one in deals} - set(found))
    return found | {name: Stage(pipeline=pipeline, name=name, position=99) for name in gone}


def sort_out(
    deals: Sequence[Known], coming: Mapping[int, Next], stages: Mapping[str, Stage], wanted: Filter, now: datetime, zone: str
) -> Tide:  # fmt: skip
    """Puts deals into the table. `coming`: by their ids; `stages`: by name, in their order."""
    standing = [standing_of(one, coming[one.id], stages[one.stage], now) for one in deals]
    found = Tide(
        list(stages.values()), {name: Sum() for name in stages}, {one: Sum() for one in ROWS}, defaultdict(Sum),
        sum(one.next.at is None for one in standing), sum(one.over > 0 for one in standing),
    )  # fmt: skip
    begin = beginnings(to_local(now, zone).date(), zone)
    for one in sorted((each for each in standing if fits(each, wanted)), key=_urgency):
        row = row_of(one.next, begin)
        for each in (found.columns[one.deal.stage], found.rows[row], found.cells[row, one.deal.stage]):
            each.add(one)
    return found


def standing_of(deal: Known, coming: Next, stage: Stage, now: datetime) -> Standing:
    return Standing(deal, coming, max(0, (now - deal.since).days), rests_too_long(stage, deal.since, now))


def fits(one: Standing, wanted: Filter) -> bool:
    return (
        (wanted.whose is None or (one.deal.owner_id or 0) == wanted.whose)
        and one.deal.value >= wanted.least
        and (wanted.only != "nothing" or one.next.at is None)
        and (wanted.only != "long" or one.over > 0)
        and (wanted.among is None or one.deal.id in wanted.among)
    )


def _urgency(one: Standing) -> tuple[bool, datetime, int, Decimal]:
    """By when it comes; with nothing next, the longest over, then the dearest."""
    if one.next.at is None:
        return False, NEVER, -one.over, -one.deal.value
    return True, one.next.at, 0, Decimal(0)


def days_of(today: date) -> dict[Row, tuple[date, date | None]]:
    """Which days the rows of the days to come are; None: without end."""
    tomorrow, week = today + timedelta(days=1), today + timedelta(days=6)
    return {
        "today": (today, today), "tomorrow": (tomorrow, tomorrow),
        "week": (today + timedelta(days=2), week), "later": (week + timedelta(days=1), None),
    }  # fmt: skip
