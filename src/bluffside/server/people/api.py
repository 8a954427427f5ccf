"""Contacts, tags and imports of an account."""

from datetime import datetime
from typing import Literal

from django.db.models import Count, Prefetch, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Path, Router, Schema, UploadedFile
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.terms import Channel
from bluffside.server.events.stream import Cause
from bluffside.server.people import imports
from bluffside.server.people.models import Consent, Contact, ContactImport, ContactTag, Tag
from bluffside.server.people.queries import search
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    add_note,
    add_tags,
    change_contact,
    remove_tags,
    set_channel_order,
    set_consent,
)
from bluffside.server.people.spreadsheet import BadSpreadsheet, write_csv
from bluffside.server.practice.access import AccountRequest, InAccount, require

router = Router(tags=["people"], auth=InAccount())
PAGE = 50
LARGEST_FILE = 20 * 1024 * 1024
Order = Literal["name", "-name", "added", "-added"]
ORDERS: dict[str, tuple[str, ...]] = {
    "name": ("last_name", "first_name", "id"),
    "-name": ("-last_name", "-first_name", "-id"),
    "added": ("added_at", "id"),
    "-added": ("-added_at", "-id"),
}


class ContactRow(Schema):
    id: int
    name: str
    first_name: str
    last_name: str
    email: str
    mobile: str
    zone: str
    post: str
    tags: list[str]
    opted_out: list[str]
    agreed: list[str]
    channel_order: list[str]
    added_at: datetime


class ContactPage(Schema):
    count: int
    page: int
    pages: int
    rows: list[ContactRow]


class ContactIn(Schema):
    """Fields left out stay as they are."""

    first_name: str | None = None
    last_name: str | None = None
    email: str | None = None
    mobile: str | None = None
    zone: str | None = None
    post: str | None = None

    def given(self) -> dict[str, str]:
        return self.model_dump(exclude_none=True)


class ConsentIn(Schema):
    channel: Channel
    given: bool
    evidence: str = Field(min_length=1, max_length=400)


class ChannelOrder(Schema):
    channels: list[Channel] = Field(max_length=6)


class TagRow(Schema):
    name: str
    contacts: int


class Chosen(Schema):
    """Contacts by id, or all that a search finds, among those with a tag or on a list."""

    ids: list[int] | None = None
    q: str = ""
    tag: str = ""
    list: str = ""


class Tagging(Schema):
    who: Chosen
    tag: str = Field(min_length=1, max_length=80)
    add: bool = True


class Counted(Schema):
    count: int


class InFile(Schema):
    """The contacts a file names, each once, in its order; `unknown`: the rows (as the sheet numbers them) that name
    nobody who is here."""

    ids: list[int]
    unknown: list[int]


class NoteIn(Schema):
    text: str = Field(min_length=1, max_length=2_000)


def contact_row(contact: Contact) -> ContactRow:
    return ContactRow(
        id=contact.id,
        name=contact.name,
        first_name=contact.first_name,
        last_name=contact.last_name,
        email=contact.email,
        mobile=contact.mobile,
        zone=contact.zone,
        post=contact.post,
        tags=sorted(link.tag.name for link in contact.tagged.all()),
        opted_out=sorted({one.channel for one in contact.consents.all() if one.state == Consent.State.WITHDRAWN}),
        agreed=sorted({one.channel for one in contact.consents.all() if one.state == Consent.State.GIVEN}),
        channel_order=contact.channel_order,
        added_at=contact.added_at,
    )


def with_details(contacts: QuerySet[Contact]) -> QuerySet[Contact]:
    return contacts.prefetch_related(
        Prefetch("tagged", ContactTag.objects.select_related("tag")), Prefetch("consents", Consent.objects.all())
    )


def chosen(request: AccountRequest, who: Chosen) -> list[int]:
    found = (
        search(request.account, who.q, who.tag) if who.ids is None else request.account.contacts.filter(id__in=who.ids)
    )
    if who.list:
        found = found.filter(lists__contains=[who.list])
    return list(found.order_by("id").values_list("id", flat=True))


def contact_of(request: AccountRequest, contact_id: int) -> Contact:
    return get_object_or_404(Contact, account=request.account, id=contact_id)


def bad_contact(error: BadContact) -> HttpError:
    return HttpError(422, " ".join(f"{text[0].upper()}{text[1:]}." for text in error.faults.values()))


