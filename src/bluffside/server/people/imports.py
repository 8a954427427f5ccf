"""Bringing people in from a file: read, match, look, start, go on in chunks, stop, take back.

A chunk is one transaction: its contacts, tags, consent, events, faults and the count of rows done commit together, so a
crash loses nothing and brings nobody in twice. What a chunk added or changed is noted, so that it can be taken back;
taking back goes in chunks, too, and leaves alone whoever something else has happened to.

What a column is, is guessed from its heading and its values, or remembered from the last file with such headings.
"""

import logging
import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields
from typing import Any, Literal

from django.db import OperationalError, transaction
from django.db.models import Q

from bluffside.core.facts import TwoWay
from bluffside.core.terms import PURPOSES, Purpose
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record, record_alike
from bluffside.server.people import reading, taking_back
from bluffside.server.people.erasing import withdraw_again
from bluffside.server.people.models import (
    Contact,
    ContactImport,
    Field,
    FurtherAddress,
    ImportFault,
    ImportPart,
    ImportTouched,
)
from bluffside.server.people.queries import fields_of
from bluffside.server.people.reading import Rule
from bluffside.server.people.reading_apart import read_apart
from bluffside.server.people.services import BadContact, add_tags, normalised, set_consent, set_list
from bluffside.server.people.spreadsheet import BadSpreadsheet
from bluffside.server.people.tables import REASON, Table
from bluffside.server.people.values import plain_value
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

CHUNK = 500
SAMPLE = 500  # rows that are looked at before it starts
Duplicate = Literal["skip", "fill", "overwrite"]
State = ContactImport.State

# What a column can be: a field of the contact's own, something that follows from it, or FIELD and a name.
OWN = ("first_name", "last_name", "email", "mobile", "zone", "post", "social")
SPECIAL = (
    "full_name", "further_email", "further_mobile", "tags", "lists", "responsible", "no_email", "no_text", "note",
)  # fmt: skip
FIELD = "field:"
NEW = "new:"  # a field that is made when it starts: new:<kind>:<name>
_GUESSES = {
    "first_name": ("firstname", "forename", "givenname", "first", "vorname", "prénom", "prenom", "nombre"),
    "last_name": ("lastname", "surname", "familyname", "last", "nachname", "nom", "apellido", "apellidos"),
    "full_name": ("name", "fullname", "contact", "contactname", "who", "person", "customer", "client"),
    "email": ("email", "emailaddress", "mail", "emailadresse", "primaryemail", "courriel", "correo"),
    "mobile": (
        "mobile", "mobilenumber", "phone", "phonenumber", "cell", "cellphone", "telephone", "tel", "number", "mobilephone",
        "handy", "telefon", "téléphone", "teléfono", "móvil",
    ),
    "further_email": ("furtheremail", "email2", "otheremail", "secondemail", "workemail"),
    "further_mobile": ("furthernumber", "phone2", "mobile2", "otherphone", "homephone", "workphone"),
    "zone": ("timezone", "zone", "tz"),
    "post": ("address", "postaladdress", "post", "street", "streetaddress", "mailingaddress"),
    "social": ("social", "socialhandle", "handle"),
    "responsible": ("responsible", "owner", "assignedto", "accountmanager"),
    "tags": ("tags", "tag", "labels", "categories", "groups"),
    "lists": ("lists", "list"),
    "no_email": ("unsubscribed", "optedout", "emailoptout", "noemail", "noemails", "optout", "donotemail"),
    "no_text": ("textoptout", "smsoptout", "notext", "notexts", "donottext"),
    "note": ("note", "notes", "comment", "comments", "remarks"),
}  # fmt: skip


