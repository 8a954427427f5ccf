"""Merge fields: `{{ contact.first_name | default: "there" }}`, rendered by Liquid under strict limits.

What a practitioner writes is never run as code: templates see the fields of FIELDS and nothing else,
loops and includes do not exist, and what a template may make is bounded. Words that come from a
contact are only ever values, so "{{" in somebody's name stays those two letters.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

from liquid import Environment
from liquid.exceptions import LiquidError

from bluffside.core.facts import Facts

LONGEST_TEMPLATE = 20_000  # characters
LONGEST_OUTPUT = 100_000  # bytes
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
    MergeField("account.name", "business name"),
    MergeField("account.phone", "business phone"),
    MergeField("account.booking_link", "booking link"),
    MergeField("account.signature", "signature"),
    MergeField("member.first_name", "responsible member’s first name"),
    MergeField("member.phone", "responsible member’s phone"),
)
PATHS = {field.path: field for field in FIELDS}


class BadTemplate(ValueError):
    """A message that cannot be rendered; its text says why, for the person who wrote it."""


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
_OUTPUT = re.compile(r"\{\{\s*([\w.]+)\s*(\|\s*default:\s*(?:\"([^\"]*)\"|'([^']*)'))?")


@lru_cache(maxsize=2_000)
def _parse(body: str):  # type: ignore[no-untyped-def]  # python-liquid's template class
    if len(body) > LONGEST_TEMPLATE:
        raise BadTemplate(f"longer than {LONGEST_TEMPLATE:,} characters")
    try:
        return _ENVIRONMENT.from_string(body)
    except LiquidError as error:
        raise BadTemplate(f"cannot be read: {error.message}") from None


def render(body: str, facts: Facts) -> str:
    """The body as this contact would read it. Raises BadTemplate."""
    template = _parse(body)
    contact, account, member = facts.contact, facts.account, facts.member
    try:
        return str(
            template.render(
                contact={name: getattr(contact, name) for name in ("first_name", "last_name", "email", "mobile")},
                account={name: getattr(account, name) for name in ("name", "phone", "booking_link", "signature")},
                member={name: getattr(member, name) for name in ("first_name", "name", "phone")},
            )
        )
    except LiquidError as error:
        raise BadTemplate(f"cannot be rendered: {error.message}") from None


@dataclass(frozen=True, slots=True)
class Use:
    """One merge field used in a body; `words` are those for when it is empty, None when there are none."""

    path: str
    words: str | None


def uses(body: str) -> list[Use]:
    return [Use(m[1], (m[3] or m[4] or "") if m[2] else None) for m in _OUTPUT.finditer(body)]


def faults(body: str) -> list[str]:
    """What is wrong with a body as a template, in words; empty when nothing is."""
    try:
        render(body, Facts())  # some faults, like an unknown filter, show only then
    except BadTemplate as error:
        return [str(error)]
    return [f"“{use.path}” is not a merge field" for use in uses(body) if use.path not in PATHS]
