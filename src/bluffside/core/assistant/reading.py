"""One reading of what somebody wrote, given what had been said to them. Pure and total: any text is read.

What can be read in two ways is *unclear*. A time is taken only where what they wrote names one of those that were offered and no other;
a wish that no offer meets is a wish for other times. Opt-out words are heard first, as everywhere (channels.answers).
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from bluffside.core.assistant.topics import Topic, Wish, asks, topic_in, wish_in
from bluffside.core.assistant.when import find_windows, plain_words
from bluffside.core.assistant.windows import Window
from bluffside.core.channels.answers import is_opt_out, read
from bluffside.core.channels.own_words import own_words

Means = Literal["yes", "no", "later", "stop", "ack", "cancel", "move", "none", "take", "want", "ask", "unclear"] | Wish


@dataclass(frozen=True, slots=True)
class Said:
    """What had been said to them last, all moments local: an opening, times that were offered, one that was asked about, or one that is
    booked."""

    now: datetime
    offered: tuple[datetime, ...] = ()
    asked: datetime | None = None
    booked: datetime | None = None

    @property
    def about(self) -> datetime | None:
        return self.asked or self.booked


@dataclass(frozen=True, slots=True)
class Reading:
    """`take`: which of the offered, from 1; `windows`: when they would come; `topic`: of a question; `among`: of an
    unclear answer, those of the offered that it may mean."""

    means: Means
    take: int = 0
    windows: tuple[Window, ...] = ()
    topic: Topic | None = None
    among: tuple[int, ...] = ()

    def __str__(self) -> str:
        """As the table of what people write has them."""
        more = str(self.take) if self.take else self.topic or ",".join(map(str, self.windows))
        return f"{self.means}:{more}" if more else self.means


UNCLEAR = Reading("unclear")
_ORDINALS = (
    (1, r"\b(first|1st|option 1|option one|(number|no) (1|one)|earliest)\b|#1\b"),
    (2, r"\b(second|2nd|middle|option 2|option two|(number|no) (2|two))\b|#2\b"),
    (3, r"\b(third|3rd|option 3|option three|(number|no) (3|three))\b|#3\b"),
)
_LAST = re.compile(r"\b(last|latest)\b")
_HEDGED = re.compile(
    r"\b(maybe|perhaps|possibly|probably|might|think( so)?|depends|not sure|let me check|either|any of them|whichever|hmm)\b"
)
_PUT_OFF = re.compile(
    r"\b(let me (check|think|look|ask)|(need|have) to (check|ask|look|think)|get back to you|let you know|hold on|waiting for|away until|skint|not till|not until"
    r"|ask me (again )?(in|later|after)|not this month|at the moment|atm\b|in (april|may|june|july|august|the (summer|autumn|spring|winter)))\b"
)
_NONE = re.compile(
    r"^(none|neither|no good|no)$|\bnone of (those|them|these)|\b(cant|cannot|can not) (do|make) any|(those|these|they) dont work|\bnot free then\b"
    r"|\bim away then\b|working all|\b(any|got) (other|anything)|anything else|what else|other times"
)
_AWAY = re.compile(r"\b(working|away|busy) (all|the whole|this|that) \w+")
_DECLINES = re.compile(
    r"\b(not (for me|interested|any ?more)|afraid not|sorry no|no longer|changed my mind|decided against|someone else|elsewhere|somewhere else|forget it|no thanks?( you)?|no ta)\b"
)
_WANTS = re.compile(r"\b(yes|yep|yeah|sure|still (keen|interested)|id love|would love|(it is|go on)( actually| then)?|oh go on|def|very much so|count me in|sounds (good|great)|perfect|lovely|please do|go ahead|book it|that works|works for (me|us)|see you then|is good|thats fine|great|ok(ay)?)\b")  # fmt: skip
_CANCELS = re.compile(r"\bcancel\b|cant come any ?more")
_MOVES = re.compile(
    r"\b(move|change|reschedule|another (time|day)|instead|cant (make|come|do)|something came up|later|earlier|could it be|can we make it|same time)\b"
)
_THANKS = re.compile(r"^(thanks?( you)?|ta|cheers|ok(ay)?|great|perfect|lovely|see you.*|great see you.*)$")
_SAME = re.compile(r"\bsame (time )?(?:(?:but )?(?:next week|a week later))")


def reading_of(text: str, said: Said) -> Reading:
    own = own_words(text)
    words = plain_words(own).strip(" .?!:,")
    plain = re.sub(r"[?.,]+(?=\s|$)", "", words)
    if (short := _short(own, plain, said)) is not None:
        return short
    windows = _relative(plain, said) or find_windows(words, said.now)
    if said.booked:
        return _about_booked(plain, said, windows)
    if said.offered:
        return _about_offered(own, plain, said, windows)
    return _about_asked(own, plain, said, windows) if said.asked else _opening(own, plain, windows)


def _short(own: str, plain: str, said: Said) -> Reading | None:
    """What is read alike wherever it is said: refusals, who would have a person, questions with an answer."""
    if is_opt_out(own):
        return Reading("stop")
    if wish := wish_in(plain):
        return Reading(wish)
    if read(own).meaning == "out" and not _CANCELS.search(plain):  # likely so, and a person looks
        return Reading("stop")
    if topic := topic_in(plain):
        return Reading("ask", topic=topic)
    return None


def _relative(plain: str, said: Said) -> tuple[Window, ...]:
    """What is said by what was said before: "same time next week", "half an hour later", "sunday same time"."""
    week = timedelta(days=7)
    before = [said.about] if said.about else list(said.offered)
    if _SAME.search(plain) and before:
        return tuple(Window(at=one.time()).on((one + week).date()) for one in before)
    if (about := said.about) is None:
        return ()
    if (found := find_windows(plain, said.now)) and "same time" in plain:
        return tuple(replace(one, start=None, end=None, at=about.time()) for one in found)
    shift = re.search(r"\b(half an|an|one) hour (later|earlier)\b", plain)
    if shift:
        by = timedelta(minutes=30 if shift[1] == "half an" else 60) * (1 if shift[2] == "later" else -1)
        return (Window(at=(about + by).time()).on(about.date()),)
    if not found and re.search(r"\bearlier\b", plain):
        return (Window(end=about.time()).on(about.date()),)
    if not found and re.search(r"\blater\b", plain):
        return (Window(start=about.time()).on(about.date()),)
    return tuple(one if one.has_days else one.on(about.date()) for one in found)


def _about_booked(plain: str, said: Said, windows: tuple[Window, ...]) -> Reading:
    if _CANCELS.search(plain):
        return Reading("cancel")
    if _THANKS.match(plain) or (not plain and said.booked):
        return Reading("ack")
    if re.search(r"\bcant (make|come|do)\b", plain):
        return Reading("move")
    if _MOVES.search(plain) or (windows and not asks(plain)):
        return Reading("move", windows=windows)
    return Reading("ask", topic="other") if asks(plain) else UNCLEAR


def _about_offered(own: str, plain: str, said: Said, windows: tuple[Window, ...]) -> Reading:
    hedged = bool(_HEDGED.search(plain)) or "not the" in plain
    if _PUT_OFF.search(plain) and not windows:
        return Reading("later")
    if (not windows and _NONE.search(plain)) or _AWAY.search(plain):
        return Reading("none")
    ordinals = {number for number, pattern in _ORDINALS if re.search(pattern, plain)}
    if _LAST.search(plain):
        ordinals.add(len(said.offered))
    if re.fullmatch(r"(the |yes |yes the )?(1st|2nd|3rd)( one)?( please| pls)?", plain):
        windows = ()  # the first of those, not of the month
    if asks(plain) and "other" not in plain and re.search(r"\b(bring|have|take) (a|my)\b", plain):
        return Reading("ask", topic="other")
    if ordinals and not windows:
        return (
            Reading("take", min(ordinals))
            if len(ordinals) == 1 and not hedged and min(ordinals) <= len(said.offered)
            else UNCLEAR
        )
    if windows:
        return _among(plain, said.offered, windows, hedged)
    meaning = read(own).meaning
    if _DECLINES.search(plain):
        return Reading("no")
    if meaning != "later" and asks(plain) and not hedged and not re.search(r"\b(one|ones|times?|days?)\b", plain):
        return Reading("ask", topic="other")
    return Reading("later") if meaning == "later" else UNCLEAR


def _among(plain: str, offered: Sequence[datetime], windows: tuple[Window, ...], hedged: bool) -> Reading:
    """Of what was offered, the one that is named; unclear for several, or where they hedge; else the times that they would have."""
    fitting = [at for at, one in enumerate(offered, 1) if any(window.holds(one) for window in windows)]
    if len(windows) == 1 and re.search(r"\blater\b", plain) and len(fitting) == 1 and not windows[0].has_times:
        return Reading("want", windows=(replace(windows[0], start=offered[fitting[0] - 1].time()),))
    if re.search(r"\b(later|latter)\b", plain) and len(fitting) > 1 and windows[0].has_days:
        return Reading("take", fitting[-1])
    window = windows[0]
    named = window.at is not None or re.search(r"\b(morning|afternoon|am|pm)\b", plain) or not window.has_times
    if not fitting or not named or "only" in plain or len(window.weekdays) > 1:
        bare = len(windows) == 1 and window.at is not None and not window.has_days
        return UNCLEAR if bare and not fitting else Reading("want", windows=windows)
    return Reading("take", fitting[0]) if len(fitting) == 1 and not hedged else Reading("unclear", among=tuple(fitting))


def _about_asked(own: str, plain: str, said: Said, windows: tuple[Window, ...]) -> Reading:
    if _PUT_OFF.search(plain):
        return Reading("later")
    if windows:
        same = said.asked is not None and all(one.at == said.asked.time() and one.holds(said.asked) for one in windows)
        if same or re.search(r"\byes or\b", plain):
            return Reading("yes") if same else UNCLEAR
        return Reading("want", windows=windows)
    answer = _yes_or_no(own, plain)
    return Reading("ask", topic="other") if answer == UNCLEAR and asks(plain) and not _HEDGED.search(plain) else answer


def _opening(own: str, plain: str, windows: tuple[Window, ...]) -> Reading:
    if _PUT_OFF.search(plain):
        return Reading("later")
    if windows and not _DECLINES.search(plain):
        return Reading("want", windows=windows)
    answer = _yes_or_no(own, plain)
    if answer == UNCLEAR and asks(plain):
        return Reading("ask", topic="other")
    return answer


def _yes_or_no(own: str, plain: str) -> Reading:
    meaning = read(own).meaning
    if meaning == "later":
        return Reading("later")
    if _DECLINES.search(plain) or meaning == "no":
        return Reading("no")
    if _HEDGED.search(plain) or re.search(r"\bbut$", plain):
        return UNCLEAR
    return Reading("yes") if meaning == "yes" or _WANTS.search(plain) else UNCLEAR
