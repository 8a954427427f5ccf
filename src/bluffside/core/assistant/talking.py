"""A conversation that books: where it stands, what was written, what is free; and from these where it stands then, what is answered, and
what is booked. Pure: the same for the phone of a contact, a rehearsal and a scenario.

    what they write           what comes of it
    a time that was offered   booked, and said back; where it has gone meanwhile, others are offered
    other times               those that are free then, or else the next that are
    a question                the script's answer, and what was asked stands; without one a person
    what is unclear           asked once more; the second time in a row a person
    anger, "call me"          a person, at once
    "stop"                    nothing more is written

Only what was offered or asked about is ever booked. Who writes the words (this grammar, or one day a model of language behind the same
function `reading_of`) decides nothing about that: `_take` looks the time up among those that were offered.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Literal

from bluffside.core.assistant.in_words import understood
from bluffside.core.assistant.reading import Reading, Said, reading_of
from bluffside.core.assistant.script import AssistantScript
from bluffside.core.assistant.windows import Window
from bluffside.core.channels.keywords import plain
from bluffside.core.channels.own_words import own_words

Stage = Literal["opening", "question", "offered", "asked", "booked", "over"]
Free = Callable[[Sequence[Window]], Sequence[datetime]]
UNDER_WAY: frozenset[Stage] = frozenset({"question", "offered", "asked"})
MISUNDERSTANDINGS = 2
APART = timedelta(hours=2)


@dataclass(frozen=True, slots=True)
class Talk:
    """Where a conversation stands. All moments are local. `told`: questions with what was answered; `offers`: how often times were offered;
    `missed`: how many answers in a row were not understood; `seen`: all times that were offered; `understood`: of what they
    wrote last, in words."""

    stage: Stage = "opening"
    told: tuple[tuple[str, str], ...] = ()
    offered: tuple[datetime, ...] = ()
    asked: datetime | None = None
    booked: datetime | None = None
    offers: int = 0
    missed: int = 0
    seen: tuple[datetime, ...] = ()
    wants: tuple[Window, ...] = ()
    understood: str = ""


@dataclass(frozen=True, slots=True)
class Next:
    """What comes of a message. `says`: empty for no answer. `books`: this time, in the place of the one that is booked where one is; `cancels`
    that one. `person`: why somebody of the team goes on, empty for nobody. `stops`: they want no more."""

    talk: Talk
    says: str = ""
    books: datetime | None = None
    cancels: bool = False
    person: str = ""
    stops: bool = False
    reading: Reading | None = field(default=None, compare=False)


def free_among(times: Sequence[datetime]) -> Free:
    """`times` local, the soonest first."""
    return lambda windows: [one for one in times if not windows or any(window.holds(one) for window in windows)]


def in_words(at: datetime) -> str:
    """ "Sat 7 Mar at 10:00"."""
    return f"{at:%a} {at.day} {at:%b} at {at:%H:%M}"


def hear(talk: Talk, text: str, now: datetime, free: Free, script: AssistantScript) -> Next:
    """`free`: what is free within windows, or at all where none are given, the soonest first; `now` local."""
    if talk.stage == "over":
        return Next(talk, person="the conversation is over")
    said = Said(
        now,
        offered=talk.offered if talk.stage == "offered" else (),
        asked=talk.asked if talk.stage == "asked" else None,
        booked=talk.booked if talk.stage == "booked" else None,
    )
    reading = reading_of(text, said)
    if reading.means != "unclear" and talk.missed:
        talk = replace(talk, missed=0)
    done = _next(talk, text, reading, free, script)
    return replace(done, talk=replace(done.talk, understood=understood(reading)), reading=reading)


def taken(talk: Talk, free: Free, script: AssistantScript) -> Next:
    """What was to be booked has gone meanwhile: others are offered."""
    return _offer(replace(talk, stage="offered"), talk.wants, free, script, "That time has just gone. ")


def summary(talk: Talk) -> str:
    """What somebody of the team needs to know who goes on."""
    lines = [f"{question} {answer}" for question, answer in talk.told]
    if talk.wants:
        lines.append(f"Would come: {', '.join(map(str, talk.wants))}.")
    if talk.seen:
        lines.append(f"Was offered {', '.join(map(in_words, talk.seen))}.")
    if talk.booked:
        lines.append(f"Booked: {in_words(talk.booked)}.")
    return " ".join(lines)


def _next(talk: Talk, text: str, reading: Reading, free: Free, script: AssistantScript) -> Next:
    said = f" {plain(own_words(text))} "
    if reading.means == "stop":
        return Next(replace(talk, stage="over"), stops=True)
    if any(f" {plain(word)} " in said for word in script.never if plain(word)):
        return _person(talk, "they write of what the assistant never answers", script)
    match reading.means:
        case "angry" | "call" | "person":
            why = {"angry": "they are angry", "call": "they would rather be rung", "person": "they ask for a person"}
            return _person(talk, why[reading.means], script)
        case "who":
            return Next(talk, f"{script.who} {_again(talk, script)}".strip())
        case "ask":
            return _answer(talk, said, reading, script)
        case "later":
            return Next(replace(talk, stage="over"), script.put_off)
        case "take" | "yes" if talk.stage in ("offered", "asked"):
            return _take(talk, reading, free, script)
        case "no" if talk.stage in ("opening", "offered"):
            return Next(replace(talk, stage="over"), script.declined)
        case "none" | "no" if talk.stage in ("offered", "asked"):
            return _offer(talk, talk.wants, free, script)  # others of those they would have
        case "cancel" if talk.booked:
            gone = replace(talk, stage="over", booked=None)
            return Next(gone, f"{in_words(talk.booked)} is cancelled. Write here for another time.", cancels=True)
        case "move" if talk.booked:
            return _offer(talk, reading.windows, free, script)
        case "ack" if talk.stage == "booked":
            return Next(talk)
    if talk.stage == "question":  # in any words; and what they say of times besides is kept
        talk = replace(talk, wants=reading.windows or talk.wants)
        return _ask(
            replace(talk, told=(*talk.told, (script.questions[len(talk.told)], text.strip()[:200]))), free, script
        )
    if reading.means in ("yes", "want") and talk.stage != "booked":
        wants = reading.windows or talk.wants
        ready = talk.stage != "opening" or not script.questions
        return _offer(talk, wants, free, script) if ready else _ask(replace(talk, wants=wants), free, script)
    return _missed(talk, script, reading.among)


def _missed(talk: Talk, script: AssistantScript, among: tuple[int, ...] = ()) -> Next:
    """`among`: those of the offered that it may mean; fewer than all of them are asked about alone."""
    if talk.stage == "offered" and 1 < len(among) < len(talk.offered):
        fewer = tuple(talk.offered[number - 1] for number in among)
        return Next(replace(talk, offered=fewer), _which(fewer))
    talk = replace(talk, missed=talk.missed + 1)
    if talk.missed >= MISUNDERSTANDINGS or talk.stage == "booked":
        return _person(talk, "twice not understood" if talk.missed >= MISUNDERSTANDINGS else "not understood", script)
    return Next(talk, f"Sorry, I did not get that. {_again(talk, script)}")


def _person(talk: Talk, why: str, script: AssistantScript) -> Next:
    return Next(replace(talk, stage="over"), script.handed_over, person=why)


def _again(talk: Talk, script: AssistantScript) -> str:
    """What is being asked, once more."""
    match talk.stage:
        case "opening":
            return script.opening
        case "question":
            return script.questions[len(talk.told)]
        case "offered":
            return _which(talk.offered)
        case "asked" if talk.asked:
            return f"Shall I book {in_words(talk.asked)}?"
    return ""


def _answer(talk: Talk, said: str, reading: Reading, script: AssistantScript) -> Next:
    for known in script.answers:
        named = any(f" {plain(word)} " in said for word in known.words if plain(word))
        if named or (known.about is not None and known.about == reading.topic and not known.words):
            return Next(talk, f"{known.says} {_again(talk, script)}".strip())
    return _person(talk, "they ask what the assistant has no answer to", script)


def _ask(talk: Talk, free: Free, script: AssistantScript) -> Next:
    """The next question, or times once none is left."""
    if len(talk.told) < len(script.questions):
        return Next(replace(talk, stage="question"), script.questions[len(talk.told)])
    return _offer(talk, talk.wants, free, script)


def _take(talk: Talk, reading: Reading, free: Free, script: AssistantScript) -> Next:
    """The only way to a booking: a time that was offered, or asked about, and is free still."""
    at = talk.offered[reading.take - 1] if talk.stage == "offered" and reading.take else None
    if talk.stage == "asked" and reading.means == "yes":
        at = talk.asked
    if at is None:
        return _missed(talk, script)
    if at not in free((Window(at=at.time()).on(at.date()),)):
        return taken(talk, free, script)
    words = "Moved" if talk.booked else "Booked"
    done = replace(talk, stage="booked", booked=at, offered=(), asked=None, missed=0, offers=0)
    return Next(done, f"{words}: {in_words(at)}. {script.confirms}".strip(), books=at)


def _which(times: Sequence[datetime]) -> str:
    said = [in_words(one) for one in times]
    return f"{', '.join(said[:-1])} or {said[-1]}. Which one?"


def _spread(times: Sequence[datetime], count: int) -> tuple[datetime, ...]:
    """The soonest that lie some hours apart, so that who cannot come at one may at the next; else the soonest."""
    chosen: list[datetime] = []
    for one in times:
        if not chosen or one >= chosen[-1] + APART:
            chosen.append(one)
    return tuple(sorted([*chosen, *(one for one in times if one not in chosen)][:count]))


def _offer(talk: Talk, windows: Sequence[Window], free: Free, script: AssistantScript, before: str = "") -> Next:
    """The soonest that fit; where none does, the soonest at all. What was offered before is only offered again to who names it."""
    if talk.offers >= script.offers:
        return _person(talk, f"offered times {talk.offers} times", script)
    named = bool(windows) and tuple(windows) != talk.wants
    fitting = [one for one in free(windows) if (named or one not in talk.seen) and one != talk.booked]
    if windows and not fitting:
        before = before or "Nothing is free then. "
        fitting = [one for one in free(()) if one not in talk.seen and one != talk.booked]
    if not fitting:
        return _person(talk, "nothing is free that was not offered", script)
    times = _spread(fitting, script.at_once)
    talk = replace(
        talk,
        offers=talk.offers + 1,
        seen=tuple(dict.fromkeys((*talk.seen, *times))),
        wants=tuple(windows) or talk.wants,
        missed=0,
    )
    if len(times) == 1:
        asked = replace(talk, stage="asked", asked=times[0], offered=())
        return Next(asked, f"{before}{in_words(times[0])} is free. Shall I book it?")
    return Next(replace(talk, stage="offered", offered=times, asked=None), before + _which(times))
