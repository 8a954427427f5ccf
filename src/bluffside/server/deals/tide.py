"""The open deals of a pipeline as a table: its stages across, and down when the next thing happens about each. Rows and columns add up
over all of them, however few of a cell are shown."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from decimal import Decimal
from typing import Literal

from bluffside.core.timing.local import to_local
from bluffside.server.deals.next_up import Next, next_of
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
    that rest too long."""

    whose: int | None = None
    least: Decimal = Decimal(0)
    only: Literal["", "nothing", "long"] = ""


@dataclass(frozen=True, slots=True)
class Standing:
    """A deal where it stands: what is next; how many days it is here, and by how many too long."""

    deal: Deal
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


def row_of(one: Next, today: date, zone: str) -> Row:
    if one.at is None:
        return "nothing"
    days = (to_local(one.at, zone).date() - today).days
    return (
        "late" if days < 0 else "today" if days == 0 else "tomorrow" if days == 1 else "week" if days < 7 else "later"
    )


def tide(account: Account, pipeline: Pipeline, wanted: Filter, person: int, now: datetime) -> Tide:
    """`person`: whose deals are counted as mine."""
    deals = Deal.objects.filter(account=account, pipeline=pipeline.name, state=Deal.State.OPEN)
    rows = list(deals.select_related("contact").order_by("pk")[:MOST])
    stages = list(pipeline.stages.all())
    by_name = {one.name: one for one in stages}
    stages += [
        Stage(pipeline=pipeline, name=name, position=99) for name in sorted({one.stage for one in rows} - set(by_name))
    ]
    by_name |= {one.name: one for one in stages if one.name not in by_name}
    found = sort_out(rows, next_of(account, rows, now), by_name, wanted, now, account.zone)
    found.mine = sum(one.owner_id == person for one in rows)
    return found


def sort_out(
    deals: Sequence[Deal], coming: Mapping[int, Next], stages: Mapping[str, Stage], wanted: Filter, now: datetime, zone: str
) -> Tide:  # fmt: skip
    """Puts deals into the table. `coming`: by their ids; `stages`: by name, in their order."""
    standing = [_standing(one, coming[one.pk], stages[one.stage], now) for one in deals]
    found = Tide(
        list(stages.values()), {name: Sum() for name in stages}, {one: Sum() for one in ROWS}, defaultdict(Sum),
        sum(one.next.at is None for one in standing), sum(one.over > 0 for one in standing),
    )  # fmt: skip
    today = to_local(now, zone).date()
    for one in sorted((each for each in standing if _fits(each, wanted)), key=_urgency):
        row = row_of(one.next, today, zone)
        for each in (found.columns[one.deal.stage], found.rows[row], found.cells[row, one.deal.stage]):
            each.add(one)
    return found


def _standing(deal: Deal, coming: Next, stage: Stage, now: datetime) -> Standing:
    return Standing(deal, coming, max(0, (now - deal.since).days), rests_too_long(stage, deal.since, now))


def _fits(one: Standing, wanted: Filter) -> bool:
    return (
        (wanted.whose is None or (one.deal.owner_id or 0) == wanted.whose)
        and one.deal.value >= wanted.least
        and (wanted.only != "nothing" or one.next.at is None)
        and (wanted.only != "long" or one.over > 0)
    )


def _urgency(one: Standing) -> tuple[bool, float, float]:
    """By when it comes; with nothing next, the longest over, then the dearest."""
    if one.next.at is None:
        return False, -one.over, -float(one.deal.value)
    return True, one.next.at.timestamp(), 0.0


def days_of(today: date) -> dict[Row, tuple[date, date | None]]:
    """Which days the rows of the days to come are; None: without end."""
    tomorrow, week = today + timedelta(days=1), today + timedelta(days=6)
    return {
        "today": (today, today), "tomorrow": (tomorrow, tomorrow),
        "week": (today + timedelta(days=2), week), "later": (week + timedelta(days=1), None),
    }  # fmt: skip
