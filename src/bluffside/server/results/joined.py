"""Who came into workflows in a period, and how many of them reached the aim: of those whose days for it are over, and of those who have
days left, told apart."""

from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal

from django.db.models import QuerySet, Sum

from bluffside.core.statistics.share import Share, share
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.aim import Aim
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.results.models import JoinedSum
from bluffside.server.results.periods import Period, monday

COUNTS = ("joined", "reached", "worth", "held", "held_reached", "held_worth", "left")


@dataclass(slots=True)
class Week:
    """Of who came in from a Monday on: reached it, did not, have days left."""

    reached: int = 0
    did_not: int = 0
    days_left: int = 0


@dataclass(slots=True)
class Cohort:
    """Those who came in. `over`: whose days for the aim are over; `young`: who have days left; `held`: left out on purpose, of those whose
    days are over. `days`: how many reached it after how many days."""

    joined: int = 0
    over: int = 0
    reached: int = 0
    worth: Decimal = Decimal(0)
    young: int = 0
    young_reached: int = 0
    held: int = 0
    held_reached: int = 0
    days: Counter[int] = field(default_factory=Counter)
    weeks: dict[date, Week] = field(default_factory=lambda: defaultdict(Week))

    @property
    def rate(self) -> Share:
        return share(self.reached, self.over)

    @property
    def held_rate(self) -> Share:
        return share(self.held_reached, self.held)

    @property
    def half_by(self) -> int | None:
        """The day by which half of those who reached it had; None of none."""
        wanted, seen = (sum(self.days.values()) + 1) // 2, 0
        for after, count in sorted(self.days.items()):
            seen += count
            if seen >= wanted:
                return after
        return None


def last_over(account: Account, aim: Aim | None) -> date:
    """The last day of coming in whose time for the aim is over."""
    now = clock.now()
    if aim is None:
        return to_local(now, account.zone).date()
    return to_local(aim.within.before(now, account.zone), account.zone).date() - timedelta(days=1)


def sums_in(account: Account, period: Period) -> QuerySet[JoinedSum]:
    return JoinedSum.objects.filter(account=account, day__gte=period.since, day__lte=period.until)


def cohorts(rows: QuerySet[JoinedSum], over: Mapping[int, date], by: str = "workflow_id") -> dict[int | str, Cohort]:
    """`over`: the last day over, by workflow; of one that is not named nobody has an aim. `by`: what they are told apart by."""
    found: dict[int | str, Cohort] = defaultdict(Cohort)
    summed = rows.values("workflow_id", "day", *([by] if by != "workflow_id" else [])).annotate(
        **{f"all_{name}": Sum(name) for name in COUNTS}
    )
    for row in summed.order_by("day"):
        _put(found[row[by]], row, over.get(row["workflow_id"]))
    for id, days, *key in rows.exclude(days={}).values_list("workflow_id", "days", "day", by):
        if key[0] <= over.get(id, date.min):
            found[key[1]].days.update({int(after): count for after, count in days.items()})
    return dict(found)


def _put(into: Cohort, row: Mapping[str, object], over: date | None) -> None:
    joined, reached, worth, held, held_reached = (
        row[f"all_{name}"] for name in ("joined", "reached", "worth", "held", "held_reached")
    )
    day = row["day"]
    assert isinstance(day, date) and isinstance(worth, Decimal)
    assert (
        isinstance(joined, int) and isinstance(reached, int) and isinstance(held, int) and isinstance(held_reached, int)
    )
    into.joined += joined
    if over is None:
        return
    week = into.weeks[monday(day)]
    week.reached += reached
    if day <= over:
        into.over += joined
        into.reached += reached
        into.worth += worth
        into.held += held
        into.held_reached += held_reached
        week.did_not += joined - reached
    else:
        into.young += joined
        into.young_reached += reached
        week.days_left += joined - reached
