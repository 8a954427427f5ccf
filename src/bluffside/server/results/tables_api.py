"""Results by something else than a workflow: messages, channels, senders, wordings, weeks; what the team did; where people came from."""

from datetime import timedelta
from decimal import Decimal
from typing import Any, Literal, NamedTuple, cast

from django.db.models import Sum
from django.http import HttpResponse, StreamingHttpResponse
from django.utils.text import slugify
from ninja import Path, Query, Router, Schema

from bluffside.core.statistics.said import said
from bluffside.core.statistics.share import share
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.core.words import day, money
from bluffside.server.people.exporting import workbook
from bluffside.server.people.spreadsheet import csv_rows
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.practice.models import Account
from bluffside.server.results import joined, sent
from bluffside.server.results.models import TaskSum
from bluffside.server.results.periods import OfPeriod, Period, PeriodIn, days_of, monday
from bluffside.server.results.sent import Sent
from bluffside.server.results.shown import RateOut, rate
from bluffside.server.results.workflow_api import SentFigures, sent_out
from bluffside.server.workflows.aims import aims_of
from bluffside.server.workflows.models import Workflow

router = Router(tags=["results"], auth=InAccount())
By = Literal["message", "channel", "sender", "wording", "week"]
NOBODY = "nobody in particular"


class SentTableRow(Schema):
    name: str
    about: str
    sent: SentFigures


class SentTable(OfPeriod):
    rows: list[SentTableRow]
    all: SentFigures


class MemberFigures(Schema):
    """`hours`: from when a task was due until it was done, on average; -1 where none was. `reached` is of calls that were made."""

    name: str
    calls: int
    to_dos: int
    done: int
    open: int
    reached: RateOut
    hours: float


class SourceFigures(Schema):
    """How people had become known who came into workflows: each of them as often as they came in."""

    name: str
    joined: int
    young: int
    rate: RateOut
    worth: str


class TeamTable(OfPeriod):
    rows: list[MemberFigures]


class SourceTable(OfPeriod):
    rows: list[SourceFigures]


@router.get("results/messages", response=SentTable)
def messages(request: AccountRequest, account: Path[str], given: Query[PeriodIn], by: By = "message") -> SentTable:
    own = request.account
    period = Period.of(own, given)
    rows, all_of_it = _sent(own, period, by)
    return SentTable(
        **days_of(own, period),
        rows=[SentTableRow(name=name, about=about, sent=sent_out(one, own.currency)) for name, about, one in rows],
        all=sent_out(all_of_it, own.currency),
    )


@router.get("results/team", response=TeamTable)
def team(request: AccountRequest, account: Path[str], given: Query[PeriodIn]) -> TeamTable:
    own = request.account
    period = Period.of(own, given)
    rows = [
        MemberFigures(
            name=one.name, calls=one.calls, to_dos=one.made - one.calls, done=one.done,
            open=one.made - one.done - one.dropped, reached=rate(share(one.reached, one.called)),
            hours=round(one.hours / one.done, 1) if one.done else -1,
        )
        for one in _members(own, period)
    ]  # fmt: skip
    return TeamTable(**days_of(own, period), rows=rows)


@router.get("results/sources", response=SourceTable)
def sources(request: AccountRequest, account: Path[str], given: Query[PeriodIn]) -> SourceTable:
    own = request.account
    period = Period.of(own, given)
    rows = [
        SourceFigures(
            name=name, joined=one.joined, young=one.young, rate=rate(one.rate),
            worth=money(one.worth, own.currency) if one.worth else "",
        )
        for name, one in _sources(own, period)
    ]  # fmt: skip
    return SourceTable(**days_of(own, period), rows=rows)


def _worth(amount: Decimal) -> str:
    return f"{amount:.2f}" if amount else ""


# ---- what the tables are made of


def _sent(account: Account, period: Period, by: By) -> tuple[list[tuple[str, str, Sent]], Sent]:
    """Rows by what they are called, with what is worth knowing of each, those with most messages first; and all of it."""
    sums = sent.sums_in(account, period)
    everything = sent.sent_by(sums).get((), Sent())
    if by == "week":
        weeks: dict[Any, Sent] = {}
        for (on,), one in sent.sent_by(sums, "day").items():
            weeks.setdefault(monday(on), Sent()).join(one)
        return [
            (f"{day(on)} to {day(on + timedelta(days=6))}", "", one) for on, one in sorted(weeks.items())
        ], everything
    columns = {"message": ("message", "channel", "workflow_id"), "wording": ("message", "wording", "channel")}.get(
        by, (by, "channel")
    )
    if by == "wording":
        sums = sums.exclude(wording="")
    names = dict(Workflow.written.filter(account=account).values_list("id", "name")) if by == "message" else {}
    found = []
    for key, one in sent.sent_by(sums, *columns).items():
        about = [str(part) for part in key[1:] if isinstance(part, str) and part]
        about = [CHANNEL_KINDS[part].one if part in CHANNEL_KINDS else part for part in about]
        about += [names[part] for part in key[1:] if isinstance(part, int) and part in names]
        name = (
            CHANNEL_KINDS[key[0]].several
            if by == "channel"
            else key[0] or {"sender": "the usual sender"}.get(by, "written by hand")
        )
        found.append((name, "" if by == "channel" else ", ".join(about), one))
    return sorted(found, key=lambda row: (-row[2].tried, row[0])), everything


