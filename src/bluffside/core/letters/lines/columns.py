"""Two or three columns side by side, each of lines; one below the other on a phone."""

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart
from bluffside.core.letters.line import LetterLine
from bluffside.core.letters.sheet import Sheet


class LetterColumn(DocumentPart):
    lines: Annotated[tuple["AnyLine", ...], Field(max_length=20)] = ()  # type: ignore[name-defined]  # noqa: F821


class ColumnsLine(LetterLine):
    """Columns within columns are not read by mail programs, and are refused by the letter."""

    label = "columns"
    finds = ("columns", "beside", "two", "three")

    kind: Literal["columns"] = "columns"
    columns: Annotated[tuple[LetterColumn, ...], Field(min_length=2, max_length=3)]

    @classmethod
    def blank(cls) -> "LetterLine":
        return cls(id="new", columns=(LetterColumn(), LetterColumn()))

    def mjml(self, sheet: Sheet) -> str:
        blocks = ("".join(line.mjml(sheet) for line in one.lines) for one in self.columns)
        return "".join(f"<mj-column>{block}</mj-column>" for block in blocks)

    def html(self) -> str:
        return "".join(line.html() for one in self.columns for line in one.lines)

    def texts(self) -> Iterator[str]:
        for one in self.columns:
            for line in one.lines:
                yield from line.texts()

    def faults(self) -> Iterator[str]:
        for one in self.columns:
            for line in one.lines:
                yield from line.faults()
