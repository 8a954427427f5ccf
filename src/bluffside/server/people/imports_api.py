"""Files of people on their way in: read, matched, looked at, brought in, taken back."""

import re
from typing import Literal

from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Path, Router, Schema, UploadedFile
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.terms import Channel, Purpose
from bluffside.server.people import imports
from bluffside.server.people.field_kinds import FIELD_KINDS, guess_kind
from bluffside.server.people.import_beside import BESIDE, column_of
from bluffside.server.people.import_columns import (
    BROUGHT,
    FIELD,
    NEW,
    SPECIAL,
    Duplicate,
    Settings,
    SharedNumber,
    besides_of,
    kind_of,
    unplaced,
)
from bluffside.server.people.models import ContactImport
from bluffside.server.people.queries import fields_of
from bluffside.server.people.reading import RULES, Rule
from bluffside.server.people.reading_apart import read_apart
from bluffside.server.people.spreadsheet import BadSpreadsheet, csv_rows
from bluffside.server.people.tables import MOST_ROWS, REASON
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment

router = Router(tags=["imports"], auth=InAccount())
LARGEST_FILE = 25 * 1024 * 1024
SHOWN = 8


class ImportSettings(Schema):
    """`mapping`: column number to what it is: a field of the contact's own (first_name, email …), something that follows
    from it (full_name, tags, no_email …), "field:<name>", "new:<kind>:<name>" for a field that is made, or what comes beside
    people, such as "deal:stage"; `places`: where that is put, by its name."""

    mapping: dict[str, str]
    rules: dict[str, Rule] = {}
    places: dict[str, str] = {}
    duplicates: Duplicate = "fill"
    shared_number: SharedNumber = "leave"
    tags: list[str] = []
    lists: list[str] = []
    consent_channels: list[Channel] = []
    consent_purposes: list[Purpose] = ["marketing", "service"]
    consent_evidence: str = Field(default="", max_length=400)
    consent_wording: str = Field(default="", max_length=500)


class BesideOut(Schema):
    """`columns`: what a column can be, with words for it; `places`: where it can be put."""

    name: str
    columns: dict[str, str]
    places: list[str]


class ImportOut(Schema):
    """`found`: how the file was read. `kinds`: what kind of field each column would make a good one of. `beside`: what may
    come beside people here."""

    id: int
    file_name: str
    state: str
    found: dict[str, str]
    columns: list[str]
    kinds: list[str]
    beside: list[BesideOut]
    settings: ImportSettings
    sample: list[list[str]]
    first_row: int
    row_count: int
    rows_done: int
    added: int
    changed: int
    skipped: int
    failed: int
    partly: int
    kept: int
    by: str
    at: str


class LookedRow(Schema):
    row: int
    becomes: str
    words: str
    fields: dict[str, str]


class Look(Schema):
    """What would become of the first rows, so many of each sort; one or two rows of each sort in full. `rules`: by which
    each column of dates or numbers is read, and what the choice is."""

    looked_at: int
    new: int
    changed: int
    same: int
    faults: int
    rows: list[LookedRow]
    rules: dict[str, Rule]
    choices: dict[str, dict[Rule, str]]


class FaultRow(Schema):
    """`taken`: it came in, but for what the reason tells."""

    row: int
    cells: list[str]
    reason: str
    taken: bool


class Faults(Schema):
    """The first rows that were not taken, and all of them by reason, the most frequent first; "…" stands for what was
    written in a row."""

    reasons: list[tuple[str, int]]
    rows: list[FaultRow]


class Pasted(Schema):
    text: str = Field(max_length=5_000_000)


class InFile(Schema):
    """The contacts a file names, each once, in its order; `unknown`: the rows (as the sheet numbers them) that name
    nobody who is here."""

    ids: list[int]
    unknown: list[int]


def _out(imported: ContactImport) -> ImportOut:
    sample = imports.rows_of_part(imported, 0)
    width = range(len(imported.columns))
    return ImportOut(
        id=imported.id,
        file_name=imported.file_name,
        state=imported.state,
        found=imported.found,
        columns=imported.columns,
        kinds=[guess_kind([row[n] for row in sample]) for n in width] if imported.state == "read" else [],
        beside=[
            BesideOut(
                name=name, places=places, columns={target: one.label for target, one in BESIDE[name].columns.items()}
            )
            for name, places in (besides_of(imported.account) if imported.state == "read" else {}).items()
        ],
        settings=ImportSettings(**imported.settings),
        sample=sample[:3],
        first_row=imported.first_row,
        row_count=imported.row_count,
        rows_done=imported.rows_done,
        added=imported.added,
        changed=imported.changed,
        skipped=imported.skipped,
        failed=imported.failed,
        partly=imported.partly,
        kept=imported.kept,
        by=imported.by.name if imported.by else "",
        at=moment(imported.started_at, imported.account.zone) if imported.started_at else "",
    )


