"""Days and times in everyday English, as people type them on phones, found as windows.

Words for days and times are first put in one form, "[sat]", "[2026-03-14]", "<15:00>"; what stands around them says the rest: "after
<16:00>", "between <14:00> and <16:00>", "[thu] or [fri]". Which hours a part of the day has is common practice, and so is that a bare
1 to 7 is in the afternoon.
"""

import re
from collections.abc import Callable
from dataclasses import replace
from datetime import date, datetime, time, timedelta

from bluffside.core.assistant.windows import Window
from bluffside.core.timing.weekdays import NAMES, WEEKDAYS, Weekday

DAY = timedelta(days=1)
WEEK = 7 * DAY
NUMBERS = {
    word: n for n, word in enumerate("one two three four five six seven eight nine ten eleven twelve".split(), 1)
}
MONTHS = "jan feb mar apr may jun jul aug sep oct nov dec".split()
_MONTH = r"(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*"
_DAY_NAMES: dict[Weekday, str] = {
    "mon": r"mon(?:day)?",
    "tue": r"tue(?:s|sday)?",
    "wed": r"wed(?:s|nesday)?",
    "thu": r"thu(?:r|rs|rsday)?",
    "fri": r"fri(?:day)?",
    "sat": r"sat(?:urday)?",
    "sun": r"sun(?:day|dy)?",
}
_HOUR = rf"(\d{{1,2}}|{'|'.join(NUMBERS)})"
_NOT_ONE = rf"(\d{{1,2}}|{'|'.join(list(NUMBERS)[1:])})"  # "the sunday one" names no hour
PARTS: tuple[tuple[str, Window], ...] = (
    (r"early (?:in the )?morning", Window(end=time(10))),
    (r"mornings?|(?<!i )am\b", Window(end=time(12))),
    (r"lunch(?:time|times)?", Window(start=time(12), end=time(14))),
    (r"(?:after|past) work", Window(start=time(17))),
    (r"afternoons?|pm\b|arvo", Window(start=time(12), end=time(18))),
    (r"evenings?|tonight", Window(start=time(17))),
)


def plain_words(text: str) -> str:
    """Lower case, without apostrophes and what is no word, time or date."""
    text = text.casefold().replace("’", "").replace("'", "").replace("–", "-")
    return " ".join(re.sub(r"[^\w\s:./,?#<>\[\]-]", " ", text).split())


def find_windows(text: str, now: datetime) -> tuple[Window, ...]:
    """The windows that a text names, in its order; `now` local. None where it names neither a day nor a time."""
    said = _without_what_is_denied(_clock(_days(plain_words(text), now.date())))
    found: list[Window] = []
    for part in re.split(r"\bor\b", said):
        pieces = [one for one in (_window(piece) for piece in part.split(",")) if one is not None]
        if len(pieces) == 2 and pieces[0].has_days and not pieces[0].has_times and not pieces[1].has_days:
            pieces = [pieces[0].with_times_of(pieces[1])]  # "saturdays only, mornings"
        found += pieces
    for at in range(len(found) - 2, -1, -1):  # "thu or fri after 5": the time of the last is that of those before, too
        if not found[at].has_times and found[at + 1].has_times:
            found[at] = found[at].with_times_of(found[at + 1])
    return tuple(found)


# ---- days


