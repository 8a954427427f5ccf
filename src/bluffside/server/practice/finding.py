"""Finding anything of an account by the words of its name, to go there: each area registers how its own things are found.

A finder gives a few of each kind, the likeliest first, and must stay fast in an account of 1,000,000 contacts: it asks by
what an index answers.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import islice
from typing import Any, NamedTuple

from django.db.models import Model, QuerySet

from bluffside.server.practice.models import Account

MOST_WORDS = 4
MOST = 6  # of a kind
END = "\U0010ffff"  # stands behind every letter: what begins with a word is what lies between the word and the word with it


class Found(NamedTuple):
    """`kind` and `id` say where it stands; `about` is a word more, for those of one name."""

    kind: str
    id: int
    name: str
    about: str = ""


Finder = Callable[[Account, Sequence[str]], Iterable[Found]]
_finders: list[Finder] = []


def find_by(finder: Finder) -> None:
    """Called when apps are ready."""
    _finders.append(finder)


def find(account: Account, text: str) -> list[Found]:
    """What has all the words of `text`; nothing for no words."""
    words = text.lower().split()[:MOST_WORDS]
    return [found for finder in _finders for found in islice(finder(account, words), MOST)] if words else []


def by_name(
    kind: str, model: type[Model], about: Callable[[Any], str] = lambda one: "", among: QuerySet[Any] | None = None
) -> Finder:
    """Finds things of which an account has some hundred by all the words in their names. `about` says a word more of one."""

    def finder(account: Account, words: Sequence[str]) -> Iterator[Found]:
        rows: QuerySet[Any] = (model._default_manager if among is None else among).filter(account=account)
        for word in words:
            rows = rows.filter(name__icontains=word)
        return (Found(kind, one.pk, one.name, about(one)) for one in rows.order_by("name")[:MOST])

    return finder
