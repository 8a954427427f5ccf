"""A chunk of a file of people as it is brought in: contacts added and changed, what they agreed to, tags, lists, events, and
the rows that cannot be taken; all of it written with a statement a sort."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import Any

from bluffside.core.facts import TwoWay
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record, record_alike
from bluffside.server.people.erasing import withdraw_again
from bluffside.server.people.import_beside import BESIDE
from bluffside.server.people.import_columns import BROUGHT, Settings
from bluffside.server.people.import_rows import Known, Row, RowReader, changes_to, who_is
from bluffside.server.people.models import (
    Contact,
    ContactImport,
    FurtherAddress,
    ImportFault,
    ImportTouched,
)
from bluffside.server.people.services import BadContact, add_tags, set_consent, set_list
from bluffside.server.practice import clock


class Chunk:
    def __init__(self, imported: ContactImport, settings: Settings) -> None:
        self.imported, self.settings, self.account = imported, settings, imported.account
        self.cause, self.now = Cause(actor=imported.by), clock.now()  # asked once: the clock is a row
        self.fresh: list[tuple[Contact, Row]] = []
        self.before: dict[int, dict[str, Any]] = {}
        self.changed: dict[int, Contact] = {}
        self.touched: dict[int, Row] = {}
        self.more: list[tuple[Contact, Row]] = []
        self.placed: list[tuple[Contact, Row]] = []  # all who came, or were here
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
        try:
            known = who_is(self.known, row, self.settings.shared_number)
        except BadContact as error:
            self._fault(number, cells, str(error))
            return
        if row.unread:
            self._fault(number, cells, "; ".join(row.unread), taken=True)
        if known is None:
            contact = Contact(
                account=self.account, added_at=self.now, responsible=row.responsible, **row.own, fields=row.fields
            )
            self.fresh.append((contact, row))
            self.placed.append((contact, row))
            self.known.know(contact)
            return
        self.placed.append((known, row))
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

    def _fault(self, number: int, cells: Sequence[str], reason: str, taken: bool = False) -> None:
        told = {"row": number, "cells": list(cells), "reason": reason[:500], "taken": taken}
        self.faults.append(ImportFault(account=self.account, of=self.imported, **told))

    def _write(self) -> None:
        contacts = [contact for contact, _ in self.fresh]
        Contact.objects.bulk_create(contacts)
        if self.changed:
            Contact.objects.bulk_update(self.changed.values(), [*BROUGHT, "responsible", "fields"])
        ImportFault.objects.bulk_create(self.faults)
        self.imported.added += len(contacts)
        self.imported.changed += len(self.changed)
        self.imported.partly += sum(one.taken for one in self.faults)
        self.imported.failed += sum(not one.taken for one in self.faults)
        data: dict[str, Any] = {"how": f"from the file {self.imported.file_name}", "import": self.imported.id}
        record_alike(self.account, "contact.added", [one.pk for one in contacts], data, self.cause)
        record(self.account, [Happened("contact.changed", id, data, self.cause) for id in self.changed])
        record(self.account, list(self._fields_changed()))
        everyone = [one.pk for one in contacts] + list(self.touched)
        self._consents(everyone, contacts)
        self._sorted(everyone)
        self._noted(contacts)
        for name, beside in BESIDE.items():
            if rows := [(contact, row.beside[name]) for contact, row in self.placed if name in row.beside]:
                beside.write(self.imported, self.settings.places[name], rows, self.cause)

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
