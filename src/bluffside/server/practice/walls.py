"""The second wall between accounts: who may see which rows of a connection.

Every table that carries an account is under PostgreSQL's row-level security (see server/row_level_security.py, which raises the
walls when the database is migrated). A connection of the application sees nothing of any account until it has entered
one, and a role that could see past that is not used. What is set here lies in settings of the session:

    bluffside.accounts   the ids of the accounts that were entered, by comma
    bluffside.person     who is signed in, whose own memberships can be read

The settings hold for the connection until it leaves, or until the transaction they were set in is undone. Whoever leaves an
account and has written anything lets its open pages know (practice/pulse.py).
"""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction

from bluffside.server.practice import pulse
from bluffside.server.practice.models import Account, Person

_names_changed: dict[int, int] = {}
_unsettled: set[int] = set()


def names_changed(account_id: int) -> int:
    """`Account.names_changed` as it was when this process entered the account last: whoever enters has just read its row."""
    return _names_changed.get(account_id, 0)


def is_settled(account_id: int) -> bool:
    """Whether what was read of the account's documents may be kept: not while a transaction that changes their words is open."""
    return account_id not in _unsettled


def unsettle(account: Account) -> None:
    """Until the transaction at hand has ended, nothing is kept of the account's documents; from its commit on, all read them anew."""

    def settle() -> None:
        note_names(account)
        _unsettled.discard(account.id)

    _unsettled.add(account.id)
    transaction.on_commit(settle)


def note_names(account: Account) -> None:
    _names_changed[account.id] = max(account.names_changed, names_changed(account.id))


def _set(name: str, value: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("SELECT set_config(%s, %s, false)", [f"bluffside.{name}", value])
    connection.bluffside_entered = True  # type: ignore[attr-defined]


def enter(*accounts: Account | int) -> None:
    for one in accounts:
        if isinstance(one, Account):
            note_names(one)
            if not connection.in_atomic_block:  # what was left open went back
                _unsettled.discard(one.id)
    _set("accounts", ",".join(str(one.id if isinstance(one, Account) else one) for one in accounts))


def as_person(person: Person) -> None:
    _set("person", str(person.id))


def leave() -> None:
    return_to(("", ""))


def scope() -> tuple[str, str]:
    """What the connection has entered: accounts, and the person. Costs nothing where nothing was."""
    if connection.connection is None or not getattr(connection, "bluffside_entered", False):
        return "", ""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT coalesce(current_setting('bluffside.accounts', true), ''),"
            " coalesce(current_setting('bluffside.person', true), '')"
        )
        row: tuple[str, str] = cursor.fetchone()
    return row


def return_to(before: tuple[str, str]) -> None:
    """Forgets what was entered since `scope` answered this."""
    if connection.connection is None or not getattr(connection, "bluffside_entered", False):
        return
    if connection.needs_rollback:  # undoing the transaction undoes what was set in it, too
        return
    pulse.beat()
    _set("accounts", before[0])
    _set("person", before[1])
    connection.bluffside_entered = any(before)  # type: ignore[attr-defined]


@contextmanager
def within(*accounts: Account | int) -> Iterator[None]:
    """Inside these accounts for a while, and then where one was before."""
    before = scope()
    enter(*accounts)
    try:
        yield
    finally:
        return_to(before)