def _days(said: str, today: date) -> str:
    monday = today - timedelta(days=today.weekday())

    def span(first: date, last: date) -> str:
        return f"[{first}..{last}]"

    def on(day: int, month: int) -> str:
        for year in (today.year, today.year + 1):
            try:
                found = date(year, month, day)
            except ValueError:
                continue
            if found >= today:
                return f"[{found}]"
        return ""

    def of_month(day: int) -> str:
        for ahead in (0, 1):
            month = today.month + ahead
            try:
                found = date(today.year + (month > 12), (month - 1) % 12 + 1, day)
            except ValueError:
                continue
            if found >= today:
                return f"[{found}]"
        return ""

    end_of_month = (today.replace(day=28) + 4 * DAY).replace(day=1) - DAY
    rules: list[tuple[str, Callable[[re.Match[str]], str]]] = [
        (rf"\b(\d{{1,2}})(?:st|nd|rd|th)?(?: of)? {_MONTH}\b", lambda m: on(int(m[1]), MONTHS.index(m[2]) + 1)),
        (rf"\b{_MONTH} (\d{{1,2}})(?:st|nd|rd|th)?\b(?!:)", lambda m: on(int(m[2]), MONTHS.index(m[1]) + 1)),
        (r"\b(\d{1,2})/(\d{1,2})\b", lambda m: on(int(m[1]), int(m[2])) if 1 <= int(m[2]) <= 12 else m[0]),
        (r"\b(?:the )?(\d{1,2})(?:st|nd|rd|th)\b", lambda m: of_month(int(m[1]))),
        (r"\bday after tomorrow\b", lambda m: f"[{today + 2 * DAY}]"),
        (r"\b(?:tomorrow|tomorow|tomoz|tmrw|tmr|tmw|2moro)\b", lambda m: f"[{today + DAY}]"),
        (r"\bthis (morning|afternoon|evening)\b", lambda m: f"[{today}] {m[1]}"),
        (r"\b(today|tonight)\b", lambda m: f"[{today}] {m[1]}"),
        (r"\b(?:next weekend|(?:the )?weekend after)\b", lambda m: span(monday + 12 * DAY, monday + 13 * DAY)),
        (r"\bthis weekend\b", lambda m: span(monday + 5 * DAY, monday + 6 * DAY)),
        (r"\b(?:(?:the )?week after next|in (?:two|2) weeks|in a fortnight)\b", lambda m: span(monday + 2 * WEEK, monday + 2 * WEEK + 6 * DAY)),
        (r"\bnext week\b", lambda m: span(monday + WEEK, monday + WEEK + 6 * DAY)),
        (r"\bend of the month\b", lambda m: span(end_of_month - 6 * DAY, end_of_month)),
        (r"\bweekends?\b", lambda m: "[sat+sun]"),
        (r"\b(?:weekdays?|(?:during|in) the week)\b", lambda m: "[mon+tue+wed+thu+fri]"),
    ]  # fmt: skip
    for name, pattern in _DAY_NAMES.items():
        number = WEEKDAYS.index(name)
        coming = today + timedelta(days=(number - today.weekday() - 1) % 7 + 1)
        rules += [
            (rf"\bnext {pattern}\b", lambda m, day=monday + WEEK + number * DAY: f"[{day}]"),  # type: ignore[misc]
            (rf"\b{pattern} week\b", lambda m, day=coming + WEEK: f"[{day}]"),  # type: ignore[misc]
            (rf"\b{pattern} (?:the )?(?=\[)", lambda m: ""),  # "saturday the 14th" is the 14th
            (rf"\b{NAMES[name].lower()}s\b", lambda m, name=name: f"[{name}]"),  # type: ignore[misc]
            (rf"\b{pattern}\b(?!\])", lambda m, day=coming: f"[{day}]"),  # type: ignore[misc]
        ]
    for pattern, put in rules:
        # What is in brackets already is left alone.
        said = re.sub(rf"\[[^\]]*\]|{pattern}", lambda m, put=put: m[0] if m[0].startswith("[") else put(m), said)  # type: ignore[misc]
    return said


# ---- times of day


def _hour(word: str) -> int:
    return NUMBERS.get(word) or int(word)


def _at(hour: int, minute: int, half: str = "") -> str:
    if half.startswith("p") and hour < 12:
        hour += 12
    elif half.startswith("a") and hour == 12:
        hour = 0
    elif not half and 1 <= hour <= 7:
        hour += 12
    return f"<{hour:02}:{minute:02}>" if hour < 24 and minute < 60 else ""


def _quarter_to(hour: int) -> str:
    later = _at(hour, 0)
    return f"<{int(later[1:3]) - 1:02}:45>"


