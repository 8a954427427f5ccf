"""What comes from outside about somebody who is known: by forms that anybody can send, and leads that anybody who knows an
address can post.

Whoever sends it has shown nothing but that they know one address. So it fills what is empty, and takes up consent for the
address that it names; whatever would change something, and any address that is not known yet, is a *proposal*. Until
somebody of the team has taken it up, or the contact on their own page (whose link was sent to an address that is theirs),
nothing is written to such an address, and it opens no page. Who has opted out is in again by their own word alone.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from bluffside.core.facts import FieldValue
from bluffside.core.own_fields import OWN
from bluffside.core.terms import ADDRESS_OF, ANSWERED_AT, SEVERAL, Channel, Purpose
from bluffside.server.events.stream import WORLD, Cause, Happened, record
from bluffside.server.people.models import Consent, Contact, MergedContact, Proposal
from bluffside.server.people.queries import field_kinds
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    change_contact,
    contact_at,
    known_by,
    set_consent,
    set_fields,
    set_further,
)
from bluffside.server.people.values import in_words, plain_value, read_value
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person

NAMES = ("first_name", "last_name")
MOST_OPEN = 50  # of one contact; whoever sends more proposes nothing new


class CannotTake(ValueError):
    """Why a proposal cannot be taken up, in words."""


@dataclass(frozen=True, slots=True)
class Agreed:
    """Consent that came along: on a channel for purposes, in answer to which words, with what evidence."""

    channel: Channel
    purposes: Sequence[Purpose]
    how: str
    evidence: str
    wording: str = ""


@dataclass(frozen=True, slots=True)
class Stated:
    """What a sender says of a person: the contact's own fields (normalised), the account's fields, and consents. `source`:
    by what, in words."""

    own: Mapping[str, str]
    declared: Mapping[str, FieldValue]
    agreed: Sequence[Agreed]
    source: str


@transaction.atomic
def come_in(account: Account, said: Stated, cause: Cause = WORLD, known: Contact | None = None) -> Contact:
    """The contact of whom it is said: `known`, found by email or mobile, or made. Raises BadContact."""
    email, mobile = said.own.get("email", ""), said.own.get("mobile", "")
    contact = known or known_by(account, email, mobile)
    if contact is None:
        try:
            made = add_contact(account, said.own, cause, how=said.source)
        except BadContact:
            contact = known_by(account, email, mobile)  # who came in by the same address at this moment
            if contact is None:
                raise
        else:
            set_fields(made, said.declared, cause)
            take_consents(made, said, cause)
            return made
    take_in(contact, said, cause)
    return contact


@transaction.atomic
def take_in(contact: Contact, said: Stated, cause: Cause = WORLD) -> None:
    """Fills what is empty, and keeps the rest as proposals."""
    nameless = not any(getattr(contact, name) for name in NAMES)
    fill = {name: said.own[name] for name in NAMES if nameless and said.own.get(name)}
    if said.own.get("zone") and not contact.zone:
        fill["zone"] = said.own["zone"]
    change_contact(contact, fill, cause)
    proposed: dict[str, Any] = {
        name: value for name, value in said.own.items() if value and name not in fill and _is_new(contact, name, value)
    }
    kinds = field_kinds(contact.account)
    known = {name: read_value(contact.fields.get(name), kinds.get(name, "")) for name in said.declared}
    set_fields(contact, {name: value for name, value in said.declared.items() if known[name] in (None, "", ())}, cause)
    proposed |= {
        f"field:{name}": plain_value(value)
        for name, value in said.declared.items()
        if value and known[name] not in (None, "", ()) and known[name] != value
    }
    for what, value in proposed.items():
        _propose(contact, what, value, said.source, {})
    take_consents(contact, said, cause)


def take_consents(contact: Contact, said: Stated, cause: Cause) -> None:
    """What somebody agrees to who names the address; the rest is proposed."""
    for agreed in said.agreed:
        _take_consent(contact, agreed, said.own.get(ADDRESS_OF[agreed.channel], ""), said.source, cause)


def _is_new(contact: Contact, name: str, value: str) -> bool:
    """Whether a value would change something; an address that is theirs, or somebody else's, changes nothing."""
    if getattr(contact, name) == value:
        return False
    return name not in ANSWERED_AT or contact_at(contact.account, ANSWERED_AT[name], value) is None


