"""Documents of earlier formats, brought to the present one when they are read.

bluffside-workflow/1   a trigger on a tag named one (`tag`); `leaves_on` was a list of the word "reply"
"""

from typing import Any

NOW = "bluffside-workflow/2"


def upgraded(data: dict[str, Any]) -> dict[str, Any]:
    """The document in the present format; one that is malformed is left for the parser to refuse."""
    if data.get("format") != "bluffside-workflow/1":
        return data
    return data | {"format": NOW} | _starts(data.get("starts")) | _leaves(data.get("leaves_on"))


def _starts(starts: Any) -> dict[str, Any]:
    if not isinstance(starts, list | tuple):
        return {}
    return {"starts": [_start(start) for start in starts]}


def _start(start: Any) -> Any:
    if not isinstance(start, dict) or "tag" not in start:
        return start
    rest = {key: value for key, value in start.items() if key != "tag"}
    return rest | {"tags": [start["tag"]] if start["tag"] else []}


def _leaves(leaves: Any) -> dict[str, Any]:
    if not isinstance(leaves, list | tuple):
        return {}
    return {"leaves_on": [{"kind": "replied"} if one == "reply" else one for one in leaves]}
