"""Results of an account: its workflows beside each other, in a period and against the one before."""

from datetime import date

from django.db.models import Count
from ninja import Path, Query, Router, Schema

from bluffside.core.statistics.said import Against, against, marks_by_chance
from bluffside.core.words import money, number, several
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.results import joined, sent
from bluffside.server.results.models import Counted, UncountedDay
from bluffside.server.results.periods import OfPeriod, Period, PeriodIn, days_of, monday
from bluffside.server.results.shown import AgainstOut, RateOut, against_out, rate
from bluffside.server.workflows.aims import aims_of
from bluffside.server.workflows.models import Enrolment, Workflow

router = Router(tags=["results"], auth=InAccount())


class WeekFigures(Schema):
    """Of who came in that week: how many reached the aim, did not, have days left."""

    monday: date
    reached: int
    did_not: int
    days_left: int


class WorkflowFigures(Schema):
    """`joined` and `young` are people who were written to; `rate` is of those whose days for the aim are over. `aim` is empty where none is
    named; then nothing is said of it."""

    id: int
    name: str
    aim: str
    joined: int
    young: int
    rate: RateOut
    against: AgainstOut
    weeks: list[WeekFigures]
    tried: int
    failed: int
    opted_out: int
    complained: int
    worth: str
    inside: int


class AccountResults(OfPeriod):
    """`sentences`: what moved beyond chance, and what did not. `counting`: days that are still being counted."""

    before_since: date
    before_until: date
    currency: str
    sentences: list[str]
    by_chance: str
    rows: list[WorkflowFigures]
    counted_at: str
    counting: int


@router.get("results", response=AccountResults)
def results(request: AccountRequest, account: Path[str], given: Query[PeriodIn]) -> AccountResults:
    own = request.account
    period = Period.of(own, given)
    aims = aims_of(own)
    over = {id: joined.last_over(own, aim) for id, aim in aims.items()}
    now, before = (joined.cohorts(joined.sums_in(own, one), over) for one in (period, period.before))
    went = sent.sent_by(sent.sums_in(own, period), "workflow_id")
    inside = dict(
        Enrolment.objects.filter(account=own, ended_at=None).values_list("workflow_id").annotate(count=Count("id"))
    )
    shown = now.keys() | before.keys() | inside.keys() | {id for (id,) in went}
    rows, moved = [], {}
    for workflow in Workflow.objects.filter(account=own, id__in=shown).order_by("name"):
        cohort, earlier = now.get(workflow.pk, joined.Cohort()), before.get(workflow.pk, joined.Cohort())
        aim, out = aims.get(workflow.pk), went.get((workflow.pk,), sent.Sent())
        change = against(cohort.rate, earlier.rate) if aim else Against("few")
        moved[workflow.name] = (change, cohort) if aim else None
        rows.append(
            WorkflowFigures(
                id=workflow.pk, name=workflow.name, aim=aim.describe() if aim else "", joined=cohort.joined,
                young=cohort.young, rate=rate(cohort.rate),
                against=against_out(change),
                weeks=_weeks(cohort, period), tried=out.tried, failed=out.failed, opted_out=out.opted_out,
                complained=out.complained, worth=money(cohort.worth, own.currency) if cohort.worth else "", inside=inside.get(workflow.pk, 0),
            )
        )  # fmt: skip
    counted = Counted.objects.filter(account=own).first()
    known = {name: one for name, one in moved.items() if one}
    return AccountResults(
        **days_of(own, period), before_since=period.before.since, before_until=period.before.until,
        currency=own.currency, sentences=_sentences(known, any(one.joined for one in before.values())), by_chance=_by_chance([one for one, _ in known.values()]),
        rows=sorted(rows, key=lambda one: (not one.aim, -one.joined)),
        counted_at=counted.at.isoformat() if counted else "",
        counting=UncountedDay.objects.filter(account=own).count(),
    )  # fmt: skip


def _weeks(cohort: joined.Cohort, period: Period) -> list[WeekFigures]:
    first, last = monday(period.since), monday(period.until)
    mondays = [date.fromordinal(day) for day in range(first.toordinal(), last.toordinal() + 1, 7)]
    empty = joined.Week()
    return [
        WeekFigures(monday=day, reached=week.reached, did_not=week.did_not, days_left=week.days_left)
        for day in mondays
        for week in (cohort.weeks.get(day, empty),)
    ]


def _sentences(moved: dict[str, tuple[Against, joined.Cohort]], were_some: bool) -> list[str]:
    """What rose or fell, the largest first; how many moved no more than chance does; of which too few are known."""
    if moved and not were_some:
        return ["Nobody came in during the days before, so there is nothing to compare with yet."]
    marked = [(name, one, cohort) for name, (one, cohort) in moved.items() if one.way in ("rose", "fell")]
    said = [
        f"{name} {one.way}: {number(cohort.reached)} of {number(cohort.over)} reached the aim, {one.in_words} than before."
        for name, one, cohort in sorted(marked, key=lambda row: -abs(row[1].value))
    ]
    same = [name for name, (one, _) in moved.items() if one.way == "same"]
    few = [name for name, (one, _) in moved.items() if one.way == "few"]
    rest = []
    if same:
        rest.append(
            f"{several(same)} moved no more than chance does"
            if len(same) < 4
            else f"{len(same)} moved no more than chance does"
        )
    if few:
        rest.append(
            f"{several(few) if len(few) < 4 else f'of {len(few)}'} {'is' if len(few) == 1 else 'are'} too few to tell"
        )
    return [*said, "; ".join(rest) + "."] if rest else said


def _by_chance(compared: list[Against]) -> str:
    """That some mark comes by chance alone, where several are compared at once."""
    told = [one for one in compared if one.way != "few"]
    if len(told) < 2:
        return ""
    of_ten = round(10 * marks_by_chance(len(told)))
    return f"{len(told)} are compared at once: in {max(1, of_ten)} of 10 such tables one mark comes by chance alone."
