"""Contacts found by the beginnings of their names, email or number."""

from collections.abc import Iterator, Sequence

from django.db.models import Q

from bluffside.core.phone_numbers import as_written
from bluffside.server.people.addresses import beginnings
from bluffside.server.people.models import Contact
from bluffside.server.practice.finding import END, MOST, Found
from bluffside.server.practice.models import Account

# As ranges: between the accounts stand walls, behind which PostgreSQL looks things up in an index by such comparisons alone.
BY = ("first_sought", "last_sought", "email")


def contacts(account: Account, words: Sequence[str]) -> Iterator[Found]:
    everybody = Contact.objects.filter(account=account)
    first, *others = words
    for word in others:
        everybody = everybody.filter(_begins(BY[0], word) | _begins(BY[1], word) | _begins(BY[2], word))
    numbers = beginnings(" ".join(words), account.region)
    by_number = [(Contact.objects.filter(account=account), "mobile", number) for number in numbers]
    seen = set()
    for rows, column, word in (*((everybody, column, first) for column in BY), *by_number):
        for one in rows.filter(_begins(column, word)).order_by(column, "id")[:MOST]:
            if one.pk not in seen:
                yield Found(
                    "contact",
                    one.pk,
                    one.name,
                    one.email if one.email != one.name else as_written(one.mobile, account.region),
                )
            seen.add(one.pk)


def _begins(column: str, word: str) -> Q:
    return Q((f"{column}__gte", word), (f"{column}__lt", word + END))
