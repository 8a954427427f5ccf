"""The pulse of an account: a number that grows whenever anything of it was written, so that open pages ask for what they show
only then.

A connection remembers that it has written (`note_writes` sees each statement). When it leaves the account, after its
transaction, the account's number grows (walls.return_to). A page that asks each second costs one query: who has been let in
is remembered for a while, which gives away no more than that something was written.
"""

import time
from collections.abc import Callable
from typing import Any, NamedTuple

from django.db import connection
from django.db.backends.base.base import BaseDatabaseWrapper
from django.http import HttpRequest

WRITES = (
    "INSERT",
    "UPDATE",
    "DELETE",
    "WITH",
)  # a WITH may write; of one that does not, pages only look once too often
REMEMBERED = 30.0  # seconds
MOST_REMEMBERED = 10_000
_let_in: dict[tuple[str, str], tuple[int, float]] = {}


class Pulse(NamedTuple):
    """`working`: whether a worker was seen in the last half minute."""

    last: int
    working: bool


def note_writes(execute: Callable[..., Any], sql: Any, params: Any, many: bool, context: dict[str, Any]) -> Any:
    """A wrapper around each statement of a connection (Django's execute_wrapper)."""
    if str(sql).lstrip()[:6].upper().startswith(WRITES):
        context["connection"].bluffside_wrote = True
    return execute(sql, params, many, context)


def watch(connection: BaseDatabaseWrapper, **_: Any) -> None:
    if note_writes not in connection.execute_wrappers:
        connection.execute_wrappers.append(note_writes)


def beat() -> None:
    """Lets the numbers of the accounts grow that the connection has entered, if it has written anything."""
    if not getattr(connection, "bluffside_wrote", False):
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO practice_beat (account_id, number)"
            " SELECT id, 1 FROM practice_account WHERE id = ANY(bluffside_accounts())"
            " ON CONFLICT (account_id) DO UPDATE SET number = practice_beat.number + 1"
        )
    connection.bluffside_wrote = False  # type: ignore[attr-defined]


def remembered(request: HttpRequest, slug: str) -> int | None:
    """The account that the holder of this session was let into lately."""
    found = _let_in.get((request.COOKIES.get("sessionid", ""), slug))
    return found[0] if found and time.monotonic() < found[1] else None


def remember(request: HttpRequest, slug: str, account_id: int) -> None:
    if len(_let_in) >= MOST_REMEMBERED:
        _let_in.clear()
    _let_in[request.COOKIES.get("sessionid", ""), slug] = (account_id, time.monotonic() + REMEMBERED)


def look(account_id: int, request: HttpRequest) -> Pulse | None:
    """One query, whoever asks; the database tells these two of any account (walls.FUNCTIONS). None when the session has been
    ended, at once."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT number, working FROM bluffside_pulse(%s)"
            " WHERE EXISTS (SELECT FROM django_session WHERE session_key = %s AND expire_date > now())",
            [account_id, request.COOKIES.get("sessionid", "")],
        )
        found = cursor.fetchone()
    return Pulse(*found) if found else None