def _of(request: AccountRequest, import_id: int) -> ContactImport:
    require(request, "import")
    return get_object_or_404(
        ContactImport.objects.select_related("account", "by"), account=request.account, id=import_id
    )


def _settings(imported: ContactImport, given: ImportSettings) -> Settings:
    """Checked against the file: columns that are there, things that a column can be."""
    for number, target in given.mapping.items():
        if not number.isdecimal() or int(number) >= len(imported.columns):
            raise HttpError(422, f"The file has no column {number}.")
        known = target in (*BROUGHT, *SPECIAL) or target.startswith(FIELD) or column_of(target)
        new = re.fullmatch(rf"{NEW}({'|'.join(FIELD_KINDS)}):.{{1,80}}", target)
        if not known and not new:
            raise HttpError(422, f"A column cannot be “{target}”.")
        if target.startswith(FIELD) and target.removeprefix(FIELD) not in fields_of(imported.account):
            raise HttpError(422, f"There is no field “{target.removeprefix(FIELD)}” any more.")
    if one := unplaced(imported.account, given.mapping, given.places):
        raise HttpError(422, f"Say where each {one} is put.")
    said = given.model_dump()
    said["tags"] = [tag for tag in (" ".join(tag.split())[:80] for tag in given.tags) if tag]
    said["lists"] = [name for name in (" ".join(name.split())[:120] for name in given.lists) if name]
    return Settings(**said)


@router.get("imports", response=list[ImportOut])
def all_imports(request: AccountRequest, account: Path[str]) -> list[ImportOut]:
    """The last ones that were started."""
    require(request, "import")
    found = ContactImport.objects.filter(account=request.account).exclude(state="read").select_related("account", "by")
    return [_out(one) for one in found.order_by("-id")[:12]]


