"""What a check is: something wrong or risky in a workflow, as data."""

from dataclasses import dataclass
from typing import Literal

from bluffside.core.steps.base import Mend

Severity = Literal["error", "warning"]


@dataclass(frozen=True, slots=True)
class Check:
    """`step` is the id of the line it is about; empty when it is about the workflow. An "error" stops publishing,
    a "warning" does not. `mend` is the change that would put it right, where one can be offered (see mending.py)."""

    code: str
    step: str
    severity: Severity
    sentence: str
    mend: Mend | None = None
