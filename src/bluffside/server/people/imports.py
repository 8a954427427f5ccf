"""Bringing people in from a file: read, look at, start, go on in chunks, stop.

A chunk is one transaction: its contacts, tags, consent, events, faults and the count of rows done
commit together, so a crash loses nothing and brings nobody in twice.
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from django.db import transaction
from django.db.models import Q

from bluffside.core.facts import TwoWay
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.models import Contact, ContactImport, ImportFault
from bluffside.server.people.services import BadContact, add_tags, normalised, set_consent
from bluffside.server.people.spreadsheet import BadSpreadsheet, read_csv
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.wake import wake

CHUNK = 500
Duplicate = Literal["skip", "fill", "overwrite"]
FIELDS = ("first_name", "last_name", "email", "mobile", "zone")
TARGETS = ("full_name", *FIELDS)
_GUESSES = {
    "first_name": ("firstname", "forename", "givenname", "first"),
    "last_name": ("lastname", "surname", "familyname", "last"),
    "full_name": ("name", "fullname", "contact", "who", "person"),
    "email": ("email", "emailaddress", "mail"),
    "mobile": ("mobile", "mobilenumber", "phone", "phonenumber", "cell", "telephone", "tel", "number", "mobilephone"),
    "zone": ("timezone", "zone", "tz"),
}


@dataclass(slots=True)
class Settings:
    """`mapping`: column number (as text) to one of TARGETS; columns not named are left out."""

    mapping: dict[str, str] = field(default_factory=dict)
    duplicates: Duplicate = "fill"
    tags: list[str] = field(default_factory=list)
    consent_channels: list[TwoWay] = field(default_factory=list)
    consent_evidence: str = ""


class CannotStart(ValueError):
    """Why an import cannot be started as it is set, in words."""


def read_file(account: Account, by: Person, file_name: str, data: bytes) -> ContactImport:
    """Raises spreadsheet.BadSpreadsheet."""
    columns, rows = read_csv(data)
    return ContactImport.objects.create(
        account=account, by=by, file_name=file_name[:200], columns=columns, rows=rows, row_count=len(rows)
    )


def guess_mapping(columns: Sequence[str]) -> dict[str, str]:
    mapping: dict[str, str] = {}
    for number, heading in enumerate(columns):
        plain = "".join(letter for letter in heading.lower() if letter.isalnum())
        for target, words in _GUESSES.items():
            if plain in words and target not in mapping.values():
                mapping[str(number)] = target
    if {"first_name", "full_name"} <= set(mapping.values()):
        mapping = {number: target for number, target in mapping.items() if target != "full_name"}
    return mapping


def known_in(account: Account, data: bytes) -> tuple[list[int], list[int]]:
    """The contacts whom a file names by email or mobile number, each once in its order, and the numbers of the rows (as
    spreadsheets count them) that name nobody who is here. Raises spreadsheet.BadSpreadsheet."""
    columns, rows = read_csv(data)
    mapping = guess_mapping(columns)
    by = {number: target for number, target in mapping.items() if target in ("email", "mobile")}
    if not by:
        raise BadSpreadsheet("No column of the file looks like an email address or a mobile number.")
    named: list[dict[str, str]] = []
    for cells in rows:
        try:
            named.append(row_fields(account, cells, by))
        except BadContact:
            named.append({})
    known: dict[str, int] = {}
    for field_name in set(by.values()):
        wanted = [fields[field_name] for fields in named if fields.get(field_name)]
        found = Contact.objects.filter(account=account, **{f"{field_name}__in": wanted})
        known |= dict(found.values_list(field_name, "id"))
    hits = [next((known[one] for one in fields.values() if one in known), None) for fields in named]
    unknown = [number for number, hit in enumerate(hits, start=2) if hit is None]
    return list(dict.fromkeys(hit for hit in hits if hit is not None)), unknown


def row_fields(account: Account, cells: Sequence[str], mapping: dict[str, str]) -> dict[str, str]:
    """The row as a contact's fields. Raises BadContact."""
    fields: dict[str, str] = {}
    for number, target in mapping.items():
        text = cells[int(number)].strip()
        if target == "full_name":
            first, _, last = text.partition(" ")
            fields["first_name"], fields["last_name"] = first, last
        else:
            fields[target] = text
    kept = normalised(account, fields)
    if not kept.get("email") and not kept.get("mobile"):
        raise BadContact({"email": "neither an email nor a mobile number"})
    return kept


def start(imported: ContactImport, settings: Settings) -> None:
    """Raises CannotStart."""
    if imported.state != ContactImport.State.READ:
        raise CannotStart("This import was started already.")
    if not {"email", "mobile"} & set(settings.mapping.values()):
        raise CannotStart("Match a column to email or to mobile: without one of them nobody can be told apart.")
    if len(set(settings.mapping.values())) < len(settings.mapping):
        raise CannotStart("Two columns are matched to the same field.")
    if settings.consent_channels and not settings.consent_evidence.strip():
        raise CannotStart("Say how these people agreed to hear from the account.")
    imported.settings = {
        "mapping": settings.mapping,
        "duplicates": settings.duplicates,
        "tags": settings.tags,
        "consent_channels": settings.consent_channels,
        "consent_evidence": settings.consent_evidence,
    }
    imported.state, imported.started_at = ContactImport.State.RUNNING, clock.now()
    with transaction.atomic():
        imported.save()
        wake("import")


