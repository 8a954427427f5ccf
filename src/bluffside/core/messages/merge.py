"""Merge fields: `{{ contact.first_name | default: "there" }}`, rendered by Liquid under strict limits.

What a practitioner writes is never run as code: templates see the fields of FIELDS and nothing else,
loops and includes do not exist, and what a template may make is bounded. Words that come from a
contact are only ever values, so "{{" in somebody's name stays those two letters.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from liquid import Environment
from liquid.exceptions import LiquidError

from bluffside.core.facts import Facts
from bluffside.core.messages.opening import week_in_words
from bluffside.core.timing.local import to_local
from bluffside.core.words import date_in, time_in, weekday_in

LONGEST_TEMPLATE = 20_000  # characters
LONGEST_OUTPUT = 100_000  # bytes
MOST_OPENED = 300  # merge fields and tags that a body opens; Liquid's time grows with the square of those left open
ALLOWED_TAGS = {"content", "output", "illegal", "if", "unless"}  # the first three are how Liquid reads text at all
ALLOWED_FILTERS = {"default", "upcase", "downcase", "capitalize", "strip"}


@dataclass(frozen=True, slots=True)
class MergeField:
    path: str
    label: str


FIELDS = (
    MergeField("contact.first_name", "first name"),
    MergeField("contact.last_name", "last name"),
    MergeField("contact.email", "email"),
    MergeField("contact.mobile", "mobile"),
    MergeField("contact.preferences_link", "link to their preferences"),
    MergeField("account.name", "business name"),
    MergeField("account.phone", "business phone"),
    MergeField("account.booking_link", "booking link"),
    MergeField("account.signature", "signature"),
    MergeField("account.web_page", "web page"),
    MergeField("account.postal_address", "postal address of the business"),
    MergeField("account.opening_hours", "opening hours of the business"),
    MergeField("member.first_name", "responsible member’s first name"),
    MergeField("member.phone", "responsible member’s phone"),
    MergeField("member.signature", "responsible member’s signature"),
    MergeField("appointment.type", "type of the appointment"),
    MergeField("appointment.day", "day of the appointment"),
    MergeField("appointment.time", "time of the appointment"),
    MergeField("appointment.place", "place of the appointment"),
    MergeField("appointment.member", "who gives the appointment"),
    MergeField("appointment.link", "link to confirm, move or cancel the appointment"),
    MergeField("deal.name", "name of the deal"),
    MergeField("deal.stage", "stage of the deal"),
    MergeField("deal.pipeline", "pipeline of the deal"),
    MergeField("deal.worth", "what the deal is worth"),
    MergeField("deal.owner", "owner of the deal"),
    MergeField("causer.name", "whoever of the team caused it"),
    MergeField("causer.first_name", "first name of whoever of the team caused it"),
)
PATHS = {field.path: field for field in FIELDS}
MADE_UP = "(link to the appointment)"  # in the place of its address, where the appointment is made up
OWN_FIELD = "contact.fields."  # and the name of one of the account's own fields
OWN_DETAIL = "account.details."  # and the name of a detail of the business, of its own choosing
BOOKING_PAGE = "account.book."  # and the name of a type of appointment, booked on a page
FREE_NEXT = "account.times."  # and the name of one: its next free times, a line each with its link
OF_TYPES = (BOOKING_PAGE, FREE_NEXT)
OWN = {OWN_FIELD: "{}", OWN_DETAIL: "{}", BOOKING_PAGE: "page to book “{}” on", FREE_NEXT: "next free times of “{}”"}


@lru_cache(maxsize=10_000)
def own_path(name: str) -> str:
    """The path of one of the account's own fields: "Date of birth" is `contact.fields.Date_of_birth`."""
    return OWN_FIELD + _own_name(name)


def detail_path(name: str) -> str:
    """The path of a detail of the account's own: "Where to park" is `account.details.Where_to_park`."""
    return OWN_DETAIL + _own_name(name)


def booking_path(name: str) -> str:
    """The path of the page that a type of appointment is booked on: "Taster sail" is `account.book.Taster_sail`."""
    return BOOKING_PAGE + _own_name(name)


def times_path(name: str) -> str:
    """The path of its next free times: "Taster sail" is `account.times.Taster_sail`."""
    return FREE_NEXT + _own_name(name)


@lru_cache(maxsize=10_000)
def _own_name(name: str) -> str:
    """A field's name as a template can say it; the name itself wherever it can."""
    said = re.sub(r"\W+", "_", name).strip("_")
    return said if said.isidentifier() else f"_{said}"


def is_known(path: str) -> str:
    """What a merge field is called; empty when there is none of that path."""
    for own, said in OWN.items():
        if path.startswith(own):
            return said.format(path.removeprefix(own).replace("_", " "))
    return PATHS[path].label if path in PATHS else ""


class BadTemplate(ValueError):
    """A message that cannot be rendered; its text says why, for the person who wrote it. `step`: at which line, where
    one is known."""

    step = ""


