"""What is answered to a form's questions: read as what each asks for, and said in words."""

from collections.abc import Mapping
from typing import Any

from bluffside.core.facts import FieldValue
from bluffside.server.capture.asking import Gone, asking
from bluffside.server.capture.design import FILLS, FormDesign, Question
from bluffside.server.people.field_kinds import How, read_typed
from bluffside.server.people.import_columns import FIELD
from bluffside.server.people.models import Field as FieldModel
from bluffside.server.people.queries import fields_of
from bluffside.server.people.services import BadContact, normalised
from bluffside.server.practice.models import Account

LONGEST_ANSWER = 4_000


class BadAnswers(ValueError):
    """What is wrong, by the question's id, in words."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        super().__init__("; ".join(faults.values()))
        self.faults = dict(faults)


def _said(given: Mapping[str, list[str]], question: Question) -> str | list[str]:
    found = [one.replace("\0", "").strip()[:LONGEST_ANSWER] for one in given.get(question.id, []) if one.strip()]
    return found if question.of.picks == "several" else (found[0] if found else "")


def answered(design: FormDesign, given: Mapping[str, list[str]]) -> dict[str, str | list[str]]:
    """What was typed, by the question's id, as it is kept."""
    return {one.id: said for one in design.questions if (said := _said(given, one))}


def read(account: Account, design: FormDesign, given: Mapping[str, list[str]], late: bool = False) -> dict[str, Any]:
    """The values by what they fill. `late`: what they chose may be gone. Raises BadAnswers with all that is wrong."""
    values: dict[str, Any] = {}
    faults: dict[str, str] = {}
    own = fields_of(account)
    for question in design.questions:
        said, asks = _said(given, question), asking(question.fills)
        if not said:
            # Where nothing can be chosen, whoever sends it is taken without.
            if question.required and not (asks and (late or not asks.choices(account))):
                faults[question.id] = "Please answer this."
            continue
        try:
            if asks:
                asks.check(account, str(said))
            value = str(said) if asks else _value(account, question, said, own)
        except Gone as error:
            if not late:
                faults[question.id] = f"{error}."
            continue
        except (ValueError, BadContact) as error:
            faults[question.id] = f"{str(error)[:1].upper()}{str(error)[1:]}."
            continue
        if question.fills:
            values[question.fills] = value
    if faults:
        raise BadAnswers(faults)
    return values


def _value(account: Account, question: Question, said: str | list[str], own: Mapping[str, FieldModel]) -> FieldValue:
    text = "; ".join(said) if isinstance(said, list) else said
    if question.fills in FILLS and question.fills != "full_name":
        return normalised(account, {question.fills: text})[question.fills]
    field = own.get(question.fills.removeprefix(FIELD)) if question.fills.startswith(FIELD) else None
    kind = field.kind if field else question.of.name
    return read_typed(text, kind, How(field.choices if field else question.choices, region=account.region))


def labelled(account: Account, design: FormDesign, answers: Mapping[str, Any]) -> dict[str, str]:
    """What was answered, under the questions as they were asked."""
    return {one.label: _in_words(account, one, said) for one in design.questions if (said := answers.get(one.id))}


def _in_words(account: Account, question: Question, said: Any) -> str:
    if asks := asking(question.fills):
        return asks.sort.words(account, str(said))
    return ", ".join(said) if isinstance(said, list) else str(said)


def chosen_in_words(account: Account, design: FormDesign, answers: Mapping[str, Any]) -> list[str]:
    """What they chose that is more than words."""
    return [
        _in_words(account, one, said) for one in design.questions if asking(one.fills) and (said := answers.get(one.id))
    ]
