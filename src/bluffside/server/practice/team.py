"""Who works in an account, and where its messages may go before it is live: to their own addresses."""

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
