"""One row of a file of people: read by the columns' meaning, compared with whom it may be."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db.models import Q
from nameparser import HumanName

from bluffside.core.phone_numbers import as_written, landline
from bluffside.core.terms import ADDRESS_OF, TwoWay
from bluffside.server.people import reading
from bluffside.server.people.field_kinds import How, read_typed
from bluffside.server.people.import_beside import BESIDE, column_of
from bluffside.server.people.import_columns import (
    BROUGHT,
    FIELD,
    Duplicate,
    Settings,
    SharedNumber,
    beside_in,
    kind_made,
    kind_of,
)
from bluffside.server.people.models import (
    Contact,
    FurtherAddress,
)
from bluffside.server.people.queries import fields_of
from bluffside.server.people.services import BadContact, normalised
from bluffside.server.people.values import plain_value
from bluffside.server.practice.models import Account, Person

# What spreadsheets write where a formula has no answer (ISO/IEC 29500-1, 18.18.11: error values of cells).
NOT_COMPUTED = frozenset(("#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#GETTING_DATA"))


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
    cells: dict[str, Any] = field(default_factory=dict)  # what comes beside them, by column
    beside: dict[str, Any] = field(default_factory=dict)  # and as it was understood, by what it is
    unread: list[str] = field(default_factory=list)  # what could not be taken of it, in words

    def said(self) -> list[str]:
        """What comes beside them, and what could not be taken, in words."""
        return [*map(str, self.beside.values()), *self.unread]

    def shown(self, region: str) -> dict[str, str]:
        """The contact's own columns, as they are looked at before it starts."""
        written = {"mobile": as_written(self.own["mobile"], region)} if "mobile" in self.own else {}
        return self.own | written | ({"responsible": self.responsible.name} if self.responsible else {})


class RowReader:
    """Reads rows by an import's settings."""

    def __init__(self, account: Account, settings: Settings) -> None:
        self.account, self.settings = account, settings
        self.own = fields_of(account)
        asked = "responsible" in settings.mapping.values()
        team = Person.objects.filter(practice=account.practice_id, is_active=True) if asked else ()
        self.team = {said.casefold(): one for one in team for said in (one.name, one.email)}
        besides = [one for one in beside_in(settings.mapping) if settings.places.get(one)]
        self.besides = {one: BESIDE[one].reader(account, settings.places[one]) for one in besides}

    def read(self, cells: Sequence[str]) -> Row:
        """A cell that cannot be read is told in `unread` and costs nothing but itself. Raises BadContact, with all that is
        wrong, when no address is left by which somebody could be told apart."""
        row = Row()
        own: dict[str, str] = {}
        faults: dict[str, str] = {}
        for number, target in self.settings.mapping.items():
            text = cells[int(number)].strip()
            try:
                if text in NOT_COMPUTED:
                    raise ValueError(f"the sheet says {text} there")
                self._place(row, own, number, target, text)
            except ValueError as error:
                faults[target] = f"{target.rpartition(':')[2]}: {error}" if ":" in target else str(error)
        try:
            row.own = normalised(self.account, own)
        except BadContact as error:
            faults |= error.faults
            row.own = normalised(self.account, {name: text for name, text in own.items() if name not in error.faults})
        if not row.own.get("email") and not row.own.get("mobile"):
            raise BadContact(faults or {"email": "neither an email nor a mobile number"})
        for name, reader in self.besides.items():
            try:
                if cells_of := {target: value for target, value in row.cells.items() if target.startswith(f"{name}:")}:
                    row.beside[name] = reader.read(cells_of)
            except ValueError as error:
                faults[name] = str(error)
        row.unread = list(faults.values())
        if said := landline(row.own.get("mobile", ""), self.account.region):
            row.unread.append(said)
        return row

    def _place(self, row: Row, own: dict[str, str], number: str, target: str, text: str) -> None:
        if target in BROUGHT:
            if target == "post" and own.get("post") and text:
                text = f"{own['post']}, {text}"
            own[target] = text
        elif target == "full_name":
            own["first_name"], own["last_name"] = split_name(text)
        elif target in ("tags", "lists"):
            getattr(row, target).extend(name for name in (shortened(part) for part in re.split(r"[;,|]", text)) if name)
        elif target in ("further_email", "further_mobile"):
            channel = "email" if target == "further_email" else "text"
            name = ADDRESS_OF[channel]
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
            name = kind_made(target).removeprefix(FIELD)
            known = self.own.get(name)
            how = How(known.choices if known else (), self.settings.rules.get(number, ""), self.account.region)
            value = read_typed(text, kind_of(target, self.own), how)
            if value is not None and column_of(target):
                row.cells[target] = plain_value(value)
            elif value is not None:
                row.fields[name] = plain_value(value)


def split_name(text: str) -> tuple[str, str]:
    """First and last name, "Reyes, Ana" and "Ana Reyes" alike, without a title ("Dr"). Particles and second surnames stay with
    the last name ("van der Berg", "García López"), as does what follows a name ("PhD")."""
    return parted(text)[1:]


def parted(text: str) -> tuple[str, str, str]:
    """Title, first and last name. No letter of it is lost: what cannot be parted so is cut at its first space."""
    read = HumanName(text)
    front, back = ([read.first, read.middle], [read.last]) if "," in text else ([read.first], [read.middle, read.last])
    first, last = " ".join(filter(None, front)), " ".join(filter(None, [*back, read.suffix]))
    if (first or last) and _letters(read.title + first + last) == _letters(text):
        return read.title, first, last
    first, _, last = text.strip().partition(" ")
    return "", first, last.strip()


def _letters(text: str) -> list[str]:
    return sorted(letter for letter in text.casefold() if letter.isalnum())


def shortened(text: str) -> str:
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


def who_is(known: Known, row: Row, shared: SharedNumber) -> Contact | None:
    """Whom of the account a row is about; None when it is somebody new. Raises BadContact when that cannot be told. A number
    that is somebody else's is taken off the row where `shared` says that they are two."""
    by_email, by_mobile = known.both(row.own)
    if by_email and by_mobile and by_email is not by_mobile and by_email.pk != by_mobile.pk:
        said = f"the email belongs to {by_email.name}, the mobile number to {by_mobile.name}"
        raise BadContact({"email": said})
    if by_mobile and not by_email and shared != "same" and _is_another(by_mobile, row):
        if shared == "leave":
            raise BadContact({"mobile": f"{by_mobile.name} has that mobile number, and another name and email"})
        row.own["mobile"], by_mobile = "", None
    return by_email or by_mobile


def _is_another(holder: Contact, row: Row) -> bool:
    """Whether a row that has somebody's number has a name and an email of its own."""
    email, name = row.own.get("email", ""), (row.own.get("first_name", ""), row.own.get("last_name", ""))
    theirs = (holder.first_name, holder.last_name)
    differs = " ".join(name).casefold().split() != " ".join(theirs).casefold().split()
    return bool(email and holder.email and email != holder.email and any(name) and any(theirs) and differs)