@dataclass(slots=True)
class Settings:
    """`mapping`: column number (as text) to what it is; columns not named are left out. `rules`: by which rule a column's
    dates or numbers are read."""

    mapping: dict[str, str] = field(default_factory=dict)
    rules: dict[str, Rule] = field(default_factory=dict)
    duplicates: Duplicate = "fill"
    tags: list[str] = field(default_factory=list)
    lists: list[str] = field(default_factory=list)
    consent_channels: list[TwoWay] = field(default_factory=list)
    consent_purposes: list[Purpose] = field(default_factory=lambda: list(PURPOSES))
    consent_evidence: str = ""
    consent_wording: str = ""


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
    settings, like = _remembered(account, table) or (Settings(), None)
    if like is None:
        settings.mapping = guess_mapping(table.columns, table.rows[:SAMPLE], fields_of(account))
    settings.rules = _rules(account, settings.mapping, table.rows[:SAMPLE])
    if like is not None:
        table.found["matched"] = f"as “{like}” was"
    imported = ContactImport.objects.create(
        account=account, by=by, file_name=file_name[:200], found=table.found, columns=table.columns,
        first_row=table.first_row, row_count=len(table.rows), settings=asdict(settings), read_at=clock.now(),
    )  # fmt: skip
    parts = [
        (account.id, imported.id, first, sql.to_json(table.rows[first : first + CHUNK]))
        for first in range(0, len(table.rows), CHUNK)
    ]
    for some in sql.chunks(parts, 20):
        sql.insert(ImportPart, ("account_id", "of_id", "first", "rows"), some)
    return imported


def _remembered(account: Account, table: Table) -> tuple[Settings, str] | None:
    """How the last file with these headings was brought in. Rows that come back corrected have one column more, and are
    brought in as the rest of their file was."""
    heads = [one for one in table.columns if one != REASON]
    earlier = ContactImport.objects.filter(account=account).exclude(state=State.READ).order_by("-id")
    for one in earlier.only("columns", "settings", "file_name")[:40]:
        if one.columns != heads:
            continue
        known = {f.name for f in fields(Settings)}
        kept = Settings(**{name: value for name, value in one.settings.items() if name in known})
        if REASON not in table.columns:  # another file: its people agreed in their own way
            kept = Settings(mapping=kept.mapping, rules=kept.rules, duplicates=kept.duplicates)
        numbers = {heads.index(head): table.columns.index(head) for head in heads}
        kept.mapping = {str(numbers[int(n)]): _made(target) for n, target in kept.mapping.items() if int(n) in numbers}
        return kept, one.file_name
    return None


def _made(target: str) -> str:
    """A field that was new then is there now."""
    return FIELD + target.removeprefix(NEW).partition(":")[2] if target.startswith(NEW) else target


def guess_mapping(
    columns: Sequence[str], rows: Sequence[Sequence[str]] = (), own: Mapping[str, Field] | None = None
) -> dict[str, str]:
    """By headings, the account's own fields first; then, of columns that say nothing, by their values."""
    mapping: dict[str, str] = {}
    named = {_plain(name): FIELD + name for name in own or {}}
    for number, heading in enumerate(columns):
        said = _plain(heading)
        target = named.get(said) or next((target for target, words in _GUESSES.items() if said in words), "")
        if target and target not in mapping.values():
            mapping[str(number)] = target
    if {"first_name", "full_name"} <= set(mapping.values()):
        mapping = {number: target for number, target in mapping.items() if target != "full_name"}
    for number in range(len(columns)):
        values = [row[number] for row in rows if row[number].strip()]
        if str(number) in mapping or len(values) * 4 < len(rows) or not values:
            continue
        if "email" not in mapping.values() and sum("@" in one for one in values) * 10 >= len(values) * 8:
            mapping[str(number)] = "email"
        elif "mobile" not in mapping.values() and sum(map(_like_a_number, values)) * 10 >= len(values) * 8:
            mapping[str(number)] = "mobile"
        elif columns[number] == f"Column {number + 1}" and not {"full_name", "first_name"} & set(mapping.values()):  # noqa: SIM102
            if sum(bool(re.fullmatch(r"[^\d@]{2,60}", one)) for one in values) * 10 >= len(values) * 9:
                mapping[str(number)] = "full_name"
    return mapping


def _plain(heading: str) -> str:
    return "".join(letter for letter in heading.lower() if letter.isalnum())


