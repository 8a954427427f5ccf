"""Months: the stream of events and the reasons of enrolments are cut by month, so that they stay quick as they grow,
and so that an old month can be laid aside whole.

The database itself makes months (a function that belongs to its owner, see migrations/0002_events_cut_by_month.py). A row whose
month is not there yet lands in the table's rest; making the month moves it there.
"""

from datetime import date, datetime, timedelta

from django.db import connection, transaction

TABLES = ("events_event", "workflows_turn")
AHEAD = timedelta(days=62)


def make_months(first: datetime | date, last: datetime | date) -> int:
    """Sees to it that every month from one day's to another's is there; answers how many were made."""
    made = 0
    with transaction.atomic(), connection.cursor() as cursor:
        for table in TABLES:
            cursor.execute("SELECT bluffside_months(%s, %s, %s)", [table, _day(first), _day(last)])
            made += cursor.fetchone()[0]
    return made


def _day(moment: datetime | date) -> date:
    return moment.date() if isinstance(moment, datetime) else moment
