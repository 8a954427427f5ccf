"""People as files: CSV (RFC 4180, UTF-8), workbooks (XLSX), vCard 4.0 (RFC 6350).

Cells that a spreadsheet would run as a formula are made text: in CSV by an apostrophe before them, which `tables` takes
off again; in a workbook by writing them as text. CSV and vCard go out as they are read, so an account of any size takes
no memory.
"""

import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

import xlsxwriter
from django.db.models import QuerySet
from django.http import HttpResponse, StreamingHttpResponse
from django.utils.text import slugify

from bluffside.core.terms import TWO_WAY
from bluffside.server import sql
from bluffside.server.people import vcard
from bluffside.server.people.models import Consent, Contact, ContactTag, Field, FurtherAddress
from bluffside.server.people.spreadsheet import csv_rows
from bluffside.server.people.values import in_words
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.practice.walls import within

Format = Literal["csv", "xlsx", "vcf"]
BATCH = 2_000
MOST_IN_WORKBOOK = 200_000
HEADINGS = (
    "First name", "Last name", "Email", "Mobile", "Further email", "Further number", "Postal address", "Time zone",
    "Social handle", "Tags", "Lists", "Responsible", "No emails", "No texts",
)  # fmt: skip


def answer(account: Account, people: QuerySet[Contact], format: Format) -> HttpResponse | StreamingHttpResponse:
    name = f"{slugify(account.name)}-people-{clock.now():%Y-%m-%d}.{format}"
    response: HttpResponse | StreamingHttpResponse
    match format:
        case "csv":
            response = StreamingHttpResponse(
                _inside(account, csv_rows(table(account, people))), content_type="text/csv; charset=utf-8"
            )
        case "vcf":
            response = StreamingHttpResponse(
                _inside(account, vcard.write(cards(account, people))), content_type="text/vcard; charset=utf-8"
            )
        case "xlsx":
            kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
            response = HttpResponse(workbook(table(account, people[:MOST_IN_WORKBOOK])), content_type=kind)
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''{name}"
    return response


def _inside(account: Account, pieces: Iterable[str]) -> Iterator[str]:
    """What is sent piece by piece is read when the request is over and has left the account: it enters it again."""
    with within(account):
        yield from pieces


def table(account: Account, people: QuerySet[Contact]) -> Iterator[list[str]]:
    """The headings, then a row a contact."""
    own = list(Field.objects.filter(account=account).order_by("name").values_list("name", flat=True))
    yield [*HEADINGS, *own]
    for contact, tags, further, refused in _with_more(people):
        yield [
            contact.first_name, contact.last_name, contact.email, contact.mobile,
            "; ".join(further.get("email", ())), "; ".join(further.get("text", ())),
            contact.post, contact.zone, contact.social, "; ".join(tags), "; ".join(contact.lists),
            contact.responsible.name if contact.responsible else "",
            *("yes" if contact.do_not_contact or channel in refused else "" for channel in TWO_WAY),
            *(in_words(contact.fields.get(name), "; ") for name in own),
        ]  # fmt: skip


BORN = ("birthday", "date of birth", "born")  # what a vCard calls BDAY, as accounts call their field for it


def cards(account: Account, people: QuerySet[Contact]) -> Iterator[vcard.Card]:
    for contact, tags, further, _ in _with_more(people):
        emails = [one for one in (contact.email, *further.get("email", ())) if one]
        mobiles = [one for one in (contact.mobile, *further.get("text", ())) if one]
        born = next((day for name, day in contact.fields.items() if name.casefold() in BORN), "")
        card = vcard.Card(contact.first_name, contact.last_name, emails, mobiles, contact.post, contact.zone, tags)
        card.birthday = in_words(born, "; ")
        yield card


def _with_more(people: QuerySet[Contact]) -> Iterator[tuple[Contact, list[str], dict[str, list[str]], set[str]]]:
    """Each with their tags, further addresses by channel, and the channels on which they want no marketing."""
    ids = list(people.values_list("id", flat=True))
    for some in sql.chunks(ids, BATCH):
        tags: dict[int, list[str]] = {}
        for id, name in (
            ContactTag.objects.filter(contact__in=some).order_by("tag__name").values_list("contact_id", "tag__name")
        ):
            tags.setdefault(id, []).append(name)
        further: dict[int, dict[str, list[str]]] = {}
        for one in FurtherAddress.objects.filter(contact__in=some).order_by("id"):
            further.setdefault(one.contact_id, {}).setdefault(one.channel, []).append(one.address)
        refused: dict[int, set[str]] = {}
        said = Consent.objects.filter(contact__in=some, purpose="marketing", state=Consent.State.WITHDRAWN)
        for id, channel in said.values_list("contact_id", "channel"):
            refused.setdefault(id, set()).add(channel)
        found = Contact.objects.select_related("responsible").in_bulk(list(some))
        for id in some:
            if id in found:
                yield found[id], tags.get(id, []), further.get(id, {}), refused.get(id, set())


def workbook(rows: Iterator[Sequence[str]], name: str = "People") -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet(name)
    head = book.add_format({"bold": True})
    for number, row in enumerate(rows):
        for column, cell in enumerate(row):
            if cell:
                sheet.write_string(number, column, cell[:32_000], head if number == 0 else None)
    sheet.freeze_panes(1, 0)
    book.close()
    return out.getvalue()