def _like_a_number(value: str) -> bool:
    return bool(re.fullmatch(r"'?\+?[\d\s().\-/]{9,20}", value.strip())) and 8 <= sum(map(str.isdigit, value)) <= 15


def _rules(account: Account, mapping: Mapping[str, str], rows: Sequence[Sequence[str]]) -> dict[str, Rule]:
    """For each column of dates or numbers, the rule that its values follow."""
    own, rules = fields_of(account), {}
    for number, target in mapping.items():
        kind = kind_of(target, own)
        values = [row[int(number)] for row in rows]
        if kind == "date":
            rules[number] = reading.guess_date_rule(values)
        elif kind in ("number", "money"):
            rules[number] = reading.guess_number_rule(values)
    return rules


def kind_of(target: str, own: Mapping[str, Field]) -> str:
    """The kind of field a column is; "" when it is none of the account's."""
    if target.startswith(NEW):
        return target.removeprefix(NEW).partition(":")[0]
    known = own.get(target.removeprefix(FIELD)) if target.startswith(FIELD) else None
    return known.kind if known else ""


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


# ---- one row


@dataclass(slots=True)
class Row:
    """A row as it was understood."""

    own: dict[str, str] = field(default_factory=dict)
    fields: dict[str, Any] = field(default_factory=dict)
    further: list[tuple[str, str]] = field(default_factory=list)
    tags: list[str] = field(default_factory=list)
    lists: list[str] = field(default_factory=list)
    refused: list[TwoWay] = field(default_factory=list)
    responsible: Person | None = None
    note: str = ""

    def shown(self) -> dict[str, str]:
        """The contact's own columns, as they are looked at before it starts."""
        return self.own | ({"responsible": self.responsible.name} if self.responsible else {})


class RowReader:
    """Reads rows by an import's settings."""

    def __init__(self, account: Account, settings: Settings) -> None:
        self.account, self.settings = account, settings
        self.own = fields_of(account)
        asked = "responsible" in settings.mapping.values()
        team = Person.objects.filter(practice=account.practice_id, is_active=True) if asked else ()
        self.team = {said.casefold(): one for one in team for said in (one.name, one.email)}

    def read(self, cells: Sequence[str]) -> Row:
        """Raises BadContact with all that is wrong."""
        row = Row()
        own: dict[str, str] = {}
        faults: dict[str, str] = {}
        for number, target in self.settings.mapping.items():
            text = cells[int(number)].strip()
            try:
                self._place(row, own, number, target, text)
            except ValueError as error:
                faults[target] = f"{target.rpartition(':')[2]}: {error}" if ":" in target else str(error)
        try:
            row.own = normalised(self.account, own)
        except BadContact as error:
            faults |= error.faults
        if faults:
            raise BadContact(faults)
        if not row.own.get("email") and not row.own.get("mobile"):
            raise BadContact({"email": "neither an email nor a mobile number"})
        return row

    def _place(self, row: Row, own: dict[str, str], number: str, target: str, text: str) -> None:
        if target in OWN:
            if target == "post" and own.get("post") and text:
                text = f"{own['post']}, {text}"
            own[target] = text
        elif target == "full_name":
            own["first_name"], own["last_name"] = split_name(text)
        elif target in ("tags", "lists"):
            getattr(row, target).extend(name for name in (_short(part) for part in re.split(r"[;,|]", text)) if name)
        elif target in ("further_email", "further_mobile"):
            channel = "email" if target == "further_email" else "text"
            name = "email" if channel == "email" else "mobile"
            for part in re.split(r"[;,|]", text):
                if address := normalised(self.account, {name: part})[name]:
                    row.further.append((channel, address))
        elif target == "responsible":
            row.responsible = self.team.get(" ".join(text.split()).casefold())
            if text and not row.responsible:
                raise ValueError(f"nobody of the team is called “{text}”")
        elif target in ("no_email", "no_text"):
            if text and reading.read_yes_no(text):
                row.refused.append("email" if target == "no_email" else "text")
        elif target == "note":
            row.note = text
        else:
            name = _made(target).removeprefix(FIELD)
            known = self.own.get(name)
            choices = known.choices if known else []
            value = reading.read_typed(
                text, kind_of(target, self.own), choices, self.settings.rules.get(number, ""), self.account.region
            )
            if value is not None:
                row.fields[name] = plain_value(value)