def _take_consent(contact: Contact, agreed: Agreed, address: str, source: str, cause: Cause) -> None:
    """Who names the address may agree to be written to there, where nothing has been refused; else it is proposed."""
    names_it = bool(address) and address == getattr(contact, ADDRESS_OF[agreed.channel])
    refused = set(
        Consent.objects.filter(contact=contact, channel=agreed.channel, state=Consent.State.WITHDRAWN).values_list(
            "purpose", flat=True
        )
    )
    about = {"how": agreed.how, "evidence": agreed.evidence, "wording": agreed.wording}
    free = [one for one in agreed.purposes if names_it and one not in refused and not contact.do_not_contact]
    if free:
        set_consent(
            contact.account, [contact.id], agreed.channel, True, agreed.evidence, cause, free, how=agreed.how,
            wording=agreed.wording,
        )  # fmt: skip
    for purpose in agreed.purposes:
        if purpose not in free:
            _propose(contact, f"consent:{agreed.channel}:{purpose}", "given", source, about)


def _propose(contact: Contact, what: str, value: Any, source: str, about: Mapping[str, str]) -> None:
    still = Proposal.objects.filter(contact=contact, settled_at=None)
    if still.filter(what=what, value=value).exists() or still.count() >= MOST_OPEN:
        return
    Proposal.objects.create(
        account=contact.account, contact=contact, what=what, value=value, source=source[:200], about=dict(about),
        at=clock.now(),
    )  # fmt: skip
    record(contact.account, [Happened("contact.proposed", contact.id, {"what": label(what), "source": source})])


# ---- deciding


def label(what: str) -> str:
    """What a proposal is about, in words."""
    kind, _, rest = what.partition(":")
    if kind == "consent":
        channel, _, purpose = rest.partition(":")
        return f"consent to {SEVERAL[channel]} for {purpose}"
    return rest or (OWN[what].label if what in OWN else what.replace("_", " "))


def in_place_of(one: Proposal) -> str:
    """What stands there now, in words; empty when nothing does."""
    kind, _, rest = one.what.partition(":")
    if kind == "consent":
        channel, _, purpose = rest.partition(":")
        said = Consent.objects.filter(contact=one.contact, channel=channel, purpose=purpose).first()
        return {"withdrawn": "opted out", "given": "agreed", "asked": "asked"}[said.state] if said else ""
    return in_words(one.contact.fields.get(rest)) if kind == "field" else str(getattr(one.contact, one.what))


def theirs_alone(one: Proposal) -> bool:
    """Whether the contact alone may say so: who has opted out is in again by their own word."""
    return one.what.startswith("consent:") and (in_place_of(one) == "opted out" or one.contact.do_not_contact)


@transaction.atomic
def settle(proposal: Proposal, taken: bool, by: Person | None) -> None:
    """Takes a proposal up or lays it aside; `by` nobody of the team: the contact themselves. Raises CannotTake."""
    one = Proposal.objects.select_for_update(of=("self",)).select_related("contact__account").get(id=proposal.id)
    if one.settled_at:
        return
    if taken and by and theirs_alone(one):
        raise CannotTake(
            "They have opted out: only they themselves can take that back, on their own page or by a text."
        )
    one.settled_at, one.taken, one.by = clock.now(), taken, by
    one.save(update_fields=["settled_at", "taken", "by"])
    if taken:
        try:
            _take(one, Cause(actor=by))
        except BadContact as error:
            raise CannotTake(" ".join(f"{text[:1].upper()}{text[1:]}." for text in error.faults.values())) from None


def _take(one: Proposal, cause: Cause) -> None:
    contact, (kind, _, rest) = one.contact, one.what.partition(":")
    if kind == "field":
        set_fields(contact, {rest: read_value(one.value, field_kinds(contact.account).get(rest, ""))}, cause)
    elif kind == "consent":
        channel, _, purpose = rest.partition(":")
        confirmed = f"taken up by {cause.actor.name}" if cause.actor else "confirmed on their own page"
        evidence = f"{one.about.get('evidence', '')}; {confirmed}"[:400]
        set_consent(
            contact.account, [contact.id], channel, True, evidence, cause, [purpose],  # type: ignore[list-item]
            by_themselves=not cause.actor, how=one.about.get("how", ""), wording=one.about.get("wording", ""),
        )  # fmt: skip
    else:
        old = getattr(contact, one.what)
        change_contact(contact, {one.what: one.value}, cause)
        if old and one.what in ANSWERED_AT:
            set_further(contact, ANSWERED_AT[one.what], old, True, cause)


def still_open(contact: Contact) -> list[Proposal]:
    return list(Proposal.objects.filter(contact=contact, settled_at=None).select_related("contact").order_by("id"))


def number_now(account_id: int, contact_id: int) -> int:
    """The number under which somebody is known now, who may have been merged since a link was made."""
    found = MergedContact.objects.filter(account_id=account_id, was=contact_id).values_list("contact_id", flat=True)
    return next(iter(found), contact_id)
