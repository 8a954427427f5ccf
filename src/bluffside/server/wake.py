"""Telling workers, in the transaction that makes work due, that there is some.

A notification only wakes: the rows are the truth. One that nobody hears is made up for by the sweep that
every worker does each second, one too many finds nothing to do (see worker.py).
"""

from typing import Literal

from django.db import connection

Work = Literal[
    "dispatch",
    "expect",
    "advance",
    "deliver",
    "calls",
    "notices",
    "receipts",
    "import",
    "intake",
    "copies",
    "keep",
    "staff mail",
    "export",
    "delete",
    "waiting",
    "resting",
    "recount",
    "standing",
    "busy",
    "aims",
    "count",
]
CHANNEL = "bluffside"


def wake(work: Work) -> None:
    """Notifications of one transaction that are alike are one, and go when it commits."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, work])
