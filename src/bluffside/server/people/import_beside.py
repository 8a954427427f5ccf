"""What a file of people may bring beside them, of areas above this one: such an area registers its columns, how the cells of a
row are read together, and how what was read is written and taken back."""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from bluffside.server.events.stream import Cause
from bluffside.server.people.models import Contact, ContactImport
from bluffside.server.practice.models import Account


@dataclass(frozen=True, slots=True)
class BesideColumn:
    """`kind`: of field_kinds, by which its cells are read; `headings`: small letters without spaces, by which it is guessed."""

    label: str
    kind: str
    headings: tuple[str, ...] = ()


class Reader(ABC):
    """Reads the rows of one file."""

    @abstractmethod
    def read(self, cells: Mapping[str, Any]) -> Any:
        """What a row brings, from the values of its cells by column (those that are empty are left out). Raises ValueError."""


class Beside(ABC):
    """`name`: before the colon of its columns; `place`: where things of its sort stand, in words."""

    name: str
    columns: Mapping[str, BesideColumn]

    @abstractmethod
    def places(self, account: Account) -> list[str]:
        """Where they can be put, by name; none: nothing of it can be brought in here."""

    @abstractmethod
    def reader(self, account: Account, place: str) -> Reader:
        """Raises ValueError when there is no such place any more."""

    @abstractmethod
    def write(self, imported: ContactImport, place: str, rows: Sequence[tuple[Contact, Any]], cause: Cause) -> None: ...

    @abstractmethod
    def take_back(self, imported: ContactImport, contact_ids: Sequence[int] | None) -> int:
        """What it brought for these people (all, at the end) goes, as far as nothing has become of it; answers how many stay."""


BESIDE: dict[str, Beside] = {}


def register(beside: Beside) -> None:
    """Called when apps are ready."""
    BESIDE[beside.name] = beside


def column_of(target: str) -> BesideColumn | None:
    beside = BESIDE.get(target.partition(":")[0])
    return beside.columns.get(target) if beside else None


def all_columns() -> dict[str, BesideColumn]:
    return {target: column for beside in BESIDE.values() for target, column in beside.columns.items()}
