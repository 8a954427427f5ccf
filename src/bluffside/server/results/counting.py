"""Counting days anew: what notes say has changed (events/counting.py) names the days whose sums are written again, from the rows.

So a day's sums are always what its rows say, whatever came late, twice, or while a worker died. A change of the account's time zone, and an
account that was never counted, name all days. Days whose messages or events are no longer kept stay as they were.
"""

from datetime import date, datetime, timedelta

from django.db import transaction

from bluffside.core.timing.local import to_local
from bluffside.server import sql
from bluffside.server.events.models import Uncounted
from bluffside.server.practice import clock, keeping
from bluffside.server.practice.models import Account
from bluffside.server.results.day_sums import Days, write_joined, write_messages, write_tasks
from bluffside.server.results.models import SUMS, Counted, UncountedDay

NOTES = 500  # that are read at a time
DAYS = 7  # that are counted at a time
KEPT = ("events", "links", "reasons")  # what sums are counted from, as keeping calls it


@transaction.atomic
def count_batch(account: Account) -> int:
    """Answers how many notes were read, and days counted."""
    if not sql.try_lock("count", account.pk):
        return 0
    known, new = Counted.objects.get_or_create(account=account, defaults={"zone": account.zone, "at": clock.now()})
    if new or known.zone != account.zone:
        _all_days(account)
        Uncounted.objects.filter(account=account).delete()
        known.zone = account.zone
    read = _read_notes(account)
    days = list(UncountedDay.objects.filter(account=account).order_by("-day").values_list("day", flat=True)[:DAYS])
    if days:
        count_days(account, days)
        UncountedDay.objects.filter(account=account, day__in=days).delete()
    known.at = clock.now()
    known.save(update_fields=["zone", "at"])
    return read + len(days) + new


def count_days(account: Account, days: list[date]) -> None:
    """Writes the sums of some days anew; of days from before everything is kept nothing is touched."""
    first = _first_kept(account)
    for some in _runs([day for day in days if day >= first]):
        for model in SUMS:
            model._default_manager.filter(account=account, day__in=some).delete()
        span = Days.of(some, account.zone)
        write_messages(account, span)
        write_joined(account, span)
        write_tasks(account, span)


def _runs(days: list[date]) -> list[list[date]]:
    """Days that follow one another are counted together."""
    runs: list[list[date]] = []
    for day in sorted(days):
        if runs and day - runs[-1][-1] == timedelta(days=1):
            runs[-1].append(day)
        else:
            runs.append([day])
    return runs


def _first_kept(account: Account) -> date:
    """The first day of which everything is there: what is kept for the shortest time decides."""
    months = min(number for name, number in keeping.months(account.practice).items() if name in KEPT)
    return to_local(keeping.months_before(account, months), account.zone).date()


def _read_notes(account: Account) -> int:
    notes = list(Uncounted.objects.filter(account=account).order_by("id")[:NOTES])
    days: set[date] = set()
    for note in notes:
        days |= _days_of(account, note)
    UncountedDay.objects.bulk_create(
        [UncountedDay(account=account, day=day) for day in sorted(days)], ignore_conflicts=True
    )
    Uncounted.objects.filter(id__in=[note.pk for note in notes]).delete()
    return len(notes)


def _days_of(account: Account, note: Uncounted) -> set[date]:
    """The days to which what a note names belongs: of a contact, those of the last message of each series by then, and of
    messages that they have answered since."""
    found = sql.rows(
        """
        SELECT coalesce(sent_at, settled_at) FROM messaging_message WHERE id = ANY(%(messages)s)
        UNION SELECT joined_at FROM workflows_enrolment WHERE id = ANY(%(enrolments)s)
        UNION SELECT made_at FROM diary_task WHERE id = ANY(%(tasks)s)
        UNION SELECT (SELECT max(m.sent_at) FROM messaging_message m WHERE m.contact_id = s.contact_id AND m.sent_at <= %(at)s
                         AND m.enrolment_id IS NOT DISTINCT FROM s.enrolment_id)
          FROM (SELECT DISTINCT contact_id, enrolment_id FROM messaging_message WHERE contact_id = ANY(%(contacts)s)) AS s
        UNION SELECT m.sent_at FROM messaging_reply r JOIN messaging_message m ON m.id = r.message_id
         WHERE r.contact_id = ANY(%(contacts)s) AND r.received_at >= %(since)s
        """,
        {
            "messages": note.messages, "enrolments": note.enrolments, "tasks": note.tasks, "contacts": note.contacts,
            "at": note.at, "since": note.at - timedelta(hours=1),
        },
    )  # fmt: skip
    return {_day(at, account.zone) for (at,) in found if at}


def _day(at: datetime, zone: str) -> date:
    return to_local(at, zone).date()


def _all_days(account: Account) -> None:
    """Those on which something is, and those of which there are sums."""
    sql.execute(
        """
        INSERT INTO results_uncountedday (account_id, day)
        SELECT DISTINCT %(account)s::bigint, (at AT TIME ZONE %(zone)s)::date FROM (
            SELECT coalesce(sent_at, settled_at) AS at FROM messaging_message WHERE account_id = %(account)s
            UNION ALL SELECT joined_at FROM workflows_enrolment WHERE account_id = %(account)s
            UNION ALL SELECT made_at FROM diary_task WHERE account_id = %(account)s) AS known
         WHERE at IS NOT NULL
        ON CONFLICT DO NOTHING
        """,
        {"account": account.pk, "zone": account.zone},
    )
    counted = {
        day for sums in SUMS for day in sums._default_manager.filter(account=account).values_list("day", flat=True)
    }
    days = [UncountedDay(account=account, day=day) for day in sorted(counted)]
    UncountedDay.objects.bulk_create(days, ignore_conflicts=True)
