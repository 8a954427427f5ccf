"""The diary: what will go out by itself, day by day, beside the team's tasks and appointments."""

from collections import defaultdict
from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

from django.db.models import Count
from django.db.models.functions import TruncDate
from django.http import HttpResponse
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.messages.closing import words_for
from bluffside.core.timing.local import at_time, to_local
from bluffside.server.diary.models import Appointment, Task
from bluffside.server.diary.services import unwanted
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import preferences_link
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount
from bluffside.server.practice.words import moment
from bluffside.server.throttled_cache import lately
from bluffside.server.workflows import paper
from bluffside.server.workflows.forecast import forecast
from bluffside.server.workflows.models import Workflow

router = Router(tags=["diary"], auth=InAccount())
LONGEST = 62  # days asked for at a time


class OutlookRow(Schema):
    """So many messages by a channel, or tasks (channel empty), of one workflow on one day; `at` is the first one's local
    time."""

    workflow_id: int
    workflow: str
    colour: str
    channel: str
    name: str
    count: int
    at: str


class DiaryItem(Schema):
    """A task that is there already, or an appointment."""

    kind: str
    title: str
    contact_id: int
    contact: str
    at: str
    unwanted: str  # why a task had better not be done: the contact has asked for none


class DiaryDay(Schema):
    """`sent`: how many messages went out on a day that has been."""

    day: date
    holiday: str
    outlook: list[OutlookRow]
    items: list[DiaryItem]
    sent: int


class Diary(Schema):
    """`left_out`: people that the forecast leaves out, since there are too many different places."""

    days: list[DiaryDay]
    left_out: int


@router.get("diary", response=Diary)
def diary(
    request: AccountRequest,
    account: Path[str],
    start: date | None = None,
    days: Annotated[int, Field(ge=1, le=LONGEST)] = 7,
    workflow: int | None = None,
) -> Diary:
    """Local days from `start` (today's when left out). A forecast: as things stand, and if nobody answers."""
    own, zone, now = request.account, request.account.zone, clock.now()
    today = to_local(now, zone).date()
    first = start or today
    begin, end = (at_time(day, time(), zone) for day in (first, first + timedelta(days=days)))
    until = end - timedelta(seconds=1)
    key = ("forecast", own.id, until, workflow)
    coming = lately(key, lambda: forecast(own, until, workflow)) if end > now else None
    names = {one.id: one for one in Workflow.objects.filter(account=own).only("id", "name", "colour")}
    outlook: dict[date, list[OutlookRow]] = defaultdict(list)
    for row in coming.rows if coming else ():
        if row.day >= first:
            outlook[row.day].append(
                OutlookRow(
                    workflow_id=row.workflow_id,
                    workflow=names[row.workflow_id].name,
                    colour=names[row.workflow_id].colour,
                    channel=row.channel,
                    name=row.name,
                    count=row.count,
                    at=f"{to_local(row.first, zone):%H:%M}",
                )
            )
    items = _items(request, begin, end) if workflow is None else {}
    sent = _sent(request, begin, min(end, now))
    holidays = _holidays(request, first, days)
    found = [first + timedelta(days=n) for n in range(days)]
    return Diary(
        days=[
            DiaryDay(
                day=day,
                holiday=holidays.get(day, ""),
                outlook=outlook[day],
                items=items.get(day, []),
                sent=sent.get(day, 0),
            )
            for day in found
        ],
        left_out=coming.left_out if coming else 0,
    )


def _items(request: AccountRequest, begin: datetime, end: datetime) -> dict[date, list[DiaryItem]]:
    zone = request.account.zone
    tasks = Task.objects.filter(account=request.account, done_at=None, due_at__gte=begin, due_at__lt=end)
    booked = Appointment.objects.filter(
        account=request.account, state=Appointment.State.BOOKED, start__gte=begin, start__lt=end
    )
    tasks = tasks.select_related("contact").prefetch_related("contact__consents")
    rows = [(one.due_at, one.kind, one.title, one.contact, unwanted(one)) for one in tasks[:1_000]]
    rows += [(one.start, "appointment", one.type, one.contact, "") for one in booked.select_related("contact")[:1_000]]
    found: dict[date, list[DiaryItem]] = defaultdict(list)
    for at, kind, title, contact, why in sorted(rows, key=lambda row: row[0]):
        local = to_local(at, zone)
        found[local.date()].append(
            DiaryItem(
                kind=kind,
                title=title,
                contact_id=contact.id,
                contact=contact.name,
                at=f"{local:%H:%M}",
                unwanted=why,
            )
        )
    return found


def _sent(request: AccountRequest, begin: datetime, end: datetime) -> dict[date, int]:
    if end <= begin:
        return {}

    sent = request.account.messages.filter(sent_at__gte=begin, sent_at__lt=end)
    by_day = sent.annotate(day=TruncDate("sent_at", tzinfo=ZoneInfo(request.account.zone))).values_list("day")
    return dict(by_day.annotate(count=Count("id")).order_by())


def _holidays(request: AccountRequest, first: date, days: int) -> dict[date, str]:
    calendar = account_facts(request.account).care.holidays
    found = {first + timedelta(days=n): calendar.holiday(first + timedelta(days=n)) for n in range(days)}
    return {day: name for day, name in found.items() if name}


@router.get("letters.pdf", response={200: bytes})
def letters(request: AccountRequest, account: Path[str]) -> HttpResponse:
    """Every letter that is due and not posted yet, one to a page, ready for the envelope."""
    due = Task.objects.filter(account=request.account, kind=Task.Kind.LETTER, done_at=None, due_at__lte=clock.now())
    own = request.account
    sheets = [
        paper.Letter(
            task.contact.name, task.contact.post, task.title, task.say, preferences_link(own.id, task.contact_id)
        )
        for task in due.select_related("contact").order_by("due_at", "id")
    ]
    day = moment(clock.now(), own.zone).split(",")[0]
    to_own = words_for("letter", account_facts(own).care)
    pages = paper.letters(sheets, own.name, own.postal_address, day, to_own)
    response = HttpResponse(pages, content_type="application/pdf")
    response["Content-Disposition"] = "inline; filename=letters.pdf"
    return response