@router.get("contacts", response=ContactPage)
def list_contacts(
    request: AccountRequest, account: Path[str], q: str = "", tag: str = "", order: Order = "-added", page: int = 1
) -> ContactPage:
    found = search(request.account, q, tag)
    count = found.count()
    pages = max(1, -(-count // PAGE))
    page = min(max(page, 1), pages)
    rows = with_details(found.order_by(*ORDERS[order]))[(page - 1) * PAGE : page * PAGE]
    return ContactPage(count=count, page=page, pages=pages, rows=[contact_row(row) for row in rows])


@router.post("contacts", response={201: ContactRow})
def new_contact(request: AccountRequest, account: Path[str], fields: ContactIn) -> tuple[int, ContactRow]:
    require(request, "people")
    try:
        contact = add_contact(request.account, fields.given(), Cause(actor=request.person))
    except BadContact as error:
        raise bad_contact(error) from None
    return 201, contact_row(contact)


@router.get("contacts/{int:contact_id}", response=ContactRow)
def one_contact(request: AccountRequest, account: Path[str], contact_id: int) -> ContactRow:
    return contact_row(contact_of(request, contact_id))


@router.patch("contacts/{int:contact_id}", response=ContactRow)
def edit_contact(request: AccountRequest, account: Path[str], contact_id: int, fields: ContactIn) -> ContactRow:
    require(request, "people")
    contact = contact_of(request, contact_id)
    try:
        change_contact(contact, fields.given(), Cause(actor=request.person))
    except BadContact as error:
        raise bad_contact(error) from None
    return contact_row(contact)


@router.post("contacts/{int:contact_id}/consent", response=ContactRow)
def say_consent(request: AccountRequest, account: Path[str], contact_id: int, said: ConsentIn) -> ContactRow:
    """What the contact told the team about a channel, for every purpose. Who opted out comes in again only by words of
    their own, which `evidence` then holds."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    if not said.evidence.strip():
        raise HttpError(422, "Say how you know: what they said, and when. Nothing was changed.")
    evidence = f"{said.evidence.strip()} (noted by {request.person.name})"
    cause = Cause(actor=request.person)
    set_consent(request.account, [contact.id], said.channel, said.given, evidence, cause, by_themselves=True)
    return contact_row(contact_of(request, contact_id))


@router.put("contacts/{int:contact_id}/channels", response=ContactRow)
def order_channels(request: AccountRequest, account: Path[str], contact_id: int, order: ChannelOrder) -> ContactRow:
    """In which order the contact likes to be reached; channels left out come after, as the account has them."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    set_channel_order(contact, order.channels, Cause(actor=request.person))
    return contact_row(contact)


@router.post("contacts/{int:contact_id}/notes", response={204: None})
def note(request: AccountRequest, account: Path[str], contact_id: int, note: NoteIn) -> tuple[int, None]:
    require(request, "people")
    add_note(contact_of(request, contact_id), note.text, Cause(actor=request.person))
    return 204, None


@router.get("tags", response=list[TagRow])
def list_tags(request: AccountRequest, account: Path[str]) -> list[TagRow]:
    tags = Tag.objects.filter(account=request.account).annotate(count=Count("tagged")).order_by("name")
    return [TagRow(name=tag.name, contacts=tag.count) for tag in tags]


@router.post("contacts/in-file", response=InFile)
def contacts_in_file(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> InFile:
    """Which contacts a spreadsheet names by email or mobile number. Nothing is changed."""
    require(request, "people")
    if (file.size or 0) > LARGEST_FILE:
        raise HttpError(422, "The file is larger than 20 MB. Nobody was chosen.")
    try:
        ids, unknown = imports.known_in(request.account, file.read())
    except BadSpreadsheet as error:
        raise HttpError(422, f"{error} Nobody was chosen.") from None
    return InFile(ids=ids, unknown=unknown)


@router.post("contacts/count", response=Counted)
def count_chosen(request: AccountRequest, account: Path[str], who: Chosen) -> Counted:
    return Counted(count=len(chosen(request, who)))


@router.post("contacts/tag", response=Counted)
def tag_many(request: AccountRequest, account: Path[str], tagging: Tagging) -> Counted:
    """Answers how many got, or lost, the tag; workflows that start on it start."""
    require(request, "people")
    change = add_tags if tagging.add else remove_tags
    cause = Cause(actor=request.person)
    return Counted(count=change(request.account, [(id, tagging.tag, cause) for id in chosen(request, tagging.who)]))


# Imports


class ImportOut(Schema):
    id: int
    file_name: str
    state: str
    columns: list[str]
    mapping: dict[str, str]
    sample: list[list[str]]
    row_count: int
    rows_done: int
    added: int
    changed: int
    skipped: int
    failed: int


class ImportSettings(Schema):
    mapping: dict[str, Literal["full_name", "first_name", "last_name", "email", "mobile", "zone"]]
    duplicates: imports.Duplicate = "fill"
    tags: list[str] = []
    consent_channels: list[Literal["email", "text"]] = []
    consent_evidence: str = ""


class PreviewRow(Schema):
    row: int
    fields: dict[str, str]
    fault: str


class FaultRow(Schema):
    row: int
    cells: list[str]
    reason: str


def _import_out(imported: ContactImport) -> ImportOut:
    return ImportOut(
        id=imported.id,
        file_name=imported.file_name,
        state=imported.state,
        columns=imported.columns,
        mapping=imported.settings.get("mapping") or imports.guess_mapping(imported.columns),
        sample=imported.rows[:3],
        row_count=imported.row_count,
        rows_done=imported.rows_done,
        added=imported.added,
        changed=imported.changed,
        skipped=imported.skipped,
        failed=imported.failed,
    )


def _import_of(request: AccountRequest, import_id: int) -> ContactImport:
    require(request, "import")
    return get_object_or_404(ContactImport, account=request.account, id=import_id)


@router.post("imports", response={201: ImportOut})
def read_import(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> tuple[int, ImportOut]:
    require(request, "import")
    if (file.size or 0) > LARGEST_FILE:
        raise HttpError(422, "The file is larger than 20 MB. Nothing was brought in.")
    try:
        imported = imports.read_file(request.account, request.person, file.name or "a file", file.read())
    except BadSpreadsheet as error:
        raise HttpError(422, f"{error} Nothing was brought in.") from None
    return 201, _import_out(imported)


@router.get("imports/{int:import_id}", response=ImportOut)
def one_import(request: AccountRequest, account: Path[str], import_id: int) -> ImportOut:
    return _import_out(_import_of(request, import_id))


@router.post("imports/{int:import_id}/preview", response=list[PreviewRow])
def preview_import(
    request: AccountRequest, account: Path[str], import_id: int, settings: ImportSettings
) -> list[PreviewRow]:
    """The first rows as they would come in."""
    imported = _import_of(request, import_id)
    rows = []
    for number, cells in enumerate(imported.rows[:8], start=2):
        try:
            fields = imports.row_fields(request.account, cells, dict(_known_columns(imported, settings)))
            rows.append(PreviewRow(row=number, fields=fields, fault=""))
        except BadContact as error:
            rows.append(PreviewRow(row=number, fields={}, fault=str(error)))
    return rows


def _known_columns(imported: ContactImport, settings: ImportSettings) -> dict[str, str]:
    """The mapping, with columns that the file does not have refused."""
    numbers = {str(number) for number in range(len(imported.columns))}
    if unknown := set(settings.mapping) - numbers:
        raise HttpError(422, f"The file has no column {min(unknown)}.")
    return dict(settings.mapping)


@router.post("imports/{int:import_id}/start", response=ImportOut)
def start_import(request: AccountRequest, account: Path[str], import_id: int, settings: ImportSettings) -> ImportOut:
    imported = _import_of(request, import_id)
    try:
        imports.start(
            imported,
            imports.Settings(
                mapping=_known_columns(imported, settings),
                duplicates=settings.duplicates,
                tags=[tag for tag in (" ".join(tag.split())[:80] for tag in settings.tags) if tag],
                consent_channels=list(settings.consent_channels),
                consent_evidence=settings.consent_evidence,
            ),
        )
    except imports.CannotStart as error:
        raise HttpError(422, str(error)) from None
    return _import_out(imported)


@router.post("imports/{int:import_id}/stop", response=ImportOut)
def stop_import(request: AccountRequest, account: Path[str], import_id: int) -> ImportOut:
    imported = _import_of(request, import_id)
    imports.stop(imported)
    imported.refresh_from_db()
    return _import_out(imported)


@router.get("imports/{int:import_id}/faults", response=list[FaultRow])
def import_faults(request: AccountRequest, account: Path[str], import_id: int) -> list[FaultRow]:
    """The first hundred rows that were not taken; the file has all of them."""
    faults = _import_of(request, import_id).faults.order_by("row")[:100]
    return [FaultRow(row=fault.row, cells=fault.cells, reason=fault.reason) for fault in faults]


@router.get("imports/{int:import_id}/faults.csv", response={200: str})
def import_faults_file(request: AccountRequest, account: Path[str], import_id: int) -> HttpResponse:
    """The rows that were not taken, as they were, with the reason beside them: to correct and bring back."""
    imported = _import_of(request, import_id)
    rows = [[*imported.columns, "Why it was not taken"]]
    rows += [[*fault.cells, fault.reason] for fault in imported.faults.order_by("row")]
    response = HttpResponse(write_csv(rows), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''rows-to-correct-{imported.id}.csv"
    return response