def split_name(text: str) -> tuple[str, str]:
    """ "Reyes, Ana" and "Ana Reyes" alike."""
    if "," in text:
        last, _, first = text.partition(",")
        return first.strip(), last.strip()
    first, _, last = text.partition(" ")
    return first, last


def _short(text: str) -> str:
    return " ".join(text.split())[:80]


class Known:
    """Who of the account has one of the addresses that rows name, their further addresses included."""

    def __init__(self, account: Account, rows: Iterable[Mapping[str, str]]) -> None:
        self.by_email: dict[str, Contact] = {}
        self.by_mobile: dict[str, Contact] = {}
        named = list(rows)
        emails = [row["email"] for row in named if row.get("email")]
        mobiles = [row["mobile"] for row in named if row.get("mobile")]
        for contact in Contact.objects.filter(Q(email__in=emails) | Q(mobile__in=mobiles), account=account):
            self.know(contact)
        further = FurtherAddress.objects.filter(account=account, address__in=[*emails, *mobiles])
        for one in further.select_related("contact"):
            held = self.by_email if one.channel == "email" else self.by_mobile
            held.setdefault(one.address, one.contact)

    def know(self, contact: Contact) -> None:
        if contact.email:
            self.by_email[contact.email] = contact
        if contact.mobile:
            self.by_mobile[contact.mobile] = contact

    def both(self, own: Mapping[str, str]) -> tuple[Contact | None, Contact | None]:
        return self.by_email.get(own.get("email", "")), self.by_mobile.get(own.get("mobile", ""))

    def by_any(self, own: Mapping[str, str]) -> Contact | None:
        by_email, by_mobile = self.both(own)
        return by_email or by_mobile


def changes_to(known: Contact, row: Row, mode: Duplicate) -> dict[str, Any]:
    """What a row would change about somebody who is there already: own columns by name, and `fields`."""

    def counts(held: object, value: object) -> bool:
        return value not in (held, "", None) and (mode == "overwrite" or (mode == "fill" and held in ("", None)))

    changes: dict[str, Any] = {name: value for name, value in row.own.items() if counts(getattr(known, name), value)}
    if row.responsible and counts(known.responsible_id, row.responsible.pk):
        changes["responsible_id"] = row.responsible.pk
    more = {name: value for name, value in row.fields.items() if counts(known.fields.get(name), value)}
    return changes | ({"fields": known.fields | more} if more else {})


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
    settings.rules = _rules(imported.account, settings.mapping, first) | settings.rules
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
        by_email, by_mobile = known.both(row.own)
        addresses = {one for one in (row.own.get("email"), row.own.get("mobile")) if one}
        if by_email and by_mobile and by_email.pk != by_mobile.pk:
            found.append(Looked(number, cells, "fault", _two(by_email, by_mobile), {}, {}))
        elif here := by_email or by_mobile:
            changes = changes_to(here, row, settings.duplicates)
            words = f"{here.name}: {', '.join(_said(here, name) for name in changes)}" if changes else here.name
            found.append(Looked(number, cells, "changed" if changes else "same", words, row.shown(), row.fields))
        elif addresses & fresh:
            found.append(Looked(number, cells, "same", "the same person as a row above", row.shown(), row.fields))
        else:
            fresh |= addresses
            found.append(Looked(number, cells, "new", "", row.shown(), row.fields))
    return found


def _said(known: Contact, name: str) -> str:
    words = name.removesuffix("_id").replace("_", " ")
    return words if name == "fields" else words + (" again" if getattr(known, name) else "")


