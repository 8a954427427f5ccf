"""What an enrolment has set going: rows of several areas that carry its id, the line that made them, and a key."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

from django.db import models

Row = TypeVar("Row", bound=models.Model)


@dataclass(frozen=True, slots=True)
class SetGoing:
    """Of some lines (all of them when none is named), but for some keys."""

    contact_id: int
    enrolment_id: int
    lines: Sequence[str] = ()
    but: Sequence[str] = ()

    def among(self, rows: "models.QuerySet[Row]") -> "list[Row]":
        """Those among rows, locked, in the order in which they were made."""
        theirs = rows.filter(contact_id=self.contact_id, enrolment_id=self.enrolment_id).exclude(key__in=self.but)
        if self.lines:
            theirs = theirs.filter(step__in=self.lines)
        return list(theirs.order_by("id").select_for_update())
