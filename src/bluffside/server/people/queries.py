"""Reads on people: searching, and contacts as the core's facts."""

import json
from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from functools import cache, lru_cache, partial
from typing import Any

from django.conf import settings
from django.db.models import Exists, OuterRef, Q, QuerySet, TextField
from django.db.models.functions import Cast

from bluffside.core import facts
from bluffside.core.assistant.script import AssistantScript
from bluffside.core.care.house import Care
from bluffside.core.scoring.sheet import Score
from bluffside.server.people.addresses import sought_digits
from bluffside.server.people.models import Consent, Contact, ContactTag, Field, FurtherAddress
from bluffside.server.people.signed import preferences_link
from bluffside.server.people.values import read_fields, read_score
from bluffside.server.practice.models import Account, Person

NO_SCORE = Score()


def search(account: Account, q: str = "", tag: str = "") -> QuerySet[Contact]:
    """The account's contacts whose name, email or mobile contains every word, and who have the tag."""
    found = Contact.objects.filter(account=account)
    if digits := sought_digits(q):
        further = FurtherAddress.objects.filter(contact=OuterRef("pk"), address__contains=digits)
        return found.filter(Q(mobile__contains=digits) | Exists(further)).filter(
            **({"tagged__tag__name": tag} if tag else {})
        )
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
    care = care_of(json.dumps(account.care, sort_keys=True))
    return facts.Account(
        account.name,
        account.zone,
        account.phone,
        account.booking_link,
        account.signature,
        care,
        web_page=account.web_page,
        postal_address=account.postal_address,
        language=account.language,
        details={one["name"]: one["words"] for one in account.details},
        booking_pages={name: f"{settings.ADDRESS}/book/{token}" for name, token in account.booking_pages.items()},
        free_next=cache(partial(_free_next[-1], account)) if account.booking_pages else facts.nothing_free,
        assistant=assistant_of(json.dumps(account.assistant, sort_keys=True)),
    )


FreeNext = Callable[[Account, str], Sequence[tuple[datetime, str]]]
_free_next: list[FreeNext] = [lambda account, kind: ()]


def free_next_by(ask: FreeNext) -> None:
    """Called when apps are ready: who knows the next free times of a type of appointment (facts.Account.free_next)."""
    _free_next.append(ask)


@lru_cache(maxsize=1_000)
def assistant_of(text: str) -> AssistantScript:
    return AssistantScript.model_validate_json(text)


@lru_cache(maxsize=1_000)
def care_of(text: str) -> Care:
    return Care.model_validate_json(text)


def member_facts(person: Person | None) -> facts.Member:
    return facts.Member(person.first_name, person.name, person.phone, person.signature) if person else facts.Member()


def field_kinds(account: Account) -> dict[str, str]:
    """The kinds of the account's own fields, by name."""
    return dict(Field.objects.filter(account=account).values_list("name", "kind"))


def fields_of(account: Account) -> dict[str, Field]:
    """The account's own fields, by name."""
    return {one.name: one for one in Field.objects.filter(account=account)}


def load_contacts(
    account: Account, contact_ids: Iterable[int], more: Mapping[int, Mapping[str, Any]] | None = None
) -> dict[int, facts.Facts]:
    """What is known of contacts of an account, by contact id, in a fixed number of queries. `more` is what other
    areas know of each: deals, appointments, what happened."""
    ids = list(set(contact_ids))
    tags, said = _tags(ids), _consents(ids)
    owners = _members(account, ids)
    own, nobody = account_facts(account), member_facts(account.responsible)
    kinds = field_kinds(account)
    nothing: Mapping[str, Any] = {}
    found = {}
    for (
        id,
        first,
        last,
        email,
        mobile,
        zone,
        post,
        push,
        social,
        added,
        data,
        lists,
        order,
        out,
        never,
        score,
        owner,
        quiet,
        held,
    ) in Contact.objects.filter(account=account, id__any=set(ids)).values_list(
        "id", "first_name", "last_name", "email", "mobile", "zone", "post", "push", "social", "added_at",
        Cast("fields", TextField()), "lists", "channel_order", "exhausted", "do_not_contact", Cast("score", TextField()),
        "responsible_id", "paused_until", "held_channels",
    ):  # fmt: skip
        contact = facts.Contact(
            first_name=first,
            last_name=last,
            email=email,
            mobile=mobile,
            zone=zone,
            tags=frozenset(tags.get(id, ())),
            consents=tuple(said.get(id, ())),
            id=str(id),
            post=post,
            push=push,
            social=social,
            added=added,
            owner=owners[owner].name if owner else "",
            fields=read_fields(json.loads(data, parse_float=Decimal), kinds) if data != "{}" else {},
            lists=frozenset(lists),
            channel_order=tuple(order),
            do_not_contact=never,
            paused_until=quiet,
            preferences_link=preferences_link(account.id, id),
            held=frozenset(held),
            exhausted=frozenset(out),
            score=read_score(json.loads(score)) if score != "[]" else NO_SCORE,
            **(more.get(id, nothing) if more else nothing),
        )
        found[id] = facts.Facts(contact, own, member_facts(owners[owner]) if owner else nobody)
    return found


def _tags(ids: Collection[int]) -> dict[int, list[str]]:
    tags: dict[int, list[str]] = defaultdict(list)
    for contact_id, name in ContactTag.objects.filter(contact__any=set(ids)).values_list("contact_id", "tag__name"):
        tags[contact_id].append(name)
    return tags


def _consents(ids: Collection[int]) -> dict[int, list[facts.Consent]]:
    said: dict[int, list[facts.Consent]] = defaultdict(list)
    rows = Consent.objects.filter(contact__any=set(ids)).order_by("at", "id")
    columns = ("contact_id", "channel", "purpose", "state", "at", "how", "wording", "evidence")
    for contact_id, *consent in rows.values_list(*columns):
        said[contact_id].append(facts.Consent(*consent))
    return said


def _members(account: Account, ids: Collection[int]) -> dict[int, Person]:
    """Who is responsible for one of the contacts, by id."""
    responsible = Contact.objects.filter(id__any=set(ids), account=account, responsible__isnull=False)
    return Person.objects.in_bulk(list(responsible.values_list("responsible_id", flat=True).distinct()))
