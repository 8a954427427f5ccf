"""Writes on people. Each records what happened in the same transaction."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.db import transaction

from bluffside.core.facts import TwoWay
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people import addresses
from bluffside.server.people.models import Consent, Contact, ContactTag, Tag
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account


class BadContact(ValueError):
    """What is wrong, by field, in words."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        super().__init__("; ".join(faults.values()))
        self.faults = dict(faults)


def normalised(account: Account, fields: Mapping[str, str]) -> dict[str, str]:
    """Fields of a contact as they are kept. Raises BadContact with every fault at once."""
    rules = {
        "first_name": lambda text: _short(text, "first name"),
        "last_name": lambda text: _short(text, "last name"),
        "email": addresses.email,
        "mobile": lambda text: addresses.mobile(text, account.region),
        "zone": addresses.zone,
    }
    kept, faults = {}, {}
    for name, text in fields.items():
        try:
            kept[name] = rules[name](text)
        except ValueError as error:
            faults[name] = str(error)
    if faults:
        raise BadContact(faults)
    return kept


def _short(text: str, what: str) -> str:
    text = " ".join(text.split())
    if len(text) > 80:
        raise ValueError(f"the {what} is longer than 80 letters")
    return text


@transaction.atomic
def add_contact(account: Account, fields: Mapping[str, str], cause: Cause = WORLD) -> Contact:
    """Raises BadContact, also when the email or mobile belongs to somebody already."""
    kept = normalised(account, fields)
    if not any(kept.get(name) for name in ("first_name", "last_name", "email", "mobile")):
        raise BadContact({"first_name": "give at least a name, an email or a mobile number"})
    _refuse_taken(account, kept, None)
    contact = Contact.objects.create(account=account, added_at=clock.now(), **kept)
    record(account, [Happened("contact.added", contact.id, {"how": "by hand"}, cause)])
    return contact


@transaction.atomic
def change_contact(contact: Contact, fields: Mapping[str, str], cause: Cause = WORLD) -> None:
    kept = normalised(contact.account, fields)
    changed = {name: value for name, value in kept.items() if getattr(contact, name) != value}
    if not changed:
        return
    _refuse_taken(contact.account, changed, contact.id)
    for name, value in changed.items():
        setattr(contact, name, value)
    contact.save(update_fields=list(changed))
    record(contact.account, [Happened("contact.changed", contact.id, {"fields": sorted(changed)}, cause)])


def _refuse_taken(account: Account, kept: Mapping[str, str], own: int | None) -> None:
    for name in ("email", "mobile"):
        if kept.get(name):
            other = Contact.objects.filter(account=account, **{name: kept[name]}).first()
            if other and other.id != own:
                raise BadContact({name: f"{kept[name]} belongs to {other.name} already"})


@transaction.atomic
def add_tags(account: Account, pairs: Iterable[tuple[int, str, Cause]]) -> int:
    """Tags contacts: (contact id, tag, cause). Answers how many were new; only those are recorded as events."""
    wanted = [(contact_id, " ".join(name.split())[:80], cause) for contact_id, name, cause in pairs]
    wanted = [one for one in wanted if one[1]]
    tags = tags_named(account, {name for _, name, _ in wanted})
    has = set(
        ContactTag.objects.filter(
            contact_id__in={contact_id for contact_id, _, _ in wanted}, tag__in=tags.values()
        ).values_list("contact_id", "tag_id")
    )
    fresh: dict[tuple[int, int], Happened] = {}
    for contact_id, name, cause in wanted:
        key = (contact_id, tags[name].id)
        if key not in has:
            fresh.setdefault(key, Happened("tag.added", contact_id, {"tag": name}, cause))
    ContactTag.objects.bulk_create(
        [ContactTag(contact_id=contact_id, tag_id=tag_id) for contact_id, tag_id in fresh],
        ignore_conflicts=True,
        batch_size=2_000,
    )
    record(account, fresh.values())
    return len(fresh)


@transaction.atomic
def remove_tags(account: Account, pairs: Iterable[tuple[int, str, Cause]]) -> int:
    happened = []
    for contact_id, name, cause in pairs:
        gone, _ = ContactTag.objects.filter(contact_id=contact_id, tag__account=account, tag__name=name).delete()
        if gone:
            happened.append(Happened("tag.removed", contact_id, {"tag": name}, cause))
    record(account, happened)
    return len(happened)


def tags_named(account: Account, names: Iterable[str]) -> dict[str, Tag]:
    """The account's tags of these names, made where missing."""
    names = set(names)
    Tag.objects.bulk_create([Tag(account=account, name=name) for name in names], ignore_conflicts=True)
    return {tag.name: tag for tag in Tag.objects.filter(account=account, name__in=names)}


def add_note(contact: Contact, text: str, cause: Cause) -> None:
    record(contact.account, [Happened("note.added", contact.id, {"text": text.strip()[:2_000]}, cause)])


@transaction.atomic
def set_consent(
    account: Account, contact_ids: Sequence[int], channel: TwoWay, given: bool, evidence: str, cause: Cause = WORLD
) -> None:
    """Notes what contacts said about a channel. Who opted out stays out when a file merely says "given"."""
    now = clock.now()
    kept_out: set[int] = set()
    if given:
        kept_out = set(
            Consent.objects.filter(contact_id__in=contact_ids, channel=channel, given=False).values_list(
                "contact_id", flat=True
            )
        )
    rows = [
        Consent(contact_id=id, channel=channel, given=given, at=now, evidence=evidence[:500])
        for id in contact_ids
        if id not in kept_out
    ]
    Consent.objects.bulk_create(
        rows,
        update_conflicts=True,
        unique_fields=["contact", "channel"],
        update_fields=["given", "at", "evidence"],
        batch_size=2_000,
    )
    kind = "consent.given" if given else "consent.withdrawn"
    data: dict[str, Any] = {"channel": channel, "evidence": evidence[:500]}
    record(account, [Happened(kind, row.contact_id, data, cause) for row in rows])
