"""Documents of earlier formats, brought to the present one when they are read.

bluffside-workflow/1   a trigger on a tag named one (`tag`); `leaves_on` was a list of the word "reply"
bluffside-workflow/2   until December 2026 the booking assistant was a service outside, which was handed an `opening`: that is a text
                       of its own now, above the line that hears what they answer
"""

from collections.abc import Iterator
from typing import Any

NOW = "bluffside-workflow/2"
DEEPEST = 60  # lanes within lanes; what is deeper is refused by the parser


def upgraded(data: dict[str, Any]) -> dict[str, Any]:
    """The document in the present format; one that is malformed is left for the parser to refuse."""
    if data.get("format") == "bluffside-workflow/1":
        data = data | {"format": NOW} | _starts(data.get("starts")) | _leaves(data.get("leaves_on"))
    if not any(_were_handed(data.get("steps"))):
        return data
    scenarios = data.get("scenarios")
    kept = {"scenarios": [*map(_expecting, scenarios)]} if isinstance(scenarios, list | tuple) else {}
    return data | {"steps": _talked(data["steps"])} | kept


def _were_handed(steps: Any, depth: int = 0) -> Iterator[bool]:
    """For each line, and those in its lanes, whether it hands people to the assistant outside."""
    for step in steps if isinstance(steps, list | tuple) and depth < DEEPEST else ():
        if isinstance(step, dict):
            yield step.get("kind") == "booking_assistant" and "opening" in step
            lanes = step.get("lanes")
            for lane in lanes if isinstance(lanes, list | tuple) else ():
                yield from _were_handed(lane.get("steps") if isinstance(lane, dict) else None, depth + 1)


def _talked(steps: Any, depth: int = 0) -> list[Any]:
    found = []
    for step in steps:
        if not any(_were_handed([step], depth)):
            found.append(step)
            continue
        if opening := str(step.get("opening") or "").strip():
            words = {"name": "Booking assistant begins", "body": opening}
            found.append({"kind": "text", "id": f"{str(step.get('id', ''))[:32]}-begins", "message": words})
        rest = {key: value for key, value in step.items() if key != "opening"}
        if "lanes" in rest:
            rest["lanes"] = [
                one | {"steps": _talked(one.get("steps") or [], depth + 1)} if isinstance(one, dict) else one
                for one in rest["lanes"]
            ]
        found.append(rest)
    return found


def _expecting(scenario: Any) -> Any:
    """Without what is not done any more: handing over."""
    if not isinstance(scenario, dict) or not isinstance(scenario.get("expect"), list | tuple):
        return scenario
    kept = [one for one in scenario["expect"] if not (isinstance(one, dict) and one.get("does") == "booking_assistant")]
    return scenario | {"expect": kept}


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
