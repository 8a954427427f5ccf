"""The catalogue: all that a workflow can be written with, as data that the web app draws sentences and editors from.

Steps, triggers, tests of conditions, lanes and the sending hours each have a sentence in which {field} stands for an
editable part, and parts that say what sort of value they hold. Nothing here knows a kind by name: a new file in
`steps`, `triggers` or `conditions` is in the catalogue.
"""

import re
from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel

from bluffside.core.channel_kinds.mail_head import MailHead
from bluffside.core.channel_kinds.wording import Wording
from bluffside.core.conditions import Test
from bluffside.core.conditions.activity import ACTIVITIES, HowOften
from bluffside.core.conditions.expression import TESTS
from bluffside.core.document_part import declared
from bluffside.core.events import SUBJECTS
from bluffside.core.letters.document import LINES as LETTER_LINES
from bluffside.core.steps import KINDS
from bluffside.core.steps.base import Sort, Step, Who
from bluffside.core.triggers import TRIGGERS


class Choice(BaseModel):
    value: str | bool
    words: str


class CataloguePart(BaseModel):
    """One editable part: the field, the sort of value, what to call it.

    empty        what stands for no value
    clause       added to the sentence when the value is not the usual one, {} standing for it
    only         there only while another field has one of some values
    names        of what sort the name is that it holds, by the values of another field
    choices      of a choice, the channels or yes-no: the values with what they are called; of deeds: what is counted
    usual        the value it has when nobody chose
    optional     whether it may have none (null)
    least, most  of numbers
    message      of a message: a new one of its channel
    """

    field: str
    sort: Sort
    label: str
    empty: str
    clause: str = ""
    only: dict[str, list[str]] = {}
    names: dict[str, dict[str, str]] = {}
    choices: list[Choice] = []
    usual: Any = None
    optional: bool = False
    least: float | None = None
    most: float | None = None
    message: dict[str, Any] | None = None


class CatalogueSentence(BaseModel):
    """Anything with a sentence and parts. `kind` is what the document calls it, `blank` a new one."""

    kind: str
    label: str
    sentence: str
    parts: list[CataloguePart]
    blank: dict[str, Any]


class CatalogueKind(CatalogueSentence):
    """A kind of step. `implied`: values that one of the words that find it says besides. Its lanes' ids in `blank` are to be
    replaced; `lane` is what a lane of it is, when it divides."""

    finds: list[str]
    implied: dict[str, dict[str, Any]]
    who: Who
    speaks: str
    waits: str
    lane: CatalogueSentence | None = None


class CatalogueTrigger(CatalogueSentence):
    """`happens`: something that people can leave on and steps can wait for, too."""

    happens: bool


class CatalogueLetterLine(CatalogueSentence):
    """A kind of line of a letter."""

    finds: list[str]


class Catalogue(BaseModel):
    """`mail_head`: what an email says besides its subject and its words."""

    kinds: list[CatalogueKind]
    triggers: list[CatalogueTrigger]
    tests: list[CatalogueSentence]
    events: list[str]
    letter_lines: list[CatalogueLetterLine]
    mail_head: CatalogueSentence


def catalogue() -> Catalogue:
    return Catalogue(
        kinds=[_kind(name, kind) for name, kind in KINDS.items()],
        triggers=[
            CatalogueTrigger(
                happens=bool(kind.listens_to), **_sentence(name, kind.label, kind.sentence, kind(kind=name))
            )
            for name, kind in TRIGGERS.items()
        ],
        tests=[_test(kind) for kind in TESTS],
        events=list(SUBJECTS),
        letter_lines=[
            CatalogueLetterLine(finds=list(kind.finds), **_sentence(name, kind.label, kind.sentence, kind.blank()))
            for name, kind in LETTER_LINES.items()
        ],
        mail_head=CatalogueSentence(**_sentence("mail_head", "Head", MailHead.sentence, MailHead())),
    )


def _kind(name: str, kind: type[Step]) -> CatalogueKind:
    blank = kind.blank()
    lanes = blank.lanes_below()
    return CatalogueKind(
        finds=list(kind.finds),
        implied={word: dict(values) for word, values in kind.implied.items()},
        who=kind.who,
        speaks=kind.speaks,
        waits=kind.waits,
        lane=CatalogueSentence(**_sentence(name, "", lanes[0].sentence, lanes[-1])) if lanes else None,
        **_sentence(name, kind.label, kind.sentence, blank),
    )


def _test(kind: type[Test]) -> CatalogueSentence:
    name = str(kind.model_fields["test"].default)
    return CatalogueSentence(**_sentence(name, kind.label, kind.sentence, kind()))


def _sentence(name: str, label: str, sentence: str, blank: BaseModel) -> dict[str, Any]:
    data = blank.model_dump(mode="json", exclude={"id"})
    return {
        "kind": name,
        "label": label,
        "sentence": sentence,
        "parts": parts_of(type(blank), sentence, data),
        "blank": data,
    }


def parts_of(model: type[BaseModel], sentence: str, usual: dict[str, Any]) -> list[CataloguePart]:
    """In the order of the sentence, so that the first is what the line is mostly about; those it does not show last."""
    parts = [
        _part(field, info.annotation, info.metadata, dict(extra), usual.get(field))
        for field, info in model.model_fields.items()
        if "sort" in (extra := declared(model, field))
    ]
    shown = re.findall(r"\{(\w+)\}", sentence)
    return sorted(parts, key=lambda one: shown.index(one.field) if one.field in shown else len(shown))


def _part(field: str, annotation: Any, metadata: list[Any], extra: dict[str, Any], usual: Any) -> CataloguePart:
    words = extra.pop("words", {})
    bounds = {name: getattr(one, name) for one in metadata for name in ("ge", "gt", "le") if hasattr(one, name)}
    return CataloguePart(
        field=field,
        choices=[Choice(value=value, words=_called(value, words)) for value in _values(annotation)],
        usual=usual,
        optional=type(None) in get_args(annotation),
        least=bounds.get("ge", bounds.get("gt")),
        most=bounds.get("le"),
        message=_message(annotation),
        **extra,
    )


def _called(value: Any, words: dict[str, str]) -> str:
    key = str(value).lower() if isinstance(value, bool) else value
    usual = {True: "yes", False: "no"}[value] if isinstance(value, bool) else value.replace("_", " ")
    return words.get(key, usual)


def _inner(annotation: Any) -> tuple[Any, ...]:
    """What an optional or a tuple is of."""
    if get_origin(annotation) in (Union, UnionType, tuple):
        return tuple(one for one in get_args(annotation) if one not in (type(None), Ellipsis))
    return ()


def _values(annotation: Any) -> tuple[Any, ...]:
    """The values that a field can have, where they are few."""
    if annotation is bool:
        return (True, False)
    if get_origin(annotation) is Literal:
        return get_args(annotation)
    if annotation is HowOften:
        return tuple(ACTIVITIES)
    return next((values for one in _inner(annotation) if (values := _values(one))), ())


def _message(annotation: Any) -> dict[str, Any] | None:
    """A new message of the channel that a field holds one of."""
    for one in (annotation, *_inner(annotation)):
        if isinstance(one, type) and issubclass(one, Wording):
            return one().model_dump(mode="json")
    return None
