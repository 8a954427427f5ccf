"""Results of one workflow: what it was for, how many reached that, what it added, and what came of each line along its script."""

from datetime import date

from django.shortcuts import get_object_or_404
from ninja import Path, Query, Router, Schema

from bluffside.core.statistics.added import added, people_until
from bluffside.core.statistics.said import said
from bluffside.core.words import counted, day, money, number
from bluffside.core.workflow.house import A_MONDAY
from bluffside.core.workflow.reading import read
from bluffside.server.people.queries import account_facts
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.practice.models import Account
from bluffside.server.results import joined, script
from bluffside.server.results.joined import Cohort
from bluffside.server.results.periods import OfPeriod, Period, PeriodIn, days_of
from bluffside.server.results.sent import Sent
from bluffside.server.results.shown import AddedOut, RateOut, ReasonCount, added_out, rate, reasons
from bluffside.server.workflows.aims import aims_of
from bluffside.server.workflows.models import Workflow
from bluffside.server.workflows.versions import published_document

router = Router(tags=["results"], auth=InAccount())
TELLING = 0.08  # to so much either way what is added is worth knowing


class SentFigures(Schema):
    """Of a line, a message, a channel …: what went out and what came of it. `rates` are of those delivered; of clicks, of those that had
    a link, so that it is None where none had."""

    tried: int
    delivered: int
    failed: int
    why: list[ReasonCount]
    clicked: RateOut | None
    replied: RateOut
    reached: RateOut
    booked: RateOut
    opted_out: RateOut
    complained: int
    worth: str


class TaskFigures(Schema):
    """Calls and to-dos: `reached` are calls that reached somebody."""

    made: int
    done: int
    reached: int


class LineFigures(Schema):
    """`when`: "day 3", counted from coming in; `lane`: the heading of the lane it is the first line of."""

    step: str
    depth: int
    lane: str
    when: str
    sentence: str
    who: str
    came: int
    left: int
    why: list[ReasonCount]
    here: int
    sent: SentFigures | None
    tasks: TaskFigures | None


class WorthDoing(Schema):
    step: str
    what: str
    why: str


class WorkflowResults(OfPeriod):
    """`sentences` are the lead; `young` says of those who have days left. `added` is None where nobody was held back, or too few."""

    id: int
    name: str
    aim: str
    version: int
    joined: int
    rate: RateOut
    held: RateOut | None
    added: AddedOut | None
    sentences: list[str]
    young: str
    lines: list[LineFigures]
    to_do: list[WorthDoing]


@router.get("results/workflows/{int:workflow_id}", response=WorkflowResults)
def workflow_results(
    request: AccountRequest, account: Path[str], workflow_id: int, given: Query[PeriodIn]
) -> WorkflowResults:
    own = request.account
    row = get_object_or_404(Workflow.objects.select_related("published"), account=own, id=workflow_id)
    period = Period.of(own, given)
    aim = aims_of(own, [row.pk]).get(row.pk)
    over = {row.pk: joined.last_over(own, aim)} if aim else {}
    known = joined.cohorts(joined.sums_in(own, period).filter(workflow_id=row.pk), over)
    cohort = known.get(row.pk, Cohort())
    lines, to_do = [], []
    if row.published_id:
        document = published_document(row.published_id)
        along = script.along(row, document, own, period)
        whens = _whens(own, row.published_id)
        lines = [_line_out(one, whens.get(one.step.id, ""), own.currency) for one in along]
        to_do = [WorthDoing(step=one.step, what=one.what, why=one.why) for one in script.to_do(along)]
    plus = added(cohort.rate, cohort.held_rate) if cohort.held else None
    return WorkflowResults(
        id=row.pk, name=row.name, aim=aim.describe() if aim else "",
        version=row.published.number if row.published else 0, **days_of(own, period),
        joined=cohort.joined, rate=rate(cohort.rate), held=rate(cohort.held_rate) if cohort.held else None,
        added=_with_money(added_out(plus, cohort.over), cohort, own.currency) if plus else None,
        sentences=_sentences(cohort, own.currency, period) if aim else [], young=_young(cohort, over.get(row.pk)),
        lines=lines, to_do=to_do,
    )  # fmt: skip


