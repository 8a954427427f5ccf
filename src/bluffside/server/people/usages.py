"""Where what the account has names for is named: segments, forms, rules, sources of leads, workflows, the score. The areas
that keep such documents stand above this one; each tells of its own, and puts another name in the place of one."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, Protocol

from bluffside.server.events.stream import call_anew
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import NotAName

Place = Literal["workflow", "segment", "form", "rule", "source", "score"]


@dataclass(frozen=True, slots=True)
class Use:
    """That something named is used. `place`, its `id` and `title` say where; `step` the line of a workflow; `sets`:
    it makes it so rather than looks at it; `runs`: a version of the workflow names it that runs, or that somebody is still
    inside of."""

    kind: str
    name: str
    place: Place
    id: int
    title: str
    sentence: str
    sets: bool = False
    step: str = ""
    runs: bool = False


class Keeper(Protocol):
    def uses(self, account: Account) -> Iterator[Use]:
        """All that the area's documents name."""

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        """Puts a name in the place of another in all of them."""


_keepers: list[Keeper] = []


def keep_names(keeper: Keeper) -> None:
    """Called when apps are ready."""
    _keepers.append(keeper)


def uses(account: Account) -> list[Use]:
    found = [use for keeper in _keepers for use in keeper.uses(account)]
    return sorted(dict.fromkeys(found), key=lambda one: (one.kind, one.name.casefold(), one.place, one.title))


def running(account: Account, kind: str, name: str) -> list[str]:
    """The workflows of which a version runs that names it."""
    return sorted({one.title for one in uses(account) if one.runs and (one.kind, one.name) == (kind, name)})


def rename(account: Account, kind: str, old: str, new: str, by: Person) -> None:
    """All that names it names the new one, what happened, too."""
    for keeper in _keepers:
        keeper.rename(account, kind, old, new, by)
    call_anew(account, kind, old, new)


def give_name(account: Account, kind: str, old: str, new: str, by: Person) -> None:
    """The same. Raises NotAName when a workflow runs with the old one: what it does to the people inside must not change
    but by publishing."""
    if old == new:
        return
    if held := running(account, kind, old):
        titles = ", ".join(f"“{title}”" for title in held)
        runs = "runs" if len(held) == 1 else "run"
        raise NotAName(f"{titles} {runs} with “{old}”. Take it out there and publish first; nothing was changed.")
    rename(account, kind, old, new, by)


def swapped(names: list[str], old: str, new: str) -> list[str]:
    """A list of names with one in the place of another, each once."""
    return list(dict.fromkeys(new if name == old else name for name in names))
