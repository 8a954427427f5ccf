"""Bringing people in from a file: read, match, look, start, go on in chunks, stop, take back.

A chunk is one transaction: its contacts, tags, consent, events, faults and the count of rows done commit together, so a
crash loses nothing and brings nobody in twice. What a chunk added or changed is noted, so that it can be taken back;
taking back goes in chunks, too, and leaves alone whoever something else has happened to.

What a column is, is guessed from its heading and its values, or remembered from the last file with such headings.
"""

import logging
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal

from django.db import OperationalError, transaction
from django.db.models import Count, F, Func, TextField, Value

from bluffside.server import sql
from bluffside.server.people import taking_back
from bluffside.server.people.import_chunks import Chunk
from bluffside.server.people.import_columns import (
    NEW,
    Settings,
    beside_in,
    besides_of,
    guess_mapping,
    kind_made,
    new_fields,
    remembered_settings,
    rules_of,
    unplaced,
)
from bluffside.server.people.import_rows import Known, Row, RowReader, changes_to, shortened, who_is
from bluffside.server.people.models import (
    Contact,
    ContactImport,
    Field,
    ImportPart,
)
from bluffside.server.people.queries import fields_of
from bluffside.server.people.reading_apart import read_apart
from bluffside.server.people.services import BadContact
from bluffside.server.people.spreadsheet import BadSpreadsheet
from bluffside.server.people.tables import Table, with_headings
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

CHUNK = 500
SAMPLE = 500  # rows that are looked at before it starts
State = ContactImport.State

log = logging.getLogger("bluffside.imports")


class CannotStart(ValueError):
    """Why an import cannot be started or taken back as it is, in words."""


# ---- reading and matching


def read_file(account: Account, by: Person, file_name: str, data: bytes) -> ContactImport:
    """Raises BadSpreadsheet."""
    return keep(account, by, file_name, read_apart(data))


@transaction.atomic
def keep(account: Account, by: Person, file_name: str, table: Table) -> ContactImport:
    """Keeps a table as an import that has not begun, with its columns matched as well as can be guessed."""
    settings = _matched(account, table)
    imported = ContactImport.objects.create(
        account=account, by=by, file_name=file_name[:200], found=table.found, columns=table.columns,
        first_row=table.first_row, row_count=len(table.rows), settings=asdict(settings), read_at=clock.now(),
    )  # fmt: skip
    _keep_rows(imported, table)
    return imported


@transaction.atomic
def begin_at(imported: ContactImport, row: int) -> None:
    """The headings stand in a later row, as the sheet numbers it; what is above them is left out. Raises CannotStart."""
    if imported.state != State.READ:
        raise CannotStart("This import was started already.")
    parts = ImportPart.objects.filter(of=imported).order_by("first").values_list("rows", flat=True)
    rows = [cells for part in parts for cells in part]
    at = row - imported.first_row
    if not 0 <= at < len(rows) - 1:
        raise CannotStart(f"Headings can stand in rows {imported.first_row} to {imported.first_row + len(rows) - 2}.")
    left = {name: said for name, said in imported.found.items() if name != "headings"}
    table = with_headings(rows[at:], left | {"headings": f"in row {row}"}, headed=True)
    table.first_row = row + 1
    imported.settings = asdict(_matched(imported.account, table))
    imported.columns, imported.found, imported.first_row = table.columns, table.found, table.first_row
    imported.row_count = len(table.rows)
    imported.save(update_fields=["settings", "columns", "found", "first_row", "row_count"])
    ImportPart.objects.filter(of=imported).delete()
    _keep_rows(imported, table)


def _matched(account: Account, table: Table) -> Settings:
    settings, like = remembered_settings(account, table) or (Settings(), None)
    if like is None:
        sample = table.rows[:SAMPLE]
        settings.mapping = guess_mapping(table.columns, sample, fields_of(account), besides_of(account))
        settings.mapping |= new_fields(table.columns, sample, settings.mapping)
    places = besides_of(account)
    for one in beside_in(settings.mapping):
        if one in places and settings.places.get(one) not in places[one]:
            settings.places[one] = places[one][0]
    settings.rules = rules_of(account, settings.mapping, table.rows[:SAMPLE])
    if like is not None:
        table.found["matched"] = f"as “{like}” was"
    return settings


def _keep_rows(imported: ContactImport, table: Table) -> None:
    parts = [
        (imported.account_id, imported.id, first, sql.to_json(table.rows[first : first + CHUNK]))
        for first in range(0, len(table.rows), CHUNK)
    ]
    for some in sql.chunks(parts, 20):
        sql.insert(ImportPart, ("account_id", "of_id", "first", "rows"), some)


