"""What every kind of line of a letter declares."""

from collections.abc import Iterator
from typing import Annotated, ClassVar

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.letters.sheet import Sheet

LineId = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
Words = Annotated[str, Field(max_length=5_000)]
Address = Annotated[str, Field(max_length=1_000)]


class LetterLine(DocumentPart):
    """`label` names the kind where one is chosen, `finds` are words that find it, `sentence` its editable parts. `mjml` is the line as a block of a column; `html` the
    line in plain HTML, of which the plain words are made."""

    label: ClassVar[str]
    sentence: ClassVar[str] = ""
    finds: ClassVar[tuple[str, ...]] = ()

    id: LineId
    kind: str

    @classmethod
    def blank(cls) -> "LetterLine":
        return cls.model_validate({"id": "new", "kind": cls.model_fields["kind"].default})

    def mjml(self, sheet: Sheet) -> str:
        raise NotImplementedError

    def html(self) -> str:
        raise NotImplementedError

    def texts(self) -> Iterator[str]:
        """All that is written in it, for finding merge fields."""
        raise NotImplementedError

    def faults(self) -> Iterator[str]:
        """What is missing in it, in words."""
        yield from ()

    @property
    def is_empty(self) -> bool:
        return not any(text.strip() for text in self.texts())
