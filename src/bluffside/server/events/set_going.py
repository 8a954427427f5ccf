"""What an enrolment has set going: rows of several areas that carry its id, the line that made them, and a key."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol, TypeVar

from django.db import models

from bluffside.server.events.stream import Cause


class _SetGoing(Protocol):
    enrolment_id: int | None
    step: str
    key: str


Row = TypeVar("Row", bound=models.Model)


@dataclass(frozen=True, slots=True)
class CalledOff:
    """What one enrolment has set going by some lines (by all when none is named) is not to go, but for some keys."""

    contact_id: int
    enrolment_id: int
    why: str
    cause: Cause
    lines: Sequence[str] = ()
    but: list[str] = field(default_factory=list)

    def concerns(self, row: _SetGoing) -> bool:
        return (not self.lines or row.step in self.lines) and row.key not in self.but


def among(rows: "models.QuerySet[Row]", called_off: Sequence[CalledOff]) -> list[tuple[Row, CalledOff]]:
    """Those among rows that are called off, locked, each with what calls it off, in the order in which they were made."""
    by_enrolment: dict[int | None, list[CalledOff]] = defaultdict(list)
    for off in called_off:
        by_enrolment[off.enrolment_id].append(off)
    contacts = {off.contact_id for off in called_off}
    found = rows.filter(contact_id__in=contacts, enrolment_id__in=[*by_enrolment]).order_by("id").select_for_update()
    pairs = ((row, next((off for off in by_enrolment[row.enrolment_id] if off.concerns(row)), None)) for row in found)  # type: ignore[attr-defined,arg-type]  # a _SetGoing, too
    return [(row, off) for row, off in pairs if off]
