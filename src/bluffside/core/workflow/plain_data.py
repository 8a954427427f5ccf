"""JSON and YAML read as plain data: bounded, without aliases, without a key that stands twice; and where a part stands.

A document may say nothing that no text, number or database holds; `sound` sees to that for data from anywhere.
"""

import json
import re
from collections.abc import Sequence
from typing import Any

import yaml

LARGEST = 1_000_000  # characters
DEEPEST = 60  # parts in parts
MOST_PARTS = 200_000
NO_TEXT = re.compile("[\x00\ud800-\udfff]")
_LARGEST_NUMBER = 10**15

Place = tuple[str | int, ...]


class BadFile(ValueError):
    """What is not a file of the sort that was expected; `faults` name each place and what is wrong there."""

    def __init__(self, faults: list[str]) -> None:
        super().__init__("; ".join(faults))
        self.faults = faults


class _Plain(yaml.CSafeLoader):
    """YAML's safe subset."""


# "09:30" is text, as in YAML 1.2, not a number in base sixty; and "on" and "no" are words. A date stays as it is
# written, so that what is wrong with it is said with its place.
_LEFT_OUT = ("int", "bool", "timestamp", "merge")
_Plain.yaml_implicit_resolvers = {
    first: [(tag, rule) for tag, rule in rules if tag.rpartition(":")[2] not in _LEFT_OUT]
    for first, rules in yaml.SafeLoader.yaml_implicit_resolvers.items()
}
for _first in "tfTF":
    _Plain.add_implicit_resolver("tag:yaml.org,2002:bool", re.compile(r"^(true|false)$"), [_first])
_Plain.add_implicit_resolver("tag:yaml.org,2002:int", re.compile(r"^-?\d+$"), list("-0123456789"))


def read_data(text: str) -> Any:
    """Plain data from JSON or YAML. Raises BadFile."""
    if len(text) > LARGEST:
        raise BadFile([f"the file is longer than {LARGEST:,} characters"])
    try:
        data = _json(text) if text.lstrip()[:1] in ("{", "[") else _yaml(text)
        sound(data)
    except RecursionError:
        raise BadFile(["nested too deeply"]) from None
    except ValueError as error:
        raise error if isinstance(error, BadFile) else BadFile([str(error)]) from None
    return data


def read_json(text: str | bytes) -> Any:
    """Plain data from JSON, each key once. Raises ValueError in words; nested too deeply, RecursionError."""
    return json.loads(text, object_pairs_hook=_once, parse_constant=_no_number)


def _json(text: str) -> Any:
    try:
        return read_json(text)
    except json.JSONDecodeError as error:
        try:  # YAML's braces and brackets need no quotation marks
            return _yaml(text)
        except BadFile:
            said = f"not readable as JSON: {error.msg} (line {error.lineno}, column {error.colno})"
            raise BadFile([said]) from None


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    made = dict(pairs)
    if len(made) < len(pairs):
        seen: set[str] = set()
        twice = next(key for key, _ in pairs if key in seen or seen.add(key))  # type: ignore[func-returns-value]
        raise BadFile([f"the key “{twice}” stands twice in one place"])
    return made


def _no_number(written: str) -> Any:
    raise BadFile([f"{written} is not a number"])


def _yaml(text: str) -> Any:
    loader: _Plain | None = None
    try:
        _look_ahead(text)
        loader = _Plain(text)
        node = loader.get_single_node()
        _keys_once(node)
        return loader.construct_document(node) if node else None
    except yaml.YAMLError as error:
        raise BadFile([f"not readable as YAML or JSON: {' '.join(str(error).split())}"]) from None
    except (ValueError, TypeError, AttributeError) as error:  # a tag on what it does not fit
        raise error if isinstance(error, BadFile) else BadFile([f"not readable: {error}"]) from None
    finally:
        if loader:
            loader.dispose()


def _look_ahead(text: str) -> None:
    """Refuses what makes a small file unfold into a large one, or dig deeper than a stack, before it is put together."""
    depth = 0
    for event in yaml.parse(text, Loader=_Plain):
        depth += isinstance(event, yaml.CollectionStartEvent) - isinstance(event, yaml.CollectionEndEvent)
        if depth > DEEPEST:
            raise BadFile([f"nested too deeply ({_line(event)})"])
        if isinstance(event, yaml.AliasEvent):
            raise BadFile([f"aliases (*name) are not used in workflow files ({_line(event)})"])


def _keys_once(node: yaml.Node | None) -> None:
    ahead = [node] if node else []
    while ahead:
        one = ahead.pop()
        if isinstance(one, yaml.SequenceNode):
            ahead += one.value
        elif isinstance(one, yaml.MappingNode):
            keys: set[str] = set()
            for key, value in one.value:
                if not isinstance(key.value, str):
                    raise BadFile([f"a key is a word ({_line(key)})"])
                if key.value in keys:
                    raise BadFile([f"the key “{key.value}” stands twice in one place ({_line(key)})"])
                keys.add(key.value)
                ahead.append(value)


def _line(node: yaml.Node | yaml.Event) -> str:
    return f"line {node.start_mark.line + 1}" if node.start_mark else "nowhere"


# ---- what any document may hold


def sound(data: Any) -> None:
    """Raises ValueError in words, with its place, for what is nested too deeply, too much, or no text or number."""
    ahead: list[tuple[Place, Any]] = [((), data)]
    parts = 0
    while ahead:
        place, one = ahead.pop()
        parts += 1
        if len(place) > DEEPEST or parts > MOST_PARTS:
            raise ValueError("nested too deeply" if len(place) > DEEPEST else f"more than {MOST_PARTS:,} parts")
        if isinstance(one, dict):
            ahead += [((*place, str(key)), value) for key, value in one.items()]
            one = "".join(key for key in one if isinstance(key, str))
        elif isinstance(one, list | tuple):
            ahead += [((*place, number), value) for number, value in enumerate(one)]
        if isinstance(one, str) and NO_TEXT.search(one):
            raise ValueError(f"{named(place)}a character that no text has")
        if isinstance(one, int | float) and not abs(one) <= _LARGEST_NUMBER:
            raise ValueError(f"{named(place)}a number that is too far out")


def named(place: Sequence[str | int]) -> str:
    """ "steps.2.message: ", or nothing for the whole."""
    return f"{'.'.join(map(str, place))}: " if place else ""


def lines_of(text: str) -> dict[Place, int]:
    """The line in a file, from 1, on which each part of it begins; nothing for what is no YAML or JSON."""
    found = dict[Place, int]()
    try:
        _look_ahead(text)
        node = yaml.compose(text, Loader=_Plain)
    except (yaml.YAMLError, BadFile):
        return {}
    ahead: list[tuple[Place, yaml.Node, yaml.Node]] = [((), node, node)] if node else []
    while ahead:
        place, begins, one = ahead.pop()
        found[place] = begins.start_mark.line + 1
        if isinstance(one, yaml.SequenceNode):
            ahead += [((*place, number), value, value) for number, value in enumerate(one.value)]
        elif isinstance(one, yaml.MappingNode):
            ahead += [((*place, str(key.value)), key, value) for key, value in one.value]
    return found
