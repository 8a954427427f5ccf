"""What was understood, in words, for whoever of the team reads along."""

from bluffside.core.assistant.reading import Means, Reading
from bluffside.core.assistant.windows import Window
from bluffside.core.words import several

MEANINGS: dict[Means, str] = {
    "yes": "yes",
    "no": "no",
    "later": "not now, perhaps later",
    "stop": "no more messages",
    "ack": "thanks",
    "cancel": "cancel it",
    "move": "another time instead",
    "none": "none of those",
    "want": "would come",
    "ask": "a question",
    "unclear": "not clear",
    "call": "would rather be rung",
    "person": "wants a person",
    "angry": "is angry",
    "who": "asks who this is",
}


def understood(reading: Reading) -> str:
    """ "would come: Sat 7 Mar from 15:00"."""
    if reading.means == "take":
        return f"the {('first', 'second', 'third', 'fourth', 'fifth')[min(reading.take, 5) - 1]} of those offered"
    said = MEANINGS[reading.means]
    about = reading.topic if reading.topic != "other" else ""
    when = several([window_in_words(one) for one in reading.windows], "or")
    more = when or (f"about “{about}”" if about else "")
    return f"{said}: {more}" if more else said


def window_in_words(one: Window) -> str:
    days = several([day.capitalize() for day in one.weekdays], "or")
    if one.first:
        days = f"{one.first:%a} {one.first.day} {one.first:%b}"
        if one.last and one.last != one.first:
            days += f" to {one.last:%a} {one.last.day} {one.last:%b}"
    if one.at:
        times = f"at {one.at:%H:%M}"
    elif one.start and one.end:
        times = f"from {one.start:%H:%M} to {one.end:%H:%M}"
    else:
        times = f"from {one.start:%H:%M}" if one.start else f"before {one.end:%H:%M}" if one.end else ""
    return f"{days} {times}".strip() or "any time"
