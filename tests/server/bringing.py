"""People brought in: by a file, from its bytes to everybody in it; and made at once, to be chosen by number."""

from typing import Any

from bluffside.server.people import imports
from bluffside.server.people.import_columns import Settings
from bluffside.server.people.models import (
    ContactImport,
)
from tests.server.conftest import House


def begin(house: House, data: bytes, **changes: Any) -> ContactImport:
    imported = imports.read_file(house.sailing, house.consultant, "people.csv", data)
    imports.start(imported, Settings(**(imported.settings | changes)))
    return imported


def finish(imported: ContactImport) -> ContactImport:
    while imports.import_chunk(imported.account):
        pass
    imported.refresh_from_db()
    return imported


def people(house: House, count: int) -> list[int]:
    """Numbers that end in 99 are those the simulated carrier does not know."""
    numbers = [number for number in range(1, count + 2) if number % 100 != 99]
    return [house.contact(number).id for number in numbers[:count]]


def who(ids: list[int]) -> dict[str, Any]:
    return {"who": {"ids": ids}}