def known_in(account: Account, data: bytes) -> tuple[list[int], list[int]]:
    """The contacts whom a file names by email or mobile number, each once in its order, and the numbers of the rows (as
    spreadsheets count them) that name nobody who is here. Raises BadSpreadsheet."""
    table = read_apart(data)
    mapping = guess_mapping(table.columns, table.rows[:SAMPLE])
    by = {number: target for number, target in mapping.items() if target in ("email", "mobile")}
    if not by:
        raise BadSpreadsheet("No column of the file looks like an email address or a mobile number.")
    reader = RowReader(account, Settings(mapping=by))
    named: list[dict[str, str]] = []
    for cells in table.rows:
        try:
            named.append(reader.read(cells).own)
        except BadContact:
            named.append({})
    known = Known(account, named)
    hits = [known.by_any(one) for one in named]
    unknown = [number for number, hit in enumerate(hits, start=table.first_row) if hit is None]
    return list(dict.fromkeys(hit.pk for hit in hits if hit is not None)), unknown


# ---- before it starts


@dataclass(frozen=True, slots=True)
class Looked:
    """What would become of one row: new, changed, the same, or not taken."""

    row: int
    cells: list[str]
    becomes: Literal["new", "changed", "same", "fault"]
    words: str
    own: dict[str, str]
    fields: dict[str, Any]


def look(imported: ContactImport, settings: Settings) -> list[Looked]:
    """What would become of the first rows, each by itself. Nothing is changed."""
    first = rows_of_part(imported, 0)[:SAMPLE]
    settings.rules = rules_of(imported.account, settings.mapping, first) | settings.rules
    reader = RowReader(imported.account, settings)
    read: list[tuple[int, list[str], Row | None, str]] = []
    for number, cells in enumerate(first, start=imported.first_row):
        try:
            read.append((number, cells, reader.read(cells), ""))
        except BadContact as error:
            read.append((number, cells, None, str(error)))
    known = Known(imported.account, [row.own for _, _, row, _ in read if row])
    found: list[Looked] = []
    fresh: set[str] = set()
    for number, cells, row, fault in read:
        if row is None:
            found.append(Looked(number, cells, "fault", fault, {}, {}))
            continue
        try:
            here = who_is(known, row, settings.shared_number)
        except BadContact as error:
            found.append(Looked(number, cells, "fault", str(error), {}, {}))
            continue
        addresses = {one for one in (row.own.get("email"), row.own.get("mobile")) if one}
        if here:
            changes = changes_to(here, row, settings.duplicates)
            words = f"{here.name}: {', '.join(_said(here, name) for name in changes)}" if changes else here.name
            words = "; ".join([words, *row.said()])
            found.append(
                Looked(
                    number,
                    cells,
                    "changed" if changes else "same",
                    words,
                    row.shown(imported.account.region),
                    row.fields,
                )
            )
        elif addresses & fresh:
            found.append(
                Looked(
                    number,
                    cells,
                    "same",
                    "the same person as a row above",
                    row.shown(imported.account.region),
                    row.fields,
                )
            )
        else:
            fresh |= addresses
            found.append(
                Looked(number, cells, "new", "; ".join(row.said()), row.shown(imported.account.region), row.fields)
            )
    return found


def _said(known: Contact, name: str) -> str:
    words = name.removesuffix("_id").replace("_", " ")
    return words if name == "fields" else words + (" again" if getattr(known, name) else "")


def start(imported: ContactImport, settings: Settings) -> None:
    """Raises CannotStart."""
    if imported.state != State.READ:
        raise CannotStart("This import was started already.")
    targets = list(settings.mapping.values())
    if not {"email", "mobile"} & set(targets):
        raise CannotStart("Match a column to email or to mobile: without one of them nobody can be told apart.")
    twice = {one for one in targets if targets.count(one) > 1} - {
        "post",
        "tags",
        "lists",
        "further_email",
        "further_mobile",
    }
    if twice:
        raise CannotStart("Two columns are matched to the same field.")
    if one := unplaced(imported.account, settings.mapping, settings.places):
        raise CannotStart(f"Say where each {one} is put.")
    if settings.consent_channels and not settings.consent_evidence.strip():
        raise CannotStart("Say how these people agreed to hear from the account.")
    with transaction.atomic():
        own = fields_of(imported.account)
        for target in targets:
            if target.startswith(NEW):
                kind, _, name = target.removeprefix(NEW).partition(":")
                name = shortened(name)
                if name and name not in own:
                    Field.objects.create(account=imported.account, name=name, kind=kind)
        settings.rules = rules_of(imported.account, settings.mapping, rows_of_part(imported, 0)) | settings.rules
        settings.mapping = {number: kind_made(target) for number, target in settings.mapping.items()}
        imported.settings = asdict(settings)
        imported.state, imported.started_at = State.RUNNING, clock.now()
        imported.save()
        wake("import")