def _clock(said: str) -> str:
    half = r" ?(am|pm|a\.m\.|p\.m\.)?"
    rules: list[tuple[str, Callable[[re.Match[str]], str]]] = [
        (rf"\bhalf (?:past )?{_HOUR}\b", lambda m: _at(_hour(m[1]), 30)),
        (rf"\bquarter past {_HOUR}\b", lambda m: _at(_hour(m[1]), 15)),
        (rf"\bquarter to {_HOUR}\b", lambda m: _quarter_to(_hour(m[1]))),
        (rf"\b(\d{{1,2}})[:.](\d\d){half}\b", lambda m: _at(int(m[1]), int(m[2]), m[3] or "") or m[0]),
        (rf"\b(\d{{1,2}})([0-5]\d){half}\b", lambda m: _at(int(m[1]), int(m[2]), m[3] or "") or m[0]),
        (rf"\b{_HOUR} ?(am|pm|oclock)\b", lambda m: _at(_hour(m[1]), 0, "" if m[2] == "oclock" else m[2]) or m[0]),
        (r"\b(?:noon|midday)\b", lambda m: "<12:00>"),
        (r"\b(\d{1,2}) ?- ?(\d{1,2})\b", lambda m: f"between {_at(int(m[1]), 0)} and {_at(int(m[2]), 0)}"),
        (rf"\b(at|after|past|from|before|than|between|and|the|it|or) {_NOT_ONE}\b(?! \w*(?:min|hour|week|day|of us))", lambda m: f"{m[1]} {_at(_hour(m[2]), 0) or m[2]}"),
        (rf"(\]) (?:at )?{_NOT_ONE}\b", lambda m: f"{m[1]} {_at(_hour(m[2]), 0) or m[2]}"),
        (rf"\b{_NOT_ONE} (?=(?:on (?:the )?)?\[|is |or <)", lambda m: f"{_at(_hour(m[1]), 0) or m[1]} "),
        (rf"^{_HOUR}$", lambda m: _at(_hour(m[1]), 0) if _hour(m[1]) > 3 else m[0]),  # "2" alone may be the second
    ]  # fmt: skip
    for pattern, put in rules:
        whole = rf"\[[^\]]*\]|<[^>]*>|{pattern}" if not pattern.startswith(r"(\])") else pattern
        said = re.sub(whole, lambda m, put=put: m[0] if m[0][0] in "[<" else put(m), said)  # type: ignore[misc]
    return said


def _without_what_is_denied(said: str) -> str:
    """ "not saturday, sunday" names Sunday alone; who cannot do weekends can do the others."""
    said = re.sub(r"\b(?:but|except|apart from) (?:not )?\[[^\]]*\]", " ", said)
    said = re.sub(r"\bnot (?:on )?\[[^\]]*\](?=[ ,]+\[)", " ", said)
    denied = r"(?:(?:cant|can not|cannot|dont) (?:do|make|come) (?:at |on )?{}|no {}|{} (?:is|are) no good|{} (?:dont|doesnt) work)"
    for days, others in (("sat+sun", "mon+tue+wed+thu+fri"), ("mon+tue+wed+thu+fri", "sat+sun")):
        asked = re.escape(f"[{days}]")
        said = re.sub(denied.replace("{}", asked), f"[{others}]", said)
    return said


# ---- together


def _window(said: str) -> Window | None:
    times, days = _times(said), re.findall(r"\[([^\]]*)\]", said)
    if times is None and not days:
        return None
    window = times or Window()
    for day in days:
        if day[0].isdigit():
            first, _, last = day.partition("..")
            window = replace(window, first=date.fromisoformat(first), last=date.fromisoformat(last or first))
        else:
            window = replace(window, weekdays=tuple(one for one in WEEKDAYS if one in day.split("+")))
    return window


def _times(said: str) -> Window | None:
    clocks = [time.fromisoformat(one) for one in re.findall(r"<(\d\d:\d\d)>", said)]
    if len(clocks) >= 2 and re.search(r"between <[^>]*> (?:and|to|-) <", said):
        return Window(start=clocks[0], end=clocks[1])
    if clocks:
        before = said[: said.index("<")]
        if re.search(r"\bnot (?:after|past|later than) $", before):
            return Window(end=clocks[0])
        if re.search(r"\b(?:before|earlier than|until|by) $", before):
            return (
                Window(start=clocks[0])
                if re.search(r"\bnot (?:before|earlier than) $", before)
                else Window(end=clocks[0])
            )
        if re.search(r"\b(?:after|past|from|later than) $", before):
            return Window(start=clocks[0])
        return Window(at=clocks[0])
    return next((part for pattern, part in PARTS if re.search(rf"\b(?:{pattern})", said)), None)
