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
from typing import Any

from django.apps import apps
from django.db import models, transaction
from django.db.models import Func, Q, QuerySet, TextField, Value
from django.db.models.fields.reverse_related import ManyToOneRel
from django.db.models.functions import Cast, Lower

from bluffside.server.events.models import Event, Pending
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people import consents
from bluffside.server.people.models import Consent, Contact, ContactTag, Erased, FurtherAddress, ImportPart
from bluffside.server.people.signed import keyed, keyed_by_each
from bluffside.server.practice import audit, clock
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
    "deal.created",
)


def untouched_since(account: Account, contact_ids: Sequence[int], moment: datetime) -> list[int]:
    """Of people that an import added, those to whom nothing has happened since it ended: nothing refers to them but what
    came in with them, and no event is later than that or of another sort."""
    left = set(contact_ids)
    for model, field in referring():
        if model not in (ContactTag, Consent, FurtherAddress) and left:
            left -= set(model._base_manager.filter(**{f"{field}__in": left}).values_list(field, flat=True))
    since = Event.objects.filter(account=account, contact_id__in=left).filter(
        Q(at__gt=moment) | ~Q(kind__in=COMES_IN_WITH)
    )
    return sorted(left - set(since.order_by().values_list("contact_id", flat=True).distinct()))


def referring() -> list[tuple[type[models.Model], str]]:
    """The models that refer to contacts, of all areas, and by which field."""
    relations = Contact._meta.get_fields(include_hidden=True)
    return [(one.related_model, one.field.name) for one in relations if isinstance(one, ManyToOneRel)]


# What knows a contact by number, by address, or may name somebody in its words who is no contact by it (spam and leads that
# were not taken, rows with faults, what stand-ins of other systems were asked): of areas above this one, too, so by name.
BY_NUMBER = ("events.Event", "hooks.Call", "people.ImportTouched")
BY_ADDRESS = ("messaging.StrangerMail",)
BY_WORDS = (("capture.FormAnswer", "answers"), ("capture.Lead", "body"), ("people.ImportFault", "cells"))


def rows_of(label: str) -> QuerySet[Any]:
    rows: QuerySet[Any] = apps.get_model(label)._base_manager.all()
    return rows


def wipe(account: Account, contact_ids: Sequence[int]) -> None:
    """Takes contacts out with all that hangs on them, their events included. The caller holds a transaction."""
    ids = list(contact_ids)
    if not ids:
        return
    Pending.objects.filter(account=account, contact_id__in=ids).delete()
    Contact.objects.filter(account=account, id__in=ids).delete()
    for label in BY_NUMBER:
        rows_of(label).filter(account=account, contact_id__in=ids).delete()


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
    audit.note(account, by, "erasures", [audit.Noted("a person and all that was known of them")])
    record(account, [Happened("contact.erased", None, {"erased": kept.id}, Cause(actor=by))])
    return kept


def _forget_what_came(contact: Contact, addresses: Sequence[str]) -> None:
    """What would outlive a contact who merely is taken out: answers to forms, leads, rows of files that name them."""
    for model, field in referring():
        if model is not Contact:
            model._base_manager.filter(**{field: contact.id}).delete()
    account = contact.account
    for label in BY_ADDRESS:
        rows_of(label).filter(account=account, address__in=addresses).delete()
    ours = [account.text_number, account.sender_email]
    ours += rows_of("messaging.Sender").filter(account=account).values_list("address", flat=True)
    for address in filter(None, addresses):
        for label, column in BY_WORDS:
            _naming(rows_of(label).filter(account=account), column, address).delete()
        _naming(rows_of("capture.LeadSource").filter(account=account), "sample", address).update(sample=None)
        rows_of("outside.Item").filter(theirs=address, ours__in=ours).delete()
        _naming(rows_of("outside.Asked").filter(account=account.slug), "body", address).delete()
        _blank_rows(account, address)


def _naming(rows: QuerySet[Any], column: str, address: str) -> QuerySet[Any]:
    """Rows whose column holds an address, however it was written: of a number its last nine digits."""
    text = Cast(column, TextField())
    digits = Func(text, Value("[^0-9]"), Value(""), Value("g"), function="regexp_replace", output_field=TextField())
    holds = Q(all_lower__contains=address.lower())
    if nine := _nine_digits(address):
        holds |= Q(all_digits__contains=nine)
    found = rows.annotate(all_lower=Lower(text), all_digits=digits).filter(holds)
    named: QuerySet[Any] = rows.model._base_manager.filter(pk__in=list(found.values_list("pk", flat=True)))
    return named


def _nine_digits(address: str) -> str:
    return address[-9:] if address.startswith("+") else ""


def _blank_rows(account: Account, address: str) -> None:
    """Rows of files that were read and have not come in yet."""
    low, digits = address.lower(), _nine_digits(address)
    for part in _naming(ImportPart.objects.filter(account=account), "rows", address):
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
        consents.write(account, [
            consents.Said(id, channel, purpose, Consent.State.WITHDRAWN, now, "erased", "",
                          f"had opted out on {at[:10]}, before they were erased")
            for id in ids for channel, purpose, at in one.opted_out if channel
        ])  # fmt: skip
        record(account, [
            Happened("consent.withdrawn", id, {"channel": channel, "evidence": "had opted out before they were erased"}, cause)
            for id in ids for channel in dict.fromkeys(channel for channel, *_ in one.opted_out if channel)
        ])  # fmt: skip