def _whens(account: Account, version_id: int) -> dict[str, str]:
    """The day of each line, counted from coming in, as the script is read for who came in this morning."""
    document = published_document(version_id)
    reading = read(document, A_MONDAY, account.zone, account_facts(account).care)
    return {line.step: f"Day {line.acts.day}" for line in reading.lines if line.acts}


def sent_out(one: Sent, currency: str) -> SentFigures:
    return SentFigures(
        tried=one.tried, delivered=one.delivered, failed=one.failed, why=reasons(one.why),
        clicked=rate(one.share_of("clicked")) if one.with_link else None, replied=rate(one.share_of("replied")),
        reached=rate(one.share_of("reached")), booked=rate(one.share_of("booked")),
        opted_out=rate(one.share_of("opted_out")), complained=one.complained,
        worth=money(one.worth, currency) if one.worth else "",
    )  # fmt: skip


def _line_out(one: script.Line, when: str, currency: str) -> LineFigures:
    tasks = one.tasks
    return LineFigures(
        step=one.step.id, depth=one.depth, lane=one.lane, when=when, sentence=one.step.describe(), who=one.step.who,
        came=one.came, left=one.left, why=reasons(one.why, 3), here=one.here,
        sent=sent_out(one.sent, currency) if one.sent else None,
        tasks=TaskFigures(made=tasks.made, done=tasks.done, reached=tasks.reached) if tasks else None,
    )  # fmt: skip


def _sentences(cohort: Cohort, currency: str, period: Period) -> list[str]:
    """What came of it, and what it added."""
    if not cohort.over:
        return ["Nobody’s days for it are over yet, so nothing is said of it."]
    worth = f", {money(cohort.worth, currency)}" if cohort.worth else ""
    half = cohort.half_by
    by = (
        f", half of them {'on the day they came in' if half == 0 else f'by day {half}'}"
        if half is not None and cohort.reached > 1
        else ""
    )
    verb = "was" if cohort.over == 1 else "were"
    first = (
        f"{counted(cohort.over, 'person', 'people')} {verb} written to, and their days for it are over: "
        f"{number(cohort.reached)} reached it, {said(cohort.rate)}{worth}{by}."
    )
    if not cohort.held:
        return [first]
    plus = added(cohort.rate, cohort.held_rate)
    all_the_same = (
        f"Of {number(cohort.held)} held back on purpose {number(cohort.held_reached)} reached it all the same"
    )
    if plus is None:
        return [first, f"{all_the_same}; what the follow-up added is too little known to tell."]
    needed = people_until(TELLING, cohort.rate.value, cohort.held / (cohort.held + cohort.over))
    if not plus.tells:
        more = _weeks(needed, cohort, period)
        return [first, f"{all_the_same}: nobody can tell yet whether the follow-up adds anything{more}."]
    low, high = sorted(abs(round(100 * part)) for part in (plus.low, plus.high))
    word = "added" if plus.value > 0 else "took away"
    return [first, f"{all_the_same}. So the follow-up {word} {abs(round(100 * plus.value))} in 100 ({low} to {high})."]


def _weeks(needed: int | None, cohort: Cohort, period: Period) -> str:
    """How long it takes, at the pace of the period, until it is known."""
    a_week = 7 * (cohort.joined + cohort.held) / ((period.until - period.since).days + 1)
    if not needed or not a_week:
        return ""
    weeks = round(max(0, needed - cohort.over - cohort.held) / a_week)
    return f"; at {number(round(a_week))} a week it is known to {round(100 * TELLING)} in 100 either way in {counted(max(1, weeks), 'week')}"


def _with_money(one: AddedOut, cohort: Cohort, currency: str) -> AddedOut:
    if cohort.worth and cohort.reached:
        each = cohort.worth / cohort.reached
        one.money = money(round(each * one.people), currency)
    return one


def _young(cohort: Cohort, over: date | None) -> str:
    if not cohort.young or over is None:
        return ""
    came = counted(cohort.young, "more came", "more came")
    return f"{came} in after {day(over)} and {'has' if cohort.young == 1 else 'have'} days left; {number(cohort.young_reached)} reached it so far."
