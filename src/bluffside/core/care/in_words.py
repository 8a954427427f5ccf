"""An account's care in words, part by part: what stands in the audit trail, old and new."""

from collections.abc import Sequence

from bluffside.core.care.calendar import DaysOff, HolidayCalendar
from bluffside.core.care.house import Care
from bluffside.core.care.limits import MessageLimit
from bluffside.core.care.pace import Pace
from bluffside.core.care.quiet import Opening, OpeningHours, QuietHours
from bluffside.core.terms import CHANNELS, PURPOSES
from bluffside.core.timing.weekdays import NAMES as DAYS
from bluffside.core.timing.weekdays import WEEKDAYS
from bluffside.core.words import day, several

NAMES = {
    "quiet": "quiet hours",
    "opening": "opening hours",
    "holidays": "holidays and days off",
    "limits": "message limits",
    "pause": "the pause before a message",
    "pace": "speed of senders",
    "policy": "whom the account writes to",
    "own_page_in_texts": "which texts carry the link to the contact’s own page",
    "own_page_words": "words before that link",
    "words_out": "words by which people opt out, besides the usual",
    "words_help": "words by which people ask for help, besides the usual",
    "help_says": "what who asks for help is told",
    "confirm_forms": "what is agreed to on a form is confirmed first",
    "consent_months": "months for which consent is good",
    "longest_days": "days at the longest",
    "most_touches": "touches at the most",
    "most_text_parts": "parts of a text at the most",
    "first_text_says_who": "the first text says who writes",
    "refuses": "rules that stop publishing",
    "link_source": "source that links in emails are tagged with",
    "link_medium": "medium that links in emails are tagged with",
    "link_campaign": "campaign that links in emails are tagged with",
}


def care_in_words(care: Care) -> dict[str, str]:
    """By the names of its fields; empty for what is not set."""
    return {
        "quiet": "; ".join(map(quiet, care.quiet)),
        "opening": opening(care.opening),
        "holidays": holidays(care.holidays),
        "limits": "; ".join(map(limit, care.limits)),
        "pause": f"{care.pause.shortest} to {care.pause.longest} seconds" if care.pause.longest else "",
        "pace": "; ".join(f"{name or 'every other sender'}: {pace(one)}" for name, one in care.pace.items()),
        "policy": "; ".join(f"{purpose}: {how.replace('_', ' ')}" for purpose, how in care.policy.items()),
        "own_page_in_texts": care.own_page_in_texts,
        "own_page_words": care.own_page_words,
        "words_out": several(list(care.words_out)),
        "words_help": several(list(care.words_help)),
        "help_says": care.help_says,
        "confirm_forms": "yes" if care.confirm_forms else "",
        "consent_months": str(care.consent_months or ""),
        "longest_days": str(care.longest_days or ""),
        "most_touches": str(care.most_touches or ""),
        "most_text_parts": str(care.most_text_parts or ""),
        "first_text_says_who": "yes" if care.first_text_says_who else "",
        "refuses": several([NAMES[one] for one in care.refuses]),
        "link_source": care.link_source,
        "link_medium": care.link_medium,
        "link_campaign": care.link_campaign,
    }


def _of(channels: Sequence[str], purposes: Sequence[str]) -> str:
    some = [] if set(channels) == set(CHANNELS) else [several(list(channels), "or")]
    if set(purposes) != set(PURPOSES):
        some.append(f"for {several(list(purposes), 'or')}")
    return f" ({', '.join(some)})" if some else ""


def quiet(one: QuietHours) -> str:
    return one.describe() + _of(one.channels, one.purposes)


def limit(one: MessageLimit) -> str:
    over = "wait" if one.over == "wait" else "are left out"
    return f"{one.describe()}{_of(one.channels, one.purposes)}; more {over}"


def pace(one: Pace) -> str:
    return f"{one.each_minute:g} a minute" + (f", {one.burst} at once" if one.burst > 1 else "")


def _hours(hours: Sequence[Opening]) -> str:
    return several([f"{one.start:%H:%M} to {one.end:%H:%M}" for one in hours]) or "closed"


def opening(one: OpeningHours) -> str:
    usual = [f"{DAYS[name]} {_hours(one.days[name])}" for name in WEEKDAYS if one.days.get(name)]
    return "; ".join([*usual, *(f"{day(each.day)} {_hours(each.hours)}" for each in one.exceptions)])


def _off(one: DaysOff) -> str:
    days = day(one.first) if one.first == one.last else f"{day(one.first)} to {day(one.last)}"
    return f"{days}: {one.name}" if one.name else days


def holidays(one: HolidayCalendar) -> str:
    where = "-".join(filter(None, (one.country, one.region)))
    said = [f"public holidays of {where}"] if where else []
    if one.worked:
        said.append(f"not {several(list(one.worked), 'or')}")
    if one.but_not:
        said.append(f"not on {several([day(each) for each in one.but_not], 'or')}")
    return "; ".join([*said, *map(_off, one.own)])
