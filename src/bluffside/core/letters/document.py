"""A letter: its lines in their order, and it as plain words."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, Self, Union

from pydantic import Field, model_validator

from bluffside.core.document_part import DocumentPart
from bluffside.core.kinds import found_in
from bluffside.core.letters import lines
from bluffside.core.letters.line import Address, LetterLine
from bluffside.core.letters.lines.columns import ColumnsLine, LetterColumn
from bluffside.core.letters.plain import in_words

LINES: dict[str, type[LetterLine]] = found_in(lines.__name__, lines.__path__, LetterLine)
MOST_LINES = 200

if TYPE_CHECKING:
    AnyLine = LetterLine
else:
    AnyLine = Annotated[Union[tuple(LINES.values())], Field(discriminator="kind")]  # noqa: UP007

_MODELS: tuple[type[DocumentPart], ...] = (LetterColumn, *LINES.values())
for _model in _MODELS:
    _model.model_rebuild(_types_namespace={"AnyLine": AnyLine})


class Letter(DocumentPart):
    """`preview`: what a list of mails shows behind the subject; empty: its first words."""

    preview: Address = ""
    lines: Annotated[tuple[AnyLine, ...], Field(max_length=MOST_LINES)] = ()

    @model_validator(mode="after")
    def _can_be_laid_out(self) -> Self:
        every = list(self.every_line())
        if len({one.id for one in every}) < len(every):
            raise ValueError("two lines of the letter have the same id")
        if len(every) > MOST_LINES:
            raise ValueError(f"a letter has {MOST_LINES} lines at most")
        if any(
            isinstance(line, ColumnsLine) for one in self.lines if isinstance(one, ColumnsLine) for line in _inside(one)
        ):
            raise ValueError("there are columns within columns")
        return self

    def every_line(self) -> Iterator[LetterLine]:
        """Each line, those in columns after their columns."""
        for one in self.lines:
            yield one
            if isinstance(one, ColumnsLine):
                yield from _inside(one)

    def texts(self) -> Iterator[str]:
        yield self.preview
        for one in self.lines:
            yield from one.texts()

    def faults(self) -> Iterator[str]:
        for one in self.lines:
            yield from one.faults()

    def with_words(self, words: str, by: str) -> Self:
        """The same with other words in the place of some, wherever they stand."""
        return type(self).model_validate(_replaced(self.model_dump(mode="json"), words, by))

    def plain(self) -> str:
        """As plain words, with its merge fields as they are written."""
        return in_words("".join(one.html() for one in self.lines))


def _replaced(data: Any, words: str, by: str) -> Any:
    match data:
        case str():
            return data.replace(words, by)
        case dict():
            return {name: _replaced(value, words, by) for name, value in data.items()}
        case list():
            return [_replaced(value, words, by) for value in data]
    return data


def _inside(columns: ColumnsLine) -> Iterator[LetterLine]:
    return (line for one in columns.columns for line in one.lines)
