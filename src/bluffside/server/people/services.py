"""Writes on people. Each records what happened in the same transaction."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any, TypeVar

from django.db import IntegrityError, transaction
from django.db.models import F, Func, Q, QuerySet, Value

from bluffside.core.facts import FieldValue
from bluffside.core.own_fields import OWN, OwnField
from bluffside.core.terms import ADDRESS_OF, ANSWERED_AT, PURPOSES, Channel, Purpose, TwoWay
from bluffside.server import sql
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people import addresses, consents
from bluffside.server.people.erasing import withdraw_again
from bluffside.server.people.models import Consent, Contact, ContactTag, FurtherAddress, Tag
from bluffside.server.people.queries import field_kinds
from bluffside.server.people.values import plain_value, read_value
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

Made = TypeVar("Made")


class BadContact(ValueError):
    """What is wrong, by field, in words."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        super().__init__("; ".join(faults.values()))
        self.faults = dict(faults)


def normalised(account: Account, fields: Mapping[str, str]) -> dict[str, str]:
    """Fields of a contact as they are kept. Raises BadContact with every fault at once."""
    rules: dict[str, Callable[[str], str]] = {
        "email": addresses.email,
        "mobile": lambda text: addresses.mobile(text, account.region),
        "zone": addresses.zone,
    }
    kept, faults = {}, {}
    for name, text in fields.items():
        try:
            kept[name] = rules[name](text) if name in rules else _short(text, OWN[name])
        except ValueError as error:
            faults[name] = str(error)
    if faults:
        raise BadContact(faults)
    return kept


def _short(text: str, field: OwnField) -> str:
    text = " ".join(text.replace("\0", "").split())
    if len(text) > field.longest:
        raise ValueError(f"the {field.label} is longer than {field.longest} letters")
    return text


def second_look(act: Callable[[], Made]) -> Made:
    """Does something that somebody else may do at the same moment, for the same address. Who comes second is refused by a
    constraint, and looks once more: then the first is there to be found."""
    try:
        with transaction.atomic():
            return act()
    except IntegrityError:
        with transaction.atomic():
            return act()


def add_contact(account: Account, fields: Mapping[str, str], cause: Cause = WORLD, how: str = "by hand") -> Contact:
    """Raises BadContact, also when the email or mobile belongs to somebody already."""
    return second_look(lambda: _add_contact(account, fields, cause, how))


def _add_contact(account: Account, fields: Mapping[str, str], cause: Cause, how: str) -> Contact:
    kept = normalised(account, fields)
    if not any(kept.get(name) for name in ("first_name", "last_name", "email", "mobile")):
        raise BadContact({"first_name": "give at least a name, an email or a mobile number"})
    _refuse_taken(account, kept, None)
    contact = Contact.objects.create(account=account, added_at=clock.now(), **kept)
    record(account, [Happened("contact.added", contact.id, {"how": how}, cause)])
    withdraw_again(account, [contact], cause)
    return contact


def change_contact(contact: Contact, fields: Mapping[str, str], cause: Cause = WORLD) -> None:
    """Raises BadContact, also when an address belongs to somebody else."""
    before = {name: getattr(contact, name) for name in fields}

    def change() -> None:
        for name, value in before.items():
            setattr(contact, name, value)
        _change_contact(contact, fields, cause)

    second_look(change)


def _change_contact(contact: Contact, fields: Mapping[str, str], cause: Cause) -> None:
    kept = normalised(contact.account, fields)
    changed = {name: value for name, value in kept.items() if getattr(contact, name) != value}
    if not changed:
        return
    _refuse_taken(contact.account, changed, contact.id)
    for name, value in changed.items():
        setattr(contact, name, value)
    if ANSWERED_AT.keys() & changed.keys():  # another address may well work
        contact.exhausted = []
        contact.save(update_fields=[*changed, "exhausted"])
    else:
        contact.save(update_fields=list(changed))
    record(contact.account, [Happened("contact.changed", contact.id, {"fields": sorted(changed)}, cause)])


@transaction.atomic
def set_channel_order(contact: Contact, channels: Sequence[Channel], cause: Cause = WORLD) -> None:
    """In which order the contact likes to be reached; each channel counts where it is named first."""
    order = list(dict.fromkeys(channels))
    if order == contact.channel_order:
        return
    contact.channel_order = order
    contact.save(update_fields=["channel_order"])
    record(contact.account, [Happened("contact.changed", contact.id, {"fields": ["channel_order"]}, cause)])


def _refuse_taken(account: Account, kept: Mapping[str, str], own: int | None) -> None:
    for name, channel in ANSWERED_AT.items():
        if kept.get(name):
            other = contact_at(account, channel, kept[name])
            if other and other.id != own:
                raise BadContact({name: f"{kept[name]} belongs to {other.name} already"})


