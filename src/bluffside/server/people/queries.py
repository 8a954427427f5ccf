"""Reads on people: searching, and contacts as the core's facts."""

from collections import defaultdict
from collections.abc import Iterable
from typing import Literal

from django.db.models import Q, QuerySet

from bluffside.core import facts
from bluffside.server.people.models import Consent, Contact, ContactTag
from bluffside.server.practice.models import Account, Person


def search(account: Account, q: str = "", tag: str = "") -> QuerySet[Contact]:
    """The account's contacts whose name, email or mobile contains every word, and who have the tag."""
    found = Contact.objects.filter(account=account)
    for word in q.split()[:6]:
        number = "".join(letter for letter in word if letter.isdigit())
        match = Q(first_name__icontains=word) | Q(last_name__icontains=word) | Q(email__icontains=word)
        if len(number) >= 3:
            match |= Q(mobile__contains=number.lstrip("0"))
        found = found.filter(match)
    if tag:
        found = found.filter(tagged__tag__name=tag)
    return found


def account_facts(account: Account) -> facts.Account:
    return facts.Account(account.name, account.zone, account.phone, account.booking_link, account.signature)


def member_facts(person: Person | None) -> facts.Member:
    return facts.Member(person.first_name, person.name, person.phone) if person else facts.Member()


def load_facts(contact_ids: Iterable[int]) -> dict[int, facts.Facts]:
    """What decisions about these contacts are taken on, by contact id, in three queries for all of them."""
    ids = set(contact_ids)
    tags: dict[int, set[str]] = defaultdict(set)
    for contact_id, name in ContactTag.objects.filter(contact_id__in=ids).values_list("contact_id", "tag__name"):
        tags[contact_id].add(name)
    said: dict[int, list[facts.Consent]] = defaultdict(list)
    for consent in Consent.objects.filter(contact_id__in=ids):
        said[consent.contact_id] += _consents(consent)
    found = {}
    for row in Contact.objects.filter(id__in=ids).select_related("account__responsible", "responsible"):
        contact = facts.Contact(
            first_name=row.first_name,
            last_name=row.last_name,
            email=row.email,
            mobile=row.mobile,
            zone=row.zone,
            tags=frozenset(tags[row.id]),
            consents=tuple(said[row.id]),
            id=str(row.id),
            added=row.added_at,
            owner=row.responsible.name if row.responsible else "",
        )
        member = member_facts(row.responsible or row.account.responsible)
        found[row.id] = facts.Facts(contact, account_facts(row.account), member)
    return found


def _consents(row: Consent) -> list[facts.Consent]:
    """What was said of a channel, which counts for every purpose."""
    channel: facts.TwoWay = "text" if row.channel == "text" else "email"
    state: Literal["given", "withdrawn"] = "given" if row.given else "withdrawn"
    return [facts.Consent(channel, purpose, state, row.at, evidence=row.evidence) for purpose in facts.PURPOSES]
