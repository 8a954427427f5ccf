"""What the columns of a file of people are: guessed from their headings and values, or remembered from the last file with
such headings."""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, fields
from typing import Literal

from bluffside.core.facts import TwoWay
from bluffside.core.own_fields import OWN
from bluffside.core.terms import PURPOSES, Purpose
from bluffside.server.people.field_kinds import FIELD_KINDS, guess_kind
from bluffside.server.people.import_beside import BESIDE, all_columns, column_of
from bluffside.server.people.models import (
    ContactImport,
    Field,
)
from bluffside.server.people.queries import fields_of
from bluffside.server.people.reading import Rule, looks_like_a_date
from bluffside.server.people.tables import REASON, Table
from bluffside.server.practice.models import Account

Duplicate = Literal["skip", "fill", "overwrite"]
# A row with the mobile number of somebody here, but a name and an email of its own, is left among the rows to decide upon,
# somebody else (who comes in without the number), or the same person.
SharedNumber = Literal["leave", "apart", "same"]

# What a column can be: a field of the contact's own, something that follows from it, or FIELD and a name.
BROUGHT = tuple(name for name, one in OWN.items() if one.headings)
SPECIAL = (
    "full_name", "further_email", "further_mobile", "tags", "lists", "responsible", "no_email", "no_text", "note",
)  # fmt: skip
FIELD = "field:"
NEW = "new:"  # a field that is made when it starts: new:<kind>:<name>
_GUESSES = {name: one.headings for name, one in OWN.items() if one.headings} | {
    "full_name": ("name", "fullname", "contact", "contactname", "who", "person", "customer", "client"),
    "further_email": ("furtheremail", "email2", "otheremail", "secondemail", "workemail"),
    "further_mobile": ("furthernumber", "phone2", "mobile2", "otherphone", "homephone", "workphone"),
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
    dates or numbers are read. `places`: where what comes beside people is put, by its name (import_beside)."""

    mapping: dict[str, str] = field(default_factory=dict)
    rules: dict[str, Rule] = field(default_factory=dict)
    places: dict[str, str] = field(default_factory=dict)
    duplicates: Duplicate = "fill"
    shared_number: SharedNumber = "leave"
    tags: list[str] = field(default_factory=list)
    lists: list[str] = field(default_factory=list)
    consent_channels: list[TwoWay] = field(default_factory=list)
    consent_purposes: list[Purpose] = field(default_factory=lambda: list(PURPOSES))
    consent_evidence: str = ""
    consent_wording: str = ""


def remembered_settings(account: Account, table: Table) -> tuple[Settings, str] | None:
    """How the last file with these headings was brought in. Rows that come back corrected have one column more, and are
    brought in as the rest of their file was."""
    heads = [one for one in table.columns if one != REASON]
    earlier = ContactImport.objects.filter(account=account).exclude(state=ContactImport.State.READ).order_by("-id")
    for one in earlier.only("columns", "settings", "file_name")[:40]:
        if one.columns != heads:
            continue
        known = {f.name for f in fields(Settings)}
        kept = Settings(**{name: value for name, value in one.settings.items() if name in known})
        if REASON not in table.columns:  # another file: its people agreed in their own way
            kept = Settings(mapping=kept.mapping, rules=kept.rules, duplicates=kept.duplicates, places=kept.places)
        numbers = {heads.index(head): table.columns.index(head) for head in heads}
        kept.mapping = {
            str(numbers[int(n)]): kind_made(target) for n, target in kept.mapping.items() if int(n) in numbers
        }
        return kept, one.file_name
    return None


def kind_made(target: str) -> str:
    """A field that was new then is there now."""
    return FIELD + target.removeprefix(NEW).partition(":")[2] if target.startswith(NEW) else target


def guess_mapping(
    columns: Sequence[str],
    rows: Sequence[Sequence[str]] = (),
    own: Mapping[str, Field] | None = None,
    beside: Collection[str] = (),
) -> dict[str, str]:
    """By headings, the account's own fields first; then, of columns that say nothing, by their values. `beside`: what may come
    beside people here."""
    mapping: dict[str, str] = {}
    named = {
        heading: target
        for target, one in all_columns().items()
        if target.partition(":")[0] in beside
        for heading in one.headings
    }
    named |= {_plain(name): FIELD + name for name in own or {}}
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


MOST_NEW = 20  # fields that a file makes by itself


def new_fields(columns: Sequence[str], rows: Sequence[Sequence[str]], mapping: Mapping[str, str]) -> dict[str, str]:
    """Columns with a heading and values that fit no field become fields of the kind that fits their values, by number."""
    made: dict[str, str] = {}
    for number, heading in enumerate(columns):
        values = [row[number] for row in rows]
        named = heading not in (REASON, f"Column {number + 1}") and _plain(heading)
        if str(number) not in mapping and named and any(map(str.strip, values)) and len(made) < MOST_NEW:
            made[str(number)] = f"{NEW}{guess_kind(values)}:{' '.join(heading.split())[:80]}"
    return {number: target for number, target in made.items() if list(made.values()).count(target) == 1}


def _plain(heading: str) -> str:
    return "".join(letter for letter in heading.lower() if letter.isalnum())


def _like_a_number(value: str) -> bool:
    if looks_like_a_date(value):
        return False
    return bool(re.fullmatch(r"'?\+?[\d\s().\-/]{9,20}", value.strip())) and 8 <= sum(map(str.isdigit, value)) <= 15


def rules_of(account: Account, mapping: Mapping[str, str], rows: Sequence[Sequence[str]]) -> dict[str, Rule]:
    """For each column of dates or numbers, the rule that its values follow."""
    own, rules = fields_of(account), {}
    for number, target in mapping.items():
        kind = kind_of(target, own)
        values = [row[int(number)] for row in rows]
        if kind and FIELD_KINDS[kind].rules:
            rules[number] = FIELD_KINDS[kind].guess_rule(values)
    return rules


def kind_of(target: str, own: Mapping[str, Field]) -> str:
    """The kind of field a column is; "" when it is none of the account's, and not beside people."""
    if beside := column_of(target):
        return beside.kind
    if target.startswith(NEW):
        return target.removeprefix(NEW).partition(":")[0]
    known = own.get(target.removeprefix(FIELD)) if target.startswith(FIELD) else None
    return known.kind if known else ""


def besides_of(account: Account) -> dict[str, list[str]]:
    """What may come beside people here, by its name, with where it can be put."""
    found = {name: one.places(account) for name, one in BESIDE.items()}
    return {name: places for name, places in found.items() if places}


def beside_in(mapping: Mapping[str, str]) -> list[str]:
    """What of it a file brings."""
    return sorted({target.partition(":")[0] for target in mapping.values() if column_of(target)})


def unplaced(account: Account, mapping: Mapping[str, str], places: Mapping[str, str]) -> str:
    """What a file brings beside people, and nothing says where it is put, or such a place is not here; empty for none."""
    here = besides_of(account)
    return next((one for one in beside_in(mapping) if places.get(one) not in here.get(one, ())), "")
