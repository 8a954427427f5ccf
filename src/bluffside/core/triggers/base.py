"""What every kind of trigger is: one file in this folder, one subclass of `Trigger`.

It declares its fields and its sentence like a step, the kind of domain event it listens to, and
whether such an event, with the data it carries, fits.
"""

from collections.abc import Mapping
from typing import ClassVar

from bluffside.core.document_part import DocumentPart


class Trigger(DocumentPart):
    label: ClassVar[str]
    sentence: ClassVar[str]
    listens_to: ClassVar[str] = ""  # a kind of domain event; empty when only people start it

    kind: str

    def subject(self) -> str:
        """What the event must be about; the server finds triggers by kind of event and subject."""
        return ""

    def fits(self, data: Mapping[str, str]) -> bool:
        """Whether an event of the kind it listens to, with this data, starts the workflow."""
        return False

    def describe(self) -> str:
        """How the workflow starts, in words that follow "Starts"."""
        return self.sentence.format(**{name: getattr(self, name) or "…" for name in type(self).model_fields})

    def fault(self) -> str:
        """What is missing, in words; empty when nothing is."""
        return ""
