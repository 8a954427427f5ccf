"""Who works in an account, and where its messages may go before it is live: to their own addresses."""

from collections.abc import Iterable
from datetime import date

from django.db.models import Q, QuerySet

from bluffside.server.practice.models import Account, Person


def people_of(account: Account) -> QuerySet[Person]:
    """Who may enter it: the consultants of its practice, and its members."""
    may = Q(is_consultant=True) | Q(memberships__account=account)
    return Person.objects.filter(may, practice=account.practice_id, is_active=True).distinct()


def addresses_of(account: Account) -> frozenset[str]:
    """Their emails (in lower case) and telephone numbers (E.164)."""
    found = people_of(account).values_list("email", "phone")
    return frozenset(address.lower() for both in found for address in both if address)


def is_away(person: Person, today: date) -> bool:
    """On a day of the account's calendar."""
    if person.away_from is None or today < person.away_from:
        return False
    return person.away_until is None or today <= person.away_until


def standing_in(account: Account, people: Iterable[Person], today: date) -> dict[int, int]:
    """Who gets what falls to those that are away, by their ids: who stands in for them, else whoever is responsible for the
    account; nobody is given what they would not be there for either."""
    away = {one.id for one in people if is_away(one, today)}
    if not away:
        return {}
    stand_ins = dict(account.memberships.filter(person__in=away).values_list("person_id", "stand_in_id"))
    found = {}
    for one in away:
        there = [other for other in (stand_ins.get(one), account.responsible_id) if other and other not in away]
        if there:
            found[one] = there[0]
    return found