def stop(imported: ContactImport) -> None:
    """Stops after the chunk at hand; what came in stays."""
    ContactImport.objects.filter(id=imported.id, state=ContactImport.State.RUNNING).update(
        state=ContactImport.State.STOPPED, ended_at=clock.now()
    )


@transaction.atomic
def import_chunk(account: Account) -> int:
    """Brings in the next rows of a running import of the account; answers how many rows were dealt with."""
    running = ContactImport.objects.filter(account=account, state=ContactImport.State.RUNNING)
    waiting = running.select_related("by").defer("rows").select_for_update(skip_locked=True, of=("self",))
    imported = waiting.order_by("id").first()
    if imported is None:
        return 0
    imported.account = account
    settings = Settings(**imported.settings)
    rows = _rows(imported, imported.rows_done, CHUNK)
    _Chunk(imported, settings).take(rows)
    imported.rows_done += len(rows)
    if imported.rows_done >= imported.row_count:
        imported.state, imported.ended_at = ContactImport.State.DONE, clock.now()
    imported.save(update_fields=["rows_done", "added", "changed", "skipped", "failed", "state", "ended_at"])
    return len(rows)


def _rows(imported: ContactImport, first: int, count: int) -> list[list[str]]:
    """Some rows of the file, cut out by the database."""
    path = f"$[{first} to {first + count - 1}]"
    query = "SELECT jsonb_path_query_array(rows, %s::jsonpath)::text FROM people_contactimport WHERE id = %s"
    found: list[list[str]] = json.loads(sql.rows(query, [path, imported.id])[0][0])
    return found


class _Chunk:
    def __init__(self, imported: ContactImport, settings: Settings) -> None:
        self.imported, self.settings, self.account = imported, settings, imported.account
        self.cause = Cause(actor=imported.by)
        self.by_email: dict[str, Contact] = {}
        self.by_mobile: dict[str, Contact] = {}
        self.fresh: list[Contact] = []
        self.changed: dict[int, Contact] = {}
        self.touched: dict[int, Contact] = {}
        self.faults: list[ImportFault] = []

    def take(self, rows: Sequence[Sequence[str]]) -> None:
        read: list[tuple[int, Sequence[str], dict[str, str]]] = []
        for offset, cells in enumerate(rows):
            number = self.imported.rows_done + offset + 2  # the heading is row 1
            try:
                read.append((number, cells, row_fields(self.account, cells, self.settings.mapping)))
            except BadContact as error:
                self._fault(number, cells, str(error))
        self._load([fields for _, _, fields in read])
        for number, cells, fields in read:
            self._place(number, cells, fields)
        self._write()

    def _load(self, rows: list[dict[str, str]]) -> None:
        emails = {row["email"] for row in rows if row.get("email")}
        mobiles = {row["mobile"] for row in rows if row.get("mobile")}
        for contact in Contact.objects.filter(Q(email__in=emails) | Q(mobile__in=mobiles), account=self.account):
            self._know(contact)

    def _know(self, contact: Contact) -> None:
        if contact.email:
            self.by_email[contact.email] = contact
        if contact.mobile:
            self.by_mobile[contact.mobile] = contact

    def _place(self, number: int, cells: Sequence[str], fields: dict[str, str]) -> None:
        by_email = self.by_email.get(fields.get("email", ""))
        by_mobile = self.by_mobile.get(fields.get("mobile", ""))
        if by_email and by_mobile and by_email is not by_mobile:
            reason = f"the email belongs to {by_email.name}, the mobile number to {by_mobile.name}"
            self._fault(number, cells, reason)
            return
        known = by_email or by_mobile
        if known is None:
            contact = Contact(account=self.account, added_at=clock.now(), **fields)
            self.fresh.append(contact)
            self._know(contact)
            return
        self._merge(known, fields)

    def _merge(self, known: Contact, fields: dict[str, str]) -> None:
        mode = self.settings.duplicates
        changes = {
            name: value
            for name, value in fields.items()
            if value
            and value != getattr(known, name)
            and (mode == "overwrite" or (mode == "fill" and not getattr(known, name)))
        }
        for name, value in changes.items():
            setattr(known, name, value)
        if changes:
            self._know(known)
        if known.pk is None:  # the same person twice in one chunk
            self.imported.skipped += 1
            return
        if mode != "skip":
            self.touched[known.pk] = known
        if changes:
            self.changed[known.pk] = known
        else:
            self.imported.skipped += 1

    def _fault(self, number: int, cells: Sequence[str], reason: str) -> None:
        self.faults.append(
            ImportFault(account=self.account, of=self.imported, row=number, cells=list(cells), reason=reason[:500])
        )

    def _write(self) -> None:
        Contact.objects.bulk_create(self.fresh)
        if self.changed:
            Contact.objects.bulk_update(self.changed.values(), FIELDS)
        ImportFault.objects.bulk_create(self.faults)
        self.imported.added += len(self.fresh)
        self.imported.changed += len(self.changed)
        self.imported.failed += len(self.faults)
        data: dict[str, Any] = {"how": f"from the file {self.imported.file_name}", "import": self.imported.id}
        record(self.account, [Happened("contact.added", contact.pk, data, self.cause) for contact in self.fresh])
        record(self.account, [Happened("contact.changed", id, {"how": data["how"]}, self.cause) for id in self.changed])
        everyone = [contact.pk for contact in self.fresh] + list(self.touched)
        for channel in self.settings.consent_channels:
            set_consent(self.account, everyone, channel, True, self.settings.consent_evidence, self.cause)
        add_tags(self.account, [(id, tag, self.cause) for tag in self.settings.tags for id in everyone])
