"""Everything that is kept about one person, as one file: what they may ask for (Regulation (EU) 2016/679, Art. 15 and 20)."""

import json
from typing import Any

from bluffside.server import sql
from bluffside.server.people.erasing import BY_ADDRESS, BY_NUMBER, referring, rows_of
from bluffside.server.people.models import Contact, FurtherAddress

NOT_THEIRS = ("id", "account_id", "contact_id")


def everything_about(contact: Contact) -> dict[str, list[dict[str, Any]]]:
    """By table, in words of their own: each row about the contact, as plain data (times in ISO 8601, UTC)."""
    found: dict[str, list[dict[str, Any]]] = {}
    asked = [("people_contact", "id"), *sorted((model._meta.db_table, f"{field}_id") for model, field in referring())]
    asked += [(rows_of(label).model._meta.db_table, "contact_id") for label in BY_NUMBER]
    for table, column in asked:
        _add(found, table, f"{column} = %s", [contact.account_id, contact.id])
    further = FurtherAddress.objects.filter(contact=contact).values_list("address", flat=True)
    addresses = [one for one in (contact.email, contact.mobile, *further) if one]
    for label in BY_ADDRESS:
        _add(found, rows_of(label).model._meta.db_table, "address = ANY(%s)", [contact.account_id, addresses])
    return found


def _add(found: dict[str, list[dict[str, Any]]], table: str, where: str, parameters: list[Any]) -> None:
    # Rows of any table as PostgreSQL writes them: no model has to say how it is written.
    rows = sql.rows(f"SELECT to_jsonb(t)::text FROM {table} t WHERE account_id = %s AND {where} ORDER BY 1", parameters)  # noqa: S608  # tables of ours
    known = found.setdefault(table.partition("_")[2].replace("_", " "), [])
    for (row,) in rows:
        told = {name: value for name, value in json.loads(row).items() if name not in NOT_THEIRS}
        known.append({name.replace("_", " "): value for name, value in told.items() if value not in (None, "", [], {})})
    if not known:
        del found[table.partition("_")[2].replace("_", " ")]


def in_words(contact: Contact, about: dict[str, list[dict[str, Any]]]) -> str:
    """The same to be read by people."""
    lines = [f"What {contact.account.name} keeps about {contact.name}", ""]
    for kind, rows in about.items():
        lines += [f"{kind.capitalize()} ({len(rows)})", ""]
        for row in rows:
            lines += [f"  {name}: {_said(value)}" for name, value in row.items()] + [""]
    return "\n".join(lines)


def _said(value: Any) -> str:
    if isinstance(value, dict):
        return "; ".join(f"{name}: {_said(one)}" for name, one in value.items())
    if isinstance(value, list):
        return ", ".join(map(_said, value))
    return {True: "yes", False: "no"}.get(value, str(value)) if isinstance(value, bool) else str(value)