class Member(NamedTuple):
    name: str
    made: int
    calls: int
    called: int
    done: int
    reached: int
    dropped: int
    hours: float


def _members(account: Account, period: Period) -> list[Member]:
    rows = TaskSum.objects.filter(account=account, day__gte=period.since, day__lte=period.until)
    summed = rows.values("member", "kind").annotate(
        all_made=Sum("made"),
        all_done=Sum("done"),
        all_reached=Sum("reached"),
        all_dropped=Sum("dropped"),
        all_hours=Sum("hours"),
    )
    found: dict[str, Member] = {}
    for row in summed.order_by("member"):
        known, call = (
            found.get(row["member"], Member(row["member"] or NOBODY, 0, 0, 0, 0, 0, 0, 0)),
            row["kind"] == "call",
        )
        found[row["member"]] = Member(
            known.name, known.made + row["all_made"], known.calls + call * row["all_made"],
            known.called + call * row["all_done"], known.done + row["all_done"], known.reached + call * row["all_reached"],
            known.dropped + row["all_dropped"], known.hours + row["all_hours"],
        )  # fmt: skip
    return sorted(found.values(), key=lambda one: (-one.made, one.name))


def _sources(account: Account, period: Period) -> list[tuple[str, joined.Cohort]]:
    over = {id: joined.last_over(account, aim) for id, aim in aims_of(account).items()}
    known = joined.cohorts(joined.sums_in(account, period), over, "source")
    return sorted(((str(name) or "not known", one) for name, one in known.items()), key=lambda row: -row[1].joined)


# ---- as files


Table = Literal["workflows", "message", "channel", "sender", "wording", "week", "team", "sources"]
HEAD = (
    "Tried",
    "Delivered",
    "Failed",
    "Clicked",
    "Replied",
    "Booked next",
    "Reached the aim next",
    "Opted out",
    "Complained",
    "Worth",
)


@router.get("results/tables/{table}", response={200: None})
def as_file(
    request: AccountRequest,
    account: Path[str],
    table: Table,
    given: Query[PeriodIn],
    kind: Literal["csv", "xlsx"] = "csv",
) -> HttpResponse | StreamingHttpResponse:
    """Each rate stands beside what it is of and its interval, so that nobody has to count anew."""
    own = request.account
    period = Period.of(own, given)
    rows = _rows(own, period, table)
    name = f"{slugify(own.name)}-results-{table}-{period.since}-{period.until}.{kind}"
    response: HttpResponse | StreamingHttpResponse
    if kind == "csv":
        response = StreamingHttpResponse(csv_rows(iter(rows)), content_type="text/csv; charset=utf-8")
    else:
        sort = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        response = HttpResponse(workbook(iter(rows), "Results"), content_type=sort)
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''{name}"
    return response


def _rows(account: Account, period: Period, table: Table) -> list[list[str]]:
    if table == "team":
        head = [
            "Who",
            "Calls",
            "To-dos",
            "Done",
            "Called off",
            "Reached somebody",
            "Of calls made",
            "Interval of that share",
            "Hours late",
        ]
        return [head, *(
            [one.name, *map(str, (one.calls, one.made - one.calls, one.done, one.dropped, one.reached, one.called)),
             said(share(one.reached, one.called)), f"{one.hours / one.done:.1f}" if one.done else ""]
            for one in _members(account, period)
        )]  # fmt: skip
    if table in ("workflows", "sources"):
        head = ["Workflow" if table == "workflows" else "How they became known", "Came in", "With days left", "Days over",
                "Reached the aim", "Interval of that share", "Worth", "Held back", "Held back, reached it"]  # fmt: skip
        return [head, *([name, *_cohort_cells(one)] for name, one in _cohorts(account, period, table))]
    rows, everything = _sent(account, period, cast(By, table))
    return [
        ["Of", "About", *HEAD],
        *([name, about, *_sent_cells(one)] for name, about, one in rows),
        ["All", "", *_sent_cells(everything)],
    ]


def _cohorts(account: Account, period: Period, table: Table) -> list[tuple[str, joined.Cohort]]:
    if table == "sources":
        return _sources(account, period)
    over = {id: joined.last_over(account, aim) for id, aim in aims_of(account).items()}
    known = joined.cohorts(joined.sums_in(account, period), over)
    names = dict(Workflow.written.filter(account=account).values_list("id", "name"))
    return sorted((names[int(id)], one) for id, one in known.items() if int(id) in names)


def _cohort_cells(one: joined.Cohort) -> list[str]:
    counts = (one.joined, one.young, one.over, one.reached)
    return [*map(str, counts), said(one.rate), _worth(one.worth), str(one.held), str(one.held_reached)]


def _sent_cells(one: Sent) -> list[str]:
    counts = (
        one.tried,
        one.delivered,
        one.failed,
        one.clicked,
        one.replied,
        one.booked,
        one.reached,
        one.opted_out,
        one.complained,
    )
    return [*map(str, counts), _worth(one.worth)]
