"""What every kind of field declares and does."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from bluffside.core.facts import FieldValue
from bluffside.server.people.reading import Rule


@dataclass(frozen=True, slots=True)
class How:
    """choices   of the field, where its kind has some
    rule      by which dates or numbers are written; empty: as the kind itself writes them
    region    the country whose national telephone numbers are meant
    """

    choices: Sequence[str] = ()
    rule: Rule = ""
    region: str = ""


class FieldKind:
    """rank      its place where kinds are listed
    label     in words
    input     of HTML, by which it is typed
    picks     whether one of some choices is taken, or several; the choices are `fixed`, or the field's own
    rules     in which its values may be written, of which one holds for a whole column
    guessed   its turn when a column's kind is guessed; 0: never
    dated     whether text like 2026-03-02 is a date in the core (kept values are plain JSON)
    """

    name: ClassVar[str]
    rank: ClassVar[int]
    label: ClassVar[str]
    input: ClassVar[str] = "text"
    picks: ClassVar[Literal["", "one", "several"]] = ""
    fixed: ClassVar[tuple[str, ...]] = ()
    rules: ClassVar[tuple[Rule, ...]] = ()
    guessed: ClassVar[int] = 0
    dated: ClassVar[bool] = False

    def read(self, text: str, how: How) -> FieldValue:
        """Words that are not empty, as a value. Raises ValueError in words."""
        raise NotImplementedError

    def said(self, words: str, currency: str) -> str:
        """A kept value, as people type it, as people read it. `currency` is the account's."""
        return words

    def guess_rule(self, values: Sequence[str]) -> Rule:
        """The rule that a column's values follow."""
        return ""

    def fits(self, values: Sequence[str]) -> bool:
        """Whether nine in ten of a column's values are of this kind."""
        how, good = How(rule=self.guess_rule(values)), 0
        for value in values:
            try:
                self.read(value.strip(), how)
            except ValueError:
                continue
            good += 1
        return good > 0.9 * len(values)

    def wants_choices(self) -> bool:
        return bool(self.picks) and not self.fixed
