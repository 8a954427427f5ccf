"""People who go: taken out with all that hangs on them, and what is kept of somebody who had opted out.

A contact's rows in every area refer to them by foreign keys and go with them; events name them by number and are taken
out of the stream here. Of an erased person nothing is kept but digests of their addresses and what they opted out of,
so that an address that comes back later, in a file or a form, is still not written to. A digest is keyed with the
installation's secret: nobody can find an address by trying all of them without it.
"""

import re
from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime

from django.db import models, transaction
from django.db.models.fields.reverse_related import ManyToOneRel

from bluffside.server import sql
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people.models import Consent, Contact, ContactTag, Erased, FurtherAddress, ImportPart
from bluffside.server.people.signed import keyed, keyed_by_each
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

COMES_IN_WITH = (
    "contact.added",
    "contact.changed",
    "field.changed",
    "tag.added",
    "list.joined",
    "consent.given",
    "consent.withdrawn",
    "note.added",
)


def untouched_since(account: Account, contact_ids: Sequence[int], moment: datetime) -> list[int]:
    """Of people that an import added, those to whom nothing has happened since it ended: nothing refers to them but what
    came in with them, and no event is later than that or of another sort."""
    left = set(contact_ids)
    for model, field in referring():
        if model not in (ContactTag, Consent, FurtherAddress) and left:
            left -= set(model._base_manager.filter(**{f"{field}__in": left}).values_list(field, flat=True))
    touched = sql.rows(
        """
        SELECT DISTINCT contact_id FROM events_event
         WHERE contact_id = ANY(%s) AND account_id = %s AND (at > %s OR NOT kind = ANY(%s))
        """,
        [sorted(left), account.id, moment, list(COMES_IN_WITH)],
    )
    return sorted(left - {row[0] for row in touched})


def referring() -> list[tuple[type[models.Model], str]]:
    """The models that refer to contacts, of all areas, and by which field."""
    relations = Contact._meta.get_fields(include_hidden=True)
    return [(one.related_model, one.field.name) for one in relations if isinstance(one, ManyToOneRel)]


# Tables that know a contact by number alone, of all areas.
BY_NUMBER = ("events_event", "hooks_call", "people_importtouched")
# Tables that know nobody but an address.
BY_ADDRESS = ("messaging_strangermail",)
# Columns in which somebody may be named who is no contact by them: spam and leads that were not taken, rows with faults.
BY_WORDS = (("capture_formanswer", "answers"), ("capture_lead", "body"), ("people_importfault", "cells"))


def wipe(account: Account, contact_ids: Sequence[int]) -> None:
    """Takes contacts out with all that hangs on them, their events included. The caller holds a transaction."""
    ids = list(contact_ids)
    if not ids:
        return
    sql.execute(
        "DELETE FROM events_pending p USING events_event e WHERE e.id = p.event_id AND e.at = p.at"
        " AND e.contact_id = ANY(%s) AND p.account_id = %s",
        [ids, account.id],
    )
    Contact.objects.filter(account=account, id__in=ids).delete()
    for table in BY_NUMBER:
        sql.execute(f"DELETE FROM {table} WHERE contact_id = ANY(%s) AND account_id = %s", [ids, account.id])


@transaction.atomic
def erase(contact: Contact, by: Person, why: str = "") -> Erased:
    """Erases a person on request. Opt-outs, and their being on nobody's list, outlive them as digests."""
    account = contact.account
    said = Consent.objects.filter(contact=contact, state=Consent.State.WITHDRAWN).order_by("channel", "purpose")
    out = [[one.channel, one.purpose, one.at.isoformat()] for one in said]
    if contact.do_not_contact:
        out.append(["", "", clock.now().isoformat()])
    further = FurtherAddress.objects.filter(contact=contact).values_list("address", flat=True)
    kept = Erased.objects.create(
        account=account,
        digests=sorted({digest(one) for one in (contact.email, contact.mobile, *further) if one}),
        opted_out=out, at=clock.now(), by=by, why=why[:300],
    )  # fmt: skip
    _forget_what_came(contact, [contact.email, contact.mobile, *further])
    wipe(account, [contact.id])
    record(account, [Happened("contact.erased", None, {"erased": kept.id}, Cause(actor=by))])
    return kept