class _Strict(Environment):
    output_stream_limit = LONGEST_OUTPUT
    local_namespace_limit = 10_000
    loop_iteration_limit = 1
    context_depth_limit = 5
    block_nesting_limit = 10


def _environment() -> Environment:
    env = _Strict()
    for name in set(env.tags) - ALLOWED_TAGS:
        del env.tags[name]
    for name in set(env.filters) - ALLOWED_FILTERS:
        del env.filters[name]
    return env


_ENVIRONMENT = _environment()
_OUTPUT = re.compile(r"\{\{\s*([\w.]+)\s*(\|\s*default:\s*(?:\"([^\"]*)\"|'([^']*)'))?[^{}]*\}\}")


@lru_cache(maxsize=2_000)
def _parse(body: str):  # type: ignore[no-untyped-def]  # python-liquid's template class
    if len(body) > LONGEST_TEMPLATE:
        raise BadTemplate(f"longer than {LONGEST_TEMPLATE:,} characters")
    if body.count("{{") + body.count("{%") > MOST_OPENED:
        raise BadTemplate(f"has more than {MOST_OPENED} merge fields")
    try:
        return _ENVIRONMENT.from_string(body)
    except LiquidError as error:
        raise BadTemplate(f"cannot be read: {error.message}") from None


Piece = str | tuple[tuple[str, ...], str | None]  # words as they are; or a merge field's path, and words for when empty
_PLAIN = re.compile(r"\{\{\s*([\w.]+)\s*(?:\|\s*default:\s*(?:\"([^\"{}\\]*)\"|'([^'{}\\]*)')\s*)?\}\}")


@lru_cache(maxsize=2_000)
def _pieces(body: str) -> tuple[Piece, ...]:
    """A body of words and plain merge fields, as most are, cut up; empty when it needs all of Liquid."""
    pieces, at = list[Piece](), 0
    for found in _PLAIN.finditer(body):
        path, words = found[1], found[2] if found[2] is not None else found[3]
        own = next((path.removeprefix(start) for start in OWN if path.startswith(start)), "")
        if not (path in PATHS or (own.isidentifier() and own not in ("size", "first", "last"))):
            return ()
        pieces += [body[at : found.start()], (tuple(path.split(".")), words)]
        at = found.end()
    pieces.append(body[at:])
    plain = all("{" not in piece and "}" not in piece for piece in pieces if isinstance(piece, str))
    return tuple(pieces) if plain and len(body) <= LONGEST_TEMPLATE else ()


def render(body: str, facts: Facts, about: Mapping[str, str] | None = None) -> str:
    """The body as this contact would read it; `about` names the appointment and deal it is about, if any, and whoever of the team
    caused it (`causer`).
    Raises BadTemplate.

    Words with plain merge fields are put together here, which is many times quicker than Liquid and gives the same
    (a test holds the two together); everything else is Liquid's.
    """
    if "{" not in body:
        if len(body) > LONGEST_TEMPLATE:
            raise BadTemplate(f"longer than {LONGEST_TEMPLATE:,} characters")
        return body
    pieces = _pieces(body)
    if pieces:
        return _put_together(pieces, _names(facts, about))
    return render_with_liquid(body, facts, about)


def render_with_liquid(body: str, facts: Facts, about: Mapping[str, str] | None = None) -> str:
    """What `render` gives, always by Liquid. Raises BadTemplate."""
    template = _parse(body)
    try:
        return str(template.render(**_names(facts, about)))
    except LiquidError as error:
        raise BadTemplate(f"cannot be rendered: {error.message}") from None


def _put_together(pieces: Sequence[Piece], names: Mapping[str, Any]) -> str:
    words = []
    for piece in pieces:
        if isinstance(piece, str):
            words.append(piece)
            continue
        value: Any = names
        for name in piece[0]:
            value = value.get(name, "")
            if not value:
                break
        words.append(value or piece[1] or "")
    made = "".join(words)
    if len(made) > LONGEST_OUTPUT // 4 and len(made.encode()) > LONGEST_OUTPUT:
        raise BadTemplate("cannot be rendered: output limit reached")
    return made


# Marks that set a direction of writing (Unicode Standard Annex 9), and what keeps them to the name they stand in.
_DIRECTION = re.compile("[\u200e\u200f\u202a-\u202e\u2066-\u2069]")
_ISOLATED = "\u2068{}\u2069"


def _name(text: str) -> str:
    """A name as it stands in a sentence: one of blanks is none, a mark in it turns nothing around it, and one that is a link
    is no name: it would go out under the account's."""
    said = text.strip()
    if "://" in said or said.lower().startswith("www."):
        return ""
    return _ISOLATED.format(said) if _DIRECTION.search(said) else said