def _two(by_email: Contact, by_mobile: Contact) -> str:
    return f"the email belongs to {by_email.name}, the mobile number to {by_mobile.name}"


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
    if settings.consent_channels and not settings.consent_evidence.strip():
        raise CannotStart("Say how these people agreed to hear from the account.")
    with transaction.atomic():
        own = fields_of(imported.account)
        for target in targets:
            if target.startswith(NEW):
                kind, _, name = target.removeprefix(NEW).partition(":")
                name = _short(name)
                if name and name not in own:
                    Field.objects.create(account=imported.account, name=name, kind=kind)
        settings.rules = _rules(imported.account, settings.mapping, rows_of_part(imported, 0)) | settings.rules
        settings.mapping = {number: _made(target) for number, target in settings.mapping.items()}
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
    query = """
        SELECT regexp_replace(reason, '“[^”]*”', '“…”', 'g') AS why, count(*) FROM people_importfault
         WHERE of_id = %s AND account_id = %s GROUP BY 1 ORDER BY 2 DESC LIMIT 12
    """
    return [(why, count) for why, count in sql.rows(query, [imported.id, imported.account_id])]


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
    _Chunk(imported, settings).take(rows)
    imported.rows_done += len(rows)
    if imported.rows_done >= imported.row_count or not rows:
        imported.state, imported.ended_at = State.DONE, clock.now()
        ImportPart.objects.filter(of=imported).delete()  # what came in stands with the contacts, what did not as faults
    imported.save(update_fields=["rows_done", "added", "changed", "skipped", "failed", "state", "ended_at"])
    return len(rows) or 1


def rows_of_part(imported: ContactImport, first: int) -> list[list[str]]:
    return ImportPart.objects.filter(of=imported, first=first).values_list("rows", flat=True).first() or []


