"""Everything an account owns in one file: gzip (RFC 1952) of JSON Lines, the first of which says what it is, each other one row of
a table. A worker writes it part by part, each a gzip member of its own, so that it can be stopped, and goes on after a crash where
it stood. Secrets stay behind; addresses, words and pictures come along.
"""

import gzip
import json
from collections.abc import Iterator

from django.db import transaction

from bluffside.server import sql
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, AccountExport, ExportPart, Person
from bluffside.server.practice.walls import within
from bluffside.server.wake import wake

FORMAT = "bluffside-account/1"
PART = 2_000  # rows
# Not the account's: how it goes on, and the export itself.
LEFT_OUT = frozenset({"practice_accountexport", "practice_exportpart", "practice_beat"})
SECRET = ("_sealed", "digest", "secret")  # how columns end whose values open something
State = AccountExport.State


@transaction.atomic
def begin(account: Account, by: Person) -> AccountExport:
    """A new one; the one before, and one that is under way, are gone. Its first part is written by the worker."""
    Account.objects.select_for_update().get(id=account.id)
    ExportPart.objects.filter(account=account).delete()
    AccountExport.objects.filter(account=account).delete()
    made = AccountExport.objects.create(account=account, by=by, asked_at=clock.now())
    audit.note(account, by, "exports", [audit.Noted("everything of the account", "", "a file of it is being made")])
    wake("export")
    return made


def stop(account: Account) -> None:
    AccountExport.objects.filter(account=account, state=State.RUNNING).update(state=State.STOPPED)


@transaction.atomic
def export_batch(account: Account) -> int:
    """Writes the next part of an export that is under way; answers how many rows it has."""
    one = AccountExport.objects.select_for_update(skip_locked=True).filter(account=account, state=State.RUNNING).first()
    if one is None:
        return 0
    tables = own_tables()
    if not one.parts:
        one.total = sum(_count(account, table) for table in tables)
        _write(one, [_about(account)])
    rows = _next(one, tables)
    if rows:
        _write(one, rows)
        one.rows += len(rows)
    else:
        one.state, one.done_at = State.DONE, clock.now()
    one.save()
    return len(rows) or 1


def _count(account: Account, table: str) -> int:
    found: int = sql.rows(f"SELECT count(*) FROM {table} WHERE account_id = %s", [account.id])[0][0]  # noqa: S608  # tables of ours
    return found


def own_tables() -> list[str]:
    """The tables with rows of accounts, by name, but for those that are left out."""
    found = sql.rows(
        "SELECT c.relname FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid"
        " WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'p') AND NOT c.relispartition"
        " AND a.attname = 'account_id' AND NOT a.attisdropped ORDER BY c.relname"
    )
    return [table for (table,) in found if table not in LEFT_OUT]


def _about(account: Account) -> str:
    """The first line: the account's own row, and who works in it."""
    [(row,)] = sql.rows("SELECT to_jsonb(a)::text FROM practice_account a WHERE id = %s", [account.id])
    people = list(account.memberships.select_related("person").order_by("id"))
    named = [
        {"id": one.person_id, "name": one.person.name, "email": one.person.email, "role": one.role} for one in people
    ]
    return json.dumps(
        {"format": FORMAT, "made": clock.now().isoformat(), "account": _without(json.loads(row)), "people": named}
    )


def _next(one: AccountExport, tables: list[str]) -> list[str]:
    """The rows of the next part, each as a line; the export knows then where it stands. None when it is through."""
    while True:
        table = one.table or (tables[0] if tables else "")
        if not table:
            return []
        # Rows of any table as PostgreSQL writes them: no model has to say how it is written.
        found = sql.rows(
            f"SELECT id, to_jsonb(t)::text FROM {table} t WHERE account_id = %s AND id > %s ORDER BY id LIMIT {PART}",  # noqa: S608  # tables of ours
            [one.account_id, one.after],
        )
        if found:
            one.table, one.after = table, found[-1][0]
            return [
                json.dumps({"table": table, "row": _without(json.loads(row))}, ensure_ascii=False) for _, row in found
            ]
        later = [name for name in tables if name > table]
        if not later:
            return []
        one.table, one.after = later[0], 0


def _without(row: dict[str, object]) -> dict[str, object]:
    return {name: value for name, value in row.items() if not name.endswith(SECRET)}


def _write(one: AccountExport, lines: list[str]) -> None:
    content = gzip.compress(("\n".join(lines) + "\n").encode(), mtime=0)
    ExportPart.objects.create(account_id=one.account_id, export=one, number=one.parts, content=content)
    one.parts += 1
    one.size += len(content)


def content(one: AccountExport) -> Iterator[bytes]:
    """The file, part by part, each read when it is sent."""
    for number in range(one.parts):
        with within(one.account_id):
            part = ExportPart.objects.filter(export=one, number=number).values_list("content", flat=True).first()
        if part is None:  # another was begun meanwhile
            return
        yield bytes(part)