def contact_at(account: Account, channel: TwoWay, address: str) -> Contact | None:
    """Whose address it is, the first or a further one of theirs."""
    name = ADDRESS_OF[channel]
    found = Contact.objects.filter(account=account, **{name: address}).first()
    if found is None:
        further = FurtherAddress.objects.filter(account=account, channel=ANSWERED_AT[name], address=address)
        found = next((one.contact for one in further.select_related("contact")), None)
    return found


def known_by(account: Account, email: str, mobile: str) -> Contact | None:
    """Who has the email, else who has the mobile number, both as they are kept."""
    found = contact_at(account, "email", email) if email else None
    return found or (contact_at(account, "text", mobile) if mobile else None)


def without_held(contact: Contact, fields: Mapping[str, str]) -> dict[str, str]:
    """The fields without an email or mobile that is somebody else's, or a further one of the contact's own who has a first
    one already: what comes in by itself takes nobody's address."""
    kept = dict(fields)
    for name, channel in ANSWERED_AT.items():
        holder = contact_at(contact.account, channel, kept[name]) if kept.get(name) else None
        if holder and (holder.id != contact.id or getattr(contact, name)):
            kept.pop(name)
    return kept


@transaction.atomic
def set_further(contact: Contact, channel: TwoWay, address: str, on: bool, cause: Cause = WORLD) -> None:
    """Adds another address of a contact, or takes one away. Raises BadContact."""
    name = ADDRESS_OF[channel]
    kept = normalised(contact.account, {name: address})[name]
    if not kept:
        raise BadContact({name: "there is no address"})
    mine = FurtherAddress.objects.filter(contact=contact, channel=channel, address=kept)

    def add() -> None:
        if not mine.exists():
            _refuse_taken(contact.account, {name: kept}, None)
            FurtherAddress.objects.create(account=contact.account, contact=contact, channel=channel, address=kept)

    if on and kept != getattr(contact, name):
        second_look(add)
    elif not on:
        mine.delete()
    record(contact.account, [Happened("contact.changed", contact.id, {"fields": ["further addresses"]}, cause)])


def _locked(rows: QuerySet[Contact]) -> list[int]:
    """Their ids; until the transaction ends nobody else changes them."""
    return list(rows.select_for_update(of=("self",)).order_by("id").values_list("id", flat=True))


@transaction.atomic
def set_responsible(account: Account, contact_ids: Sequence[int], member: Person | None, cause: Cause = WORLD) -> int:
    """Gives contacts somebody who is responsible for them, or nobody; answers for how many that is a change."""
    others = Contact.objects.filter(account=account, id__any=set(contact_ids)).exclude(responsible=member)
    changed = _locked(others)
    Contact.objects.filter(id__any=set(changed)).update(responsible=member)
    data = {"fields": ["responsible"], "to": member.name if member else ""}
    record(account, [Happened("contact.changed", id, data, cause) for id in changed])
    return len(changed)


@transaction.atomic
def set_fields(contact: Contact, values: Mapping[str, FieldValue], cause: Cause = WORLD) -> None:
    """Fills fields of the account's own; None empties one. Each that changes is an event."""
    row = Contact.objects.select_for_update().get(id=contact.id)
    kinds = field_kinds(contact.account)
    happened = []
    for name, value in values.items():
        old = read_value(row.fields.get(name), kinds.get(name, ""))
        if (old or None) == (value or None):
            continue
        row.fields[name] = plain_value(value)
        data = {"field": name, "old": "" if old is None else old, "new": "" if value is None else value}
        happened.append(Happened("field.changed", row.id, data, cause))
    row.fields = {name: value for name, value in row.fields.items() if value is not None}
    row.save(update_fields=["fields"])
    contact.fields = row.fields
    record(contact.account, happened)


@transaction.atomic
def set_list(account: Account, contact_ids: Sequence[int], name: str, on: bool, cause: Cause = WORLD) -> int:
    """Puts contacts on a list, or takes them off; answers how many that changed."""
    has_it = Q(lists__contains=[name])
    changed = _locked(Contact.objects.filter(~has_it if on else has_it, account=account, id__any=set(contact_ids)))
    lists = Func(F("lists"), Value(name), function="array_append" if on else "array_remove")
    Contact.objects.filter(id__any=set(changed)).update(lists=lists)
    kind = "list.joined" if on else "list.left"
    record(account, [Happened(kind, id, {"list": name}, cause) for id in changed])
    return len(changed)


@transaction.atomic
def sort_in(
    account: Account,
    contact_id: int,
    cause: Cause = WORLD,
    tags: Iterable[str] = (),
    lists: Iterable[str] = (),
    tags_off: Iterable[str] = (),
    lists_off: Iterable[str] = (),
) -> None:
    """Gives one contact tags and lists and takes others away, as forms, leads and rules say."""
    add_tags(account, [(contact_id, tag, cause) for tag in tags])
    remove_tags(account, [(contact_id, tag, cause) for tag in tags_off])
    for name in lists:
        set_list(account, [contact_id], name, True, cause)
    for name in lists_off:
        set_list(account, [contact_id], name, False, cause)