def _names(facts: Facts, about: Mapping[str, str] | None) -> dict[str, dict[str, Any]]:
    """What a template can see: names of names of words."""
    contact, account, member = facts.contact, facts.account, facts.member
    names: dict[str, dict[str, Any]] = {
        "contact": {
            "first_name": _name(contact.first_name),
            "last_name": _name(contact.last_name),
            "email": contact.email,
            "mobile": contact.mobile,
            "preferences_link": contact.preferences_link,
            "fields": {_own_name(name): _shown(value, account.language) for name, value in contact.fields.items()}
            if contact.fields
            else {},
        },
        "account": _Business(
            facts,
            name=account.name,
            phone=account.phone,
            booking_link=account.booking_link,
            signature=account.signature,
            web_page=account.web_page,
            postal_address=account.postal_address,
            book={_own_name(name): page for name, page in account.booking_pages.items()}
            if account.booking_pages
            else {},
            times=_FreeNext(facts) if account.booking_pages else {},
            details={_own_name(name): words for name, words in account.details.items()} if account.details else {},
        ),
        "member": {
            "first_name": member.first_name,
            "name": member.name,
            "phone": member.phone,
            "signature": member.signature or member.name,
        },
    }
    if causer := (about or {}).get("causer", ""):
        names["causer"] = {"name": causer, "first_name": causer.split(" ")[0]}
    return names | _about(facts, about) if contact.appointments or contact.deals else names


class _Business(dict[str, Any]):
    """What an account says of itself; its hours are put into words only where they are asked for."""

    def __init__(self, facts: Facts, **said: Any) -> None:
        super().__init__(said)
        self.facts = facts

    def __missing__(self, name: str) -> str:
        if name != "opening_hours":
            raise KeyError(name)
        return self.get(name, "")

    def get(self, name: str, otherwise: Any = None) -> Any:
        if name != "opening_hours":
            return super().get(name, otherwise)
        return week_in_words(self.facts.account.care.opening, self.facts.account.language)


class _FreeNext(Mapping[str, str]):
    """The next free times of a type, by its name as a template says it; looked up only for the one that is named."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        self.types = {_own_name(name): name for name in facts.account.booking_pages}

    def __getitem__(self, name: str) -> str:
        language = self.facts.account.language
        lines = []
        for start, link in self.facts.account.free_next(self.types[name]):
            local = to_local(start, self.facts.zone)
            lines.append(f"{weekday_in(language, local.date())}, {time_in(language, local)}: {link}")
        return "\n".join(lines)

    def __iter__(self) -> Iterator[str]:
        return iter(self.types)

    def __len__(self) -> int:
        return len(self.types)


def _shown(value: object, language: str) -> object:
    """A field's value as people read it: "3 April 1987", "yes", "Dinghy, Kayak"."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case tuple():
            return ", ".join(value)
        case date():
            return date_in(language, value)
        case Decimal():
            return f"{value:f}"
    return str(value)


def _about(facts: Facts, about: Mapping[str, str] | None) -> dict[str, dict[str, str]]:
    """The appointment and the deal, as words; the ones it is about, else the only ones there are."""
    contact, about = facts.contact, about or {}
    appointment = contact.appointment(about.get("appointment", ""))
    if appointment is None and len(contact.appointments) == 1:
        appointment = contact.appointments[0]
    deal = contact.deal(about.get("deal", "")) or (contact.deals[0] if len(contact.deals) == 1 else None)
    known: dict[str, dict[str, str]] = {}
    if appointment:
        start = to_local(appointment.start, facts.zone)
        known["appointment"] = {
            "type": appointment.type,
            "day": weekday_in(facts.account.language, start.date()),
            "time": time_in(facts.account.language, start),
            "place": appointment.place,
            "member": appointment.member,
            "link": appointment.link or MADE_UP,
        }
    if deal:
        known["deal"] = {
            "name": deal.name,
            "stage": deal.stage,
            "pipeline": deal.pipeline,
            "worth": f"{deal.value.normalize():f}" if deal.value else "",
            "owner": deal.owner,
        }
    return known


@dataclass(frozen=True, slots=True)
class Use:
    """One merge field used in a body; `words` are those for when it is empty, None when there are none; `source`
    is how it stands in the body."""

    path: str
    words: str | None
    source: str


def uses(body: str) -> list[Use]:
    return [Use(m[1], (m[3] or m[4] or "") if m[2] else None, m[0]) for m in _OUTPUT.finditer(body)]


def faults(body: str) -> list[str]:
    """What is wrong with a body as a template, in words; empty when nothing is."""
    try:
        render(body, Facts())  # some faults, like an unknown filter, show only then
    except BadTemplate as error:
        return [str(error)]
    return [f"“{use.path}” is not a merge field" for use in uses(body) if not is_known(use.path)]


def readable(body: str) -> str:
    """A body as people read it on paper: "Hello [first name, or “there”]". What is no merge field stays as it is."""
    for use in uses(body):
        label = is_known(use.path) or use.path
        words = "" if use.words is None else f", or “{use.words}”" if use.words else ", or nothing"
        body = body.replace(use.source, f"[{label}{words}]")
    return body
