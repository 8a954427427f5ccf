"""The business: who it is and where, and the details that its messages merge."""

import re
from collections.abc import Callable, Sequence
from typing import Annotated, Any

from django.core.exceptions import ValidationError
from django.core.validators import URLValidator
from django.db import transaction
from ninja import Schema
from pydantic import Field

from bluffside.core.messages.merge import detail_path
from bluffside.core.timing.local import zone_of
from bluffside.core.words import known_language
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people import addresses
from bluffside.server.practice import audit
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.refusals import BadFields
from bluffside.server.set_up import places

Line = Annotated[str, Field(max_length=200)]
FIELDS = {
    "name": "the name",
    "trade": "the trade",
    "zone": "the time zone",
    "region": "the country",
    "currency": "the currency",
    "language": "the language",
    "postal_address": "the postal address",
    "phone": "the phone",
    "web_page": "the web page",
    "booking_link": "the booking link",
    "signature": "the signature",
}


# How what is typed is read, where it is not kept as it is; each raises ValueError in words.
READ: dict[str, Callable[[str, str], str]] = {
    "phone": addresses.mobile,
}


class Detail(Schema):
    """A detail of the account's own choosing: "Where to park", and the words for it."""

    name: str = Field(max_length=60)
    words: str = Field(max_length=500)


class Business(Schema):
    """`zone` IANA, `region` ISO 3166-1, `currency` ISO 4217, `language` BCP 47, `phone` as typed."""

    name: str = Field(max_length=120)
    trade: str = Field(default="", max_length=80)
    zone: str = Field(max_length=64)
    region: str = Field(max_length=2)
    currency: str = Field(max_length=3)
    language: str = Field(max_length=20)
    postal_address: str = Field(default="", max_length=300)
    phone: str = Field(default="", max_length=40)
    web_page: Line = ""
    booking_link: Line = ""
    signature: Line = ""
    details: list[Detail] = Field(default=[], max_length=40)


def change(account: Account, given: Business, by: Person) -> None:
    """Raises BadFields."""
    read = _read(given)
    with transaction.atomic():
        row = Account.objects.select_for_update().get(id=account.id)
        noted = [
            audit.Noted(words, getattr(row, name), str(read[name]))
            for name, words in FIELDS.items()
            if getattr(row, name) != read[name]
        ]
        old, new = ({one["name"]: one["words"] for one in details} for details in (row.details, read["details"]))
        noted += [
            audit.Noted(f"the detail “{name}”", old.get(name, ""), new.get(name, ""))
            for name in dict.fromkeys((*old, *new))
            if old.get(name) != new.get(name)
        ]
        if not noted and row.details == read["details"]:
            return
        for name, value in read.items():
            setattr(row, name, value)
            setattr(account, name, value)
        row.save(update_fields=[*read])
        audit.note(row, by, "business", noted)
        record(row, [Happened("account.changed", None, {"what": [one.what for one in noted]}, Cause(actor=by))])


def _read(given: Business) -> dict[str, Any]:
    """As it is kept. Raises BadFields."""
    faults: dict[str, str] = {}
    kept: dict[str, Any] = {name: " ".join(getattr(given, name).replace("\0", "").split()) for name in FIELDS}
    kept["postal_address"] = "\n".join(
        filter(None, (" ".join(one.split()) for one in given.postal_address.splitlines()))
    )
    if not kept["name"]:
        faults["name"] = "A business needs a name."
    try:
        zone_of(given.zone)
    except ValueError:
        faults["zone"] = f"“{given.zone}” is not a time zone. Type a town or a country, and pick."
    if given.region not in {one.code for one in places.countries()}:
        faults["region"] = "There is no such country."
    if given.currency not in {one.code for one in places.currencies()}:
        faults["currency"] = "There is no such currency."
    kept["language"] = known_language(given.language)
    if not kept["language"]:
        faults["language"] = "There is no such language."
    for name, read in READ.items() if "region" not in faults else ():
        try:
            kept[name] = read(getattr(given, name), given.region)
        except ValueError as error:
            faults[name] = f"{error}."
    for name in ("web_page", "booking_link"):
        try:
            kept[name] = _link(getattr(given, name))
        except ValidationError:
            faults[name] = "That is no address of a page; one begins with https://."
    kept["details"] = [{"name": " ".join(one.name.split()), "words": one.words.strip()} for one in given.details]
    if fault := _twice([" ".join(one.name.split()) for one in given.details]):
        faults["details"] = fault
    if faults:
        raise BadFields(faults)
    return kept


def _link(text: str) -> str:
    text = text.strip()
    if text and not re.match(r"https?://", text):
        text = f"https://{text}"
    if text:
        URLValidator(schemes=["http", "https"])(text)
    return text


def _twice(names: Sequence[str]) -> str:
    """Why these names cannot stand beside each other; two of one path would be one merge field."""
    seen: dict[str, str] = {}
    for name in names:
        if not name:
            return "A detail needs a name."
        path = detail_path(name).casefold()
        if path in seen:
            return f"“{seen[path]}” and “{name}” would be one merge field; call one of them something else."
        seen[path] = name
    return ""