def form_sent(contact: Contact, form: str, answers: Mapping[str, str], cause: Cause = WORLD) -> None:
    """The contact filled in a form of the account, or the team did about them."""
    record(
        contact.account,
        [Happened("form.sent", contact.id, {"form": form, "answers": dict(answers), "order": list(answers)}, cause)],
    )


@transaction.atomic
def lead_received(contact: Contact, source: str, details: Mapping[str, str]) -> None:
    """Another system sent the contact."""
    record(contact.account, [Happened("lead.received", contact.id, {"source": source, "details": dict(details)})])


@transaction.atomic
def add_tags(account: Account, pairs: Iterable[tuple[int, str, Cause]]) -> int:
    """Tags contacts: (contact id, tag, cause). Answers how many were new; only those are recorded as events."""
    wanted: dict[tuple[int, str], Cause] = {}
    for contact_id, name, cause in pairs:
        if name := " ".join(name.split())[:80]:
            wanted.setdefault((contact_id, name), cause)
    fresh = give_tags(account, list(wanted))
    record(
        account,
        [
            Happened("tag.added", contact_id, {"tag": name}, cause)
            for (contact_id, name), cause in wanted.items()
            if (contact_id, name) in fresh
        ],
    )
    return len(fresh)


def give_tags(account: Account, pairs: Sequence[tuple[int, str]]) -> set[tuple[int, str]]:
    """Writes tags, (contact id, name); answers those that were new. Tells nobody of it."""
    ids = tags_named(account, {name for _, name in pairs})
    names = {id: name for name, id in ids.items()}
    return {
        (contact_id, names[tag_id])
        for some in sql.chunks([(account.id, contact_id, ids[name]) for contact_id, name in pairs], 10_000)
        for contact_id, tag_id in sql.insert(
            ContactTag,
            ("account_id", "contact_id", "tag_id"),
            some,
            on_conflict="ON CONFLICT DO NOTHING",
            returning="contact_id, tag_id",
        )
    }


@transaction.atomic
def remove_tags(account: Account, pairs: Iterable[tuple[int, str, Cause]]) -> int:
    wanted = {(contact_id, name): cause for contact_id, name, cause in pairs}
    gone = take_tags(account, list(wanted))
    record(account, [Happened("tag.removed", id, {"tag": name}, wanted[id, name]) for id, name in gone])
    return len(gone)


def take_tags(account: Account, pairs: Sequence[tuple[int, str]]) -> list[tuple[int, str]]:
    """Takes tags off, (contact id, name); answers those that were there. Tells nobody of it."""
    if not pairs:
        return []
    wanted = set(pairs)
    there = ContactTag.objects.filter(
        contact__in={id for id, _ in pairs}, tag__account=account, tag__name__in={name for _, name in pairs}
    )
    rows = there.select_for_update(of=("self",)).values_list("id", "contact_id", "tag__name")
    gone = {id: (contact_id, name) for id, contact_id, name in rows if (contact_id, name) in wanted}
    ContactTag.objects.filter(id__in=gone).delete()
    return list(gone.values())


def tags_named(account: Account, names: Iterable[str]) -> dict[str, int]:
    """The ids of the account's tags of these names, made where missing."""
    names = sorted(set(names))
    known = dict(Tag.objects.filter(account=account, name__in=names).values_list("name", "id"))
    if missing := [name for name in names if name not in known]:
        Tag.objects.bulk_create([Tag(account=account, name=name) for name in missing], ignore_conflicts=True)
        known |= dict(Tag.objects.filter(account=account, name__in=missing).values_list("name", "id"))
    return known


def add_note(contact: Contact, text: str, cause: Cause) -> None:
    record(contact.account, [Happened("note.added", contact.id, {"text": text.strip()[:2_000]}, cause)])


@transaction.atomic
def set_consent(
    account: Account,
    contact_ids: Sequence[int],
    channel: Channel,
    given: bool,
    evidence: str,
    cause: Cause = WORLD,
    purposes: Sequence[Purpose] = PURPOSES,
    by_themselves: bool = False,
    how: str = "",
    wording: str = "",
    **more: Any,
) -> None:
    """Notes what contacts said about a channel: how ("form", "import"), in answer to which words, with what evidence.
    Who opted out stays out when a file merely says "given"; only words of their own, `by_themselves`, bring them in
    again. `more` goes with the event."""
    state = Consent.State.GIVEN if given else Consent.State.WITHDRAWN
    now = clock.now()
    said = [
        consents.Said(id, channel, purpose, state, now, how, wording, evidence)
        for id in sorted(set(contact_ids))
        for purpose in dict.fromkeys(purposes)
    ]
    kept = Consent.State.WITHDRAWN if given and not by_themselves else ""
    ids = consents.write(account, said, but_not_over=kept)
    data: dict[str, Any] = {
        "channel": channel,
        "purposes": list(dict.fromkeys(purposes)),
        "evidence": evidence[:500],
        **more,
    }
    data |= {name: said for name, said in (("how", how), ("wording", wording)) if said}
    record(account, [Happened(f"consent.{state}", id, data, cause) for id in ids])
