"""What holds for every workflow of an account: its care (quiet hours, limits, pace …) and its rules for the lead score."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from ninja import Path, Router, Schema
from pydantic import ValidationError

from bluffside.core.care.house import Care
from bluffside.core.care.in_words import NAMES, care_in_words
from bluffside.core.channels.answers import keyword, read
from bluffside.core.channels.keywords import plain
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import audit
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.refusals import BadFields

router = Router(tags=["house rules"], auth=InAccount())
AREA_OF: dict[str, audit.Area] = {
    "quiet": "hours", "opening": "hours", "holidays": "hours", "policy": "consent", "own_page_in_texts": "consent", "own_page_words": "consent",
    "words_out": "consent", "words_help": "consent", "help_says": "consent", "confirm_forms": "consent", "consent_months": "consent",
}  # fmt: skip


@transaction.atomic
def change_care(account: Account, parts: Mapping[str, Any], by: Person) -> Care:
    """Puts parts of the care, by their names, in the place of those there are; from now on, these hold: what waits already is
    looked at by them when its moment comes. Raises BadFields."""
    row = Account.objects.select_for_update().get(id=account.id)
    before = Care.model_validate(row.care)
    try:
        care = Care.model_validate(before.model_dump(mode="json") | dict(parts))
    except ValidationError as error:
        raise BadFields(_faults(error)) from None
    if fault := _hours_fault(care):
        raise BadFields({"opening": fault})
    if faults := _words_fault(care):
        raise BadFields(faults)
    old, new = care_in_words(before), care_in_words(care)
    changed = [name for name in new if old[name] != new[name]]
    row.care = account.care = care.model_dump(mode="json")
    row.save(update_fields=["care"])
    for name in changed:
        audit.note(account, by, AREA_OF.get(name, "rules"), [audit.Noted(NAMES[name], old[name], new[name])])
    record(row, [Happened("care.changed", None, {"what": changed}, Cause(actor=by))])
    return care


def _faults(error: ValidationError) -> dict[str, str]:
    found: dict[str, str] = {}
    for fault in error.errors():
        name, said = str(fault["loc"][0]) if fault["loc"] else "care", fault["msg"].removeprefix("Value error, ")
        found.setdefault(name, f"{NAMES.get(name, name).capitalize()}: {said}.")
    return found


def _hours_fault(care: Care) -> str:
    spans = [one for hours in care.opening.days.values() for one in hours]
    spans += [one for each in care.opening.exceptions for one in each.hours]
    wrong = next((one for one in spans if one.end <= one.start), None)
    return f"Opening hours end after they begin; {wrong.start:%H:%M} to {wrong.end:%H:%M} do not." if wrong else ""


def _words_fault(care: Care) -> dict[str, str]:
    """Words of one's own that people use for something else would opt out who agrees."""
    for name, words in (("words_out", care.words_out), ("words_help", care.words_help)):
        for word in words:
            if not plain(word):
                return {name: f"“{word}” has no letters to be known by."}
            if read(word).meaning in ("yes", "later") or keyword(word) == "in":
                return {name: f"“{word}” is how people agree, or put off: it cannot mean this."}
    if both := sorted(set(map(plain, care.words_out)) & set(map(plain, care.words_help))):
        return {"words_help": f"“{both[0]}” opts out already."}
    return {}


class CareParts(Schema):
    """Parts of the care by their names, as Care has them; what is not named stays."""

    parts: dict[str, Any]


@router.get("care", response=Care)
def get_care(request: AccountRequest, account: Path[str]) -> Care:
    return account_facts(request.account).care


@router.put("care", response=Care)
def put_care(request: AccountRequest, account: Path[str], care: Care) -> Care:
    """The whole of it at once."""
    require(request, "set-up")
    return change_care(request.account, care.model_dump(mode="json"), request.person)


@router.patch("care", response=Care)
def patch_care(request: AccountRequest, account: Path[str], given: CareParts) -> Care:
    require(request, "set-up")
    return change_care(request.account, given.parts, request.person)
