"""A conversation as plain data (JSON), and back."""

from typing import Any

from pydantic import TypeAdapter

from bluffside.core.assistant.talking import Talk

_TALK = TypeAdapter(Talk)


def to_data(talk: Talk) -> dict[str, Any]:
    """What is as at the beginning is left out."""
    data: dict[str, Any] = _TALK.dump_python(talk, mode="json", exclude_defaults=True)
    return data


def from_data(data: Any) -> Talk:
    return _TALK.validate_python(data)