class _Chunk:
    def __init__(self, imported: ContactImport, settings: Settings) -> None:
        self.imported, self.settings, self.account = imported, settings, imported.account
        self.cause, self.now = Cause(actor=imported.by), clock.now()  # asked once: the clock is a row
        self.fresh: list[tuple[Contact, Row]] = []
        self.before: dict[int, dict[str, Any]] = {}
        self.changed: dict[int, Contact] = {}
        self.touched: dict[int, Row] = {}
        self.more: list[tuple[Contact, Row]] = []
        self.faults: list[ImportFault] = []

    def take(self, rows: Sequence[Sequence[str]]) -> None:
        reader = RowReader(self.account, self.settings)
        read: list[tuple[int, Sequence[str], Row]] = []
        for offset, cells in enumerate(rows):
            number = self.imported.rows_done + offset + self.imported.first_row
            try:
                read.append((number, cells, reader.read(cells)))
            except BadContact as error:
                self._fault(number, cells, str(error))
        self.known = Known(self.account, [row.own for _, _, row in read])
        for number, cells, row in read:
            self._place(number, cells, row)
        self._write()

    def _place(self, number: int, cells: Sequence[str], row: Row) -> None:
        by_email, by_mobile = self.known.both(row.own)
        if by_email and by_mobile and by_email is not by_mobile and by_email.pk != by_mobile.pk:
            self._fault(number, cells, _two(by_email, by_mobile))
            return
        known = by_email or by_mobile
        if known is None:
            contact = Contact(
                account=self.account, added_at=self.now, responsible=row.responsible, **row.own, fields=row.fields
            )
            self.fresh.append((contact, row))
            self.known.know(contact)
            return
        self._merge(known, row)

    def _merge(self, known: Contact, row: Row) -> None:
        changes = changes_to(known, row, self.settings.duplicates)
        if known.pk is not None:
            held = self.before.setdefault(known.pk, {})
            for name in changes:
                held.setdefault(name, getattr(known, name))
        for name, value in changes.items():
            setattr(known, name, value)
        if changes:
            self.known.know(known)
        if self.settings.duplicates != "skip":
            self.more.append((known, row))
        if known.pk is None:  # the same person twice in one chunk
            self.imported.skipped += 1
            return
        if self.settings.duplicates != "skip":
            self.touched[known.pk] = row
        if changes:
            self.changed[known.pk] = known
        else:
            self.imported.skipped += 1

    def _fault(self, number: int, cells: Sequence[str], reason: str) -> None:
        self.faults.append(
            ImportFault(account=self.account, of=self.imported, row=number, cells=list(cells), reason=reason[:500])
        )

    def _write(self) -> None:
        contacts = [contact for contact, _ in self.fresh]
        Contact.objects.bulk_create(contacts)
        if self.changed:
            Contact.objects.bulk_update(self.changed.values(), [*OWN, "responsible", "fields"])
        ImportFault.objects.bulk_create(self.faults)
        self.imported.added += len(contacts)
        self.imported.changed += len(self.changed)
        self.imported.failed += len(self.faults)
        data: dict[str, Any] = {"how": f"from the file {self.imported.file_name}", "import": self.imported.id}
        record_alike(self.account, "contact.added", [one.pk for one in contacts], data, self.cause)
        record(self.account, [Happened("contact.changed", id, data, self.cause) for id in self.changed])
        record(self.account, list(self._fields_changed()))
        everyone = [one.pk for one in contacts] + list(self.touched)
        self._consents(everyone, contacts)
        self._sorted(everyone)
        self._noted(contacts)

    def _fields_changed(self) -> Iterable[Happened]:
        for id, contact in self.changed.items():
            old: dict[str, Any] = self.before[id].get("fields", contact.fields)
            for name, value in contact.fields.items():
                if old.get(name) != value:
                    yield Happened(
                        "field.changed", id, {"field": name, "old": old.get(name, ""), "new": value}, self.cause
                    )

    def _consents(self, everyone: Sequence[int], fresh: Sequence[Contact]) -> None:
        settings, how = self.settings, f"came with the file {self.imported.file_name}"
        for channel in settings.consent_channels:
            set_consent(
                self.account, everyone, channel, True, settings.consent_evidence, self.cause, settings.consent_purposes,
                how="import", wording=settings.consent_wording,
            )  # fmt: skip
        refused: dict[TwoWay, list[int]] = defaultdict(list)
        for contact, row in [*self.fresh, *self.more]:
            for channel in row.refused:
                refused[channel].append(contact.pk)
        for channel, ids in refused.items():
            set_consent(self.account, sorted(set(ids)), channel, False, how, self.cause, how="import")
        withdraw_again(self.account, fresh, self.cause)

    def _sorted(self, everyone: Sequence[int]) -> None:
        """Tags, lists and further addresses: those of all, and those of each row."""
        pairs = [(id, tag, self.cause) for tag in self.settings.tags for id in everyone]
        by_list: dict[str, list[int]] = defaultdict(list)
        for name in self.settings.lists:
            by_list[name] += everyone
        further: list[tuple[int, int, str, str]] = []
        notes: list[Happened] = []
        for contact, row in [*self.fresh, *self.more]:
            pairs += [(contact.pk, tag, self.cause) for tag in row.tags]
            for name in row.lists:
                by_list[name].append(contact.pk)
            further += [
                (self.account.id, contact.pk, *one)
                for one in row.further
                if one[1] not in (contact.email, contact.mobile)
            ]
            if row.note:
                notes.append(Happened("note.added", contact.pk, {"text": row.note}, self.cause))
        add_tags(self.account, pairs)
        for name, ids in by_list.items():
            set_list(self.account, ids, name, True, self.cause)
        sql.insert(
            FurtherAddress,
            ("account_id", "contact_id", "channel", "address"),
            further,
            on_conflict="ON CONFLICT DO NOTHING",
        )
        record(self.account, notes)

    def _noted(self, fresh: Sequence[Contact]) -> None:
        rows: list[tuple[int, int, int, str | None]] = [
            (self.account.id, self.imported.id, one.pk, None) for one in fresh
        ]
        for id, contact in self.changed.items():
            became = {name: getattr(contact, name) for name in self.before[id]}
            rows.append((self.account.id, self.imported.id, id, sql.to_json({**self.before[id], "became": became})))
        sql.insert(
            ImportTouched, ("account_id", "of_id", "contact_id", "before"), rows, on_conflict="ON CONFLICT DO NOTHING"
        )