@router.post("imports", response={201: ImportOut})
def read_import(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> tuple[int, ImportOut]:
    require(request, "import")
    if (file.size or 0) > LARGEST_FILE:
        raise HttpError(422, "The file is larger than 25 MB. Nothing was brought in.")
    try:
        imported = imports.read_file(request.account, request.person, file.name or "a file", file.read())
    except BadSpreadsheet as error:
        raise HttpError(422, f"{error} Nothing was brought in.") from None
    return 201, _out(imported)


@router.post("imports/pasted", response={201: ImportOut})
def read_pasted(request: AccountRequest, account: Path[str], given: Pasted) -> tuple[int, ImportOut]:
    """Rows copied out of a spreadsheet, or written by hand."""
    require(request, "import")
    try:
        imported = imports.keep(
            request.account,
            request.person,
            "rows pasted",
            read_apart(given.text.encode("utf-8", "replace"), pasted=True),
        )
    except BadSpreadsheet as error:
        raise HttpError(422, f"{error} Nothing was brought in.") from None
    return 201, _out(imported)


@router.get("imports/{int:import_id}", response=ImportOut)
def one_import(request: AccountRequest, account: Path[str], import_id: int) -> ImportOut:
    return _out(_of(request, import_id))


@router.post("imports/{int:import_id}/look", response=Look)
def look_at_import(request: AccountRequest, account: Path[str], import_id: int, settings: ImportSettings) -> Look:
    """The first rows as they would come in. Nothing is changed."""
    imported = _of(request, import_id)
    given = _settings(imported, settings)
    own = fields_of(request.account)
    rows = imports.rows_of_part(imported, 0)
    choices: dict[str, dict[Rule, str]] = {}
    for number, target in given.mapping.items():
        kind, values = kind_of(target, own), [row[int(number)] for row in rows]
        if kind and (rules := FIELD_KINDS[kind].rules):
            given.rules.setdefault(number, FIELD_KINDS[kind].guess_rule(values))
            choices[number] = {rule: RULES[rule] for rule in rules}
    given.rules = {number: rule for number, rule in given.rules.items() if number in choices}
    looked = imports.look(imported, given)
    shown = [
        one for sort in ("fault", "changed", "new", "same") for one in [x for x in looked if x.becomes == sort][:3]
    ]
    return Look(
        looked_at=len(looked),
        new=sum(one.becomes == "new" for one in looked),
        changed=sum(one.becomes == "changed" for one in looked),
        same=sum(one.becomes == "same" for one in looked),
        faults=sum(one.becomes == "fault" for one in looked),
        rows=[
            LookedRow(
                row=one.row,
                becomes=one.becomes,
                words=one.words,
                fields=one.own | {name: str(value) for name, value in one.fields.items()}
                if one.own
                else _cells(imported, given, one.cells),
            )
            for one in sorted(shown[:SHOWN], key=lambda one: one.row)
        ],
        rules=given.rules,
        choices=choices,
    )


def _cells(imported: ContactImport, settings: Settings, cells: list[str]) -> dict[str, str]:
    """A row that cannot be taken, as it was written."""
    names = {number: target.rpartition(":")[2] for number, target in settings.mapping.items()}
    return {names[number]: cells[int(number)] for number in names if cells[int(number)]}


class BeginAt(Schema):
    row: int = Field(ge=1, le=MOST_ROWS)


@router.post("imports/{int:import_id}/headings", response=ImportOut)
def headings_at(request: AccountRequest, account: Path[str], import_id: int, given: BeginAt) -> ImportOut:
    """The file's headings stand in this row; what is above them is left out."""
    imported = _of(request, import_id)
    try:
        imports.begin_at(imported, given.row)
    except imports.CannotStart as error:
        raise HttpError(422, str(error)) from None
    return _out(imported)


@router.post("imports/{int:import_id}/start", response=ImportOut)
def start_import(request: AccountRequest, account: Path[str], import_id: int, settings: ImportSettings) -> ImportOut:
    imported = _of(request, import_id)
    try:
        imports.start(imported, _settings(imported, settings))
    except imports.CannotStart as error:
        raise HttpError(422, str(error)) from None
    return _out(imported)


@router.post("imports/{int:import_id}/do/{act}", response=ImportOut)
def handle_import(
    request: AccountRequest, account: Path[str], import_id: int, act: Literal["stop", "go-on", "take-back"]
) -> ImportOut:
    """Stops after the chunk at hand, goes on where it stood, or takes back what it brought."""
    imported = _of(request, import_id)
    do = {"stop": imports.stop, "go-on": imports.go_on, "take-back": imports.take_back}[act]
    try:
        do(imported)
    except imports.CannotStart as error:
        raise HttpError(409, str(error)) from None
    return _out(_of(request, import_id))


@router.get("imports/{int:import_id}/faults", response=Faults)
def import_faults(request: AccountRequest, account: Path[str], import_id: int) -> Faults:
    """The first twenty rows that were not taken; the file has all of them."""
    imported = _of(request, import_id)
    rows = [
        FaultRow(row=one.row, cells=one.cells, reason=one.reason, taken=one.taken)
        for one in imported.faults.order_by("row")[:20]
    ]
    return Faults(reasons=imports.reasons(imported), rows=rows)


@router.get("imports/{int:import_id}/faults.csv", response={200: str})
def import_faults_file(
    request: AccountRequest, account: Path[str], import_id: int
) -> HttpResponse | StreamingHttpResponse:
    """The rows that were not taken, as they were, with the reason beside them: to correct and bring back."""
    imported = _of(request, import_id)
    faults = imported.faults.order_by("row").iterator()
    rows = ([*fault.cells, fault.reason] for fault in faults)
    response = StreamingHttpResponse(
        csv_rows([[*imported.columns, REASON], *rows]), content_type="text/csv; charset=utf-8"
    )
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''rows-to-correct-{imported.id}.csv"
    return response


@router.post("contacts/in-file", response=InFile)
def contacts_in_file(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> InFile:
    """Which contacts a file names by email or mobile number. Nothing is changed."""
    require(request, "people")
    if (file.size or 0) > LARGEST_FILE:
        raise HttpError(422, "The file is larger than 25 MB. Nobody was chosen.")
    try:
        ids, unknown = imports.known_in(request.account, file.read())
    except BadSpreadsheet as error:
        raise HttpError(422, f"{error} Nobody was chosen.") from None
    return InFile(ids=ids, unknown=unknown)