def _forget_what_came(contact: Contact, addresses: Sequence[str]) -> None:
    """What would outlive a contact who merely is taken out: answers to forms, leads, rows of files that name them."""
    for model, field in referring():
        if model is not Contact:
            model._base_manager.filter(**{field: contact.id}).delete()
    for table in BY_ADDRESS:
        sql.execute(
            f"DELETE FROM {table} WHERE account_id = %s AND address = ANY(%s)", [contact.account_id, list(addresses)]
        )
    own = [contact.account_id]
    for address in filter(None, addresses):
        for table, column in BY_WORDS:
            sql.execute(f"DELETE FROM {table} WHERE account_id = %s AND {_holds(column)}", [*own, *_wanted(address)])
        blank = f"UPDATE capture_leadsource SET sample = NULL WHERE account_id = %s AND {_holds('sample')}"
        sql.execute(blank, [*own, *_wanted(address)])
        of_ours = "SELECT address FROM messaging_sender WHERE account_id = %s"
        named = "SELECT unnest(ARRAY[text_number, sender_email]) FROM practice_account WHERE id = %s"
        sql.execute(
            f"DELETE FROM outside_item WHERE theirs = %s AND (ours IN ({of_ours}) OR ours IN ({named}))",
            [address, *own, *own],
        )
        slug = "SELECT slug FROM practice_account WHERE id = %s"
        sql.execute(
            f"DELETE FROM outside_asked WHERE account = ({slug}) AND {_holds('body')}", [*own, *_wanted(address)]
        )
        _blank_rows(contact.account_id, address)


def _holds(column: str) -> str:
    """Whether a column holds an address, however it was written: of a number its last nine digits (see _wanted)."""
    return (
        f"(strpos(lower({column}::text), %s) > 0 OR (%s <> '' AND"
        f" strpos(regexp_replace({column}::text, '[^0-9]', '', 'g'), %s) > 0))"
    )


def _wanted(address: str) -> tuple[str, str, str]:
    digits = address[-9:] if address.startswith("+") else ""
    return address.lower(), digits, digits


def _blank_rows(account_id: int, address: str) -> None:
    """Rows of files that were read and have not come in yet."""
    found = sql.rows(
        f"SELECT id FROM people_importpart WHERE account_id = %s AND {_holds('rows')}", [account_id, *_wanted(address)]
    )
    low, digits, _ = _wanted(address)
    for part in ImportPart.objects.filter(id__in=[row[0] for row in found]):
        for row in part.rows:
            said = " ".join(map(str, row))
            if low in said.lower() or (digits and digits in re.sub("[^0-9]", "", said)):
                row[:] = [""] * len(row)
        part.save(update_fields=["rows"])


def digest(address: str) -> str:
    return keyed("erased", address).hex()


def withdraw_again(account: Account, contacts: Sequence[Contact], cause: Cause = WORLD) -> None:
    """What erased people had opted out of holds for whoever comes in with an address of theirs."""
    by_digest: dict[str, list[Contact]] = defaultdict(list)
    for contact in contacts:
        for address in filter(None, (contact.email, contact.mobile)):
            for made in keyed_by_each("erased", address):
                by_digest[made.hex()].append(contact)
    kept = list(Erased.objects.filter(account=account, digests__overlap=list(by_digest))) if by_digest else []
    now = clock.now()
    for one in kept:
        ids = sorted({contact.pk for known in one.digests for contact in by_digest.get(known, ())})
        if any(not channel for channel, *_ in one.opted_out):
            Contact.objects.filter(id__in=ids).update(do_not_contact=True)
        rows = [
            (account.id, id, channel, purpose, "withdrawn", now, "erased", "", f"had opted out on {at[:10]}, before they were erased")
            for id in ids
            for channel, purpose, at in one.opted_out
            if channel
        ]  # fmt: skip
        sql.insert(
            Consent,
            ("account_id", "contact_id", "channel", "purpose", "state", "at", "how", "wording", "evidence"),
            rows,
            on_conflict="ON CONFLICT (contact_id, channel, purpose) DO UPDATE SET state = excluded.state, at = excluded.at,"
            " how = excluded.how, evidence = excluded.evidence",
        )
        record(account, [
            Happened("consent.withdrawn", id, {"channel": channel, "evidence": "had opted out before they were erased"}, cause)
            for id in ids for channel in dict.fromkeys(channel for channel, *_ in one.opted_out if channel)
        ])  # fmt: skip