@transaction.atomic
def stop(imported: ContactImport) -> None:
    """Stops after the chunk at hand, which holds the row until it is over: only then it has ended. What came in stays."""
    row = ContactImport.objects.select_for_update().get(id=imported.id)
    if row.state == State.RUNNING:
        row.state, row.ended_at = State.STOPPED, clock.now()
        row.save(update_fields=["state", "ended_at"])


@transaction.atomic
def go_on(imported: ContactImport) -> None:
    """A stopped import goes on where it stood. Raises CannotStart."""
    stopped = ContactImport.objects.filter(id=imported.id, state=State.STOPPED)
    if not stopped.update(state=State.RUNNING, ended_at=None):
        raise CannotStart("This import is not stopped.")
    wake("import")


@transaction.atomic
def take_back(imported: ContactImport) -> None:
    """Begins to undo an import that has ended. Raises CannotStart."""
    ended = ContactImport.objects.filter(id=imported.id, state__in=(State.DONE, State.STOPPED))
    if not ended.update(state=State.TAKING_BACK, kept=0):
        raise CannotStart("Only an import that has ended can be taken back.")
    wake("import")


def reasons(imported: ContactImport) -> list[tuple[str, int]]:
    """Why rows were not taken, and how many for each reason, what they said left aside."""
    said = Func(
        F("reason"), Value("“[^”]*”"), Value("“…”"), Value("g"), function="regexp_replace", output_field=TextField()
    )
    faults = imported.faults.order_by().values(why=said).annotate(n=Count("id"))
    return list(faults.order_by("-n", "why").values_list("why", "n")[:12])


# ---- the work


def import_chunk(account: Account) -> int:
    """Brings in the next rows of a running import of the account, or takes some back; answers how many. One that fails is
    stopped, with why, so that the next is not kept waiting."""
    try:
        return _import_chunk(account)
    except OperationalError:
        raise
    except Exception as error:
        log.exception("an import is stopped", extra={"account": account.slug})
        why = f"stopped: {type(error).__name__}: {str(error)[:200]}".replace("\0", "")
        with transaction.atomic():
            imported = _running(account)
            if imported:
                imported.state, imported.ended_at = State.STOPPED, clock.now()
                imported.found = imported.found | {"trouble": why}
                imported.save(update_fields=["state", "ended_at", "found"])
        return 1


def _running(account: Account) -> ContactImport | None:
    running = ContactImport.objects.filter(account=account, state__in=(State.RUNNING, State.TAKING_BACK))
    waiting = running.select_related("by").select_for_update(skip_locked=True, of=("self",))
    return waiting.order_by("id").first()


_ended: list[Callable[[ContactImport], None]] = []


def when_ended(tell: Callable[[ContactImport], None]) -> None:
    """Called when apps are ready: who is told that a file is brought in, in its transaction."""
    _ended.append(tell)


@transaction.atomic
def _import_chunk(account: Account) -> int:
    imported = _running(account)
    if imported is None:
        return 0
    imported.account = account
    if imported.state == State.TAKING_BACK:
        return taking_back.take_back_chunk(imported)
    settings = Settings(**imported.settings)
    rows = rows_of_part(imported, imported.rows_done)
    Chunk(imported, settings).take(rows)
    imported.rows_done += len(rows)
    if imported.rows_done >= imported.row_count or not rows:
        imported.state, imported.ended_at = State.DONE, clock.now()
        ImportPart.objects.filter(of=imported).delete()  # what came in stands with the contacts, what did not as faults
    imported.save(update_fields=["rows_done", "added", "changed", "skipped", "failed", "partly", "state", "ended_at"])
    for tell in _ended if imported.state == State.DONE else ():
        tell(imported)
    return len(rows) or 1


def rows_of_part(imported: ContactImport, first: int) -> list[list[str]]:
    return ImportPart.objects.filter(of=imported, first=first).values_list("rows", flat=True).first() or []
