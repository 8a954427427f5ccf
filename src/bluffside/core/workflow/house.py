"""What the checks may know of the account around a workflow. What is None is not known, and not checked."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import NamedTuple

from bluffside.core.care.house import Care
from bluffside.core.terms import Channel
from bluffside.core.workflow.document import Workflow

A_MONDAY = datetime(2026, 3, 2, 9, tzinfo=UTC)  # days are counted as if joining then


@dataclass(frozen=True, slots=True)
class People:
    """How many people are concerned; how many of them each channel cannot reach (no address, or not allowed),
    and how many have nothing in a field, by its merge path ("contact.first_name")."""

    count: int
    beyond: Mapping[Channel, int] = field(default_factory=dict)
    empty: Mapping[str, int] = field(default_factory=dict)


class Trouble(NamedTuple):
    """Why a connection does not work, as a sentence; `stops`: what needs it cannot be published."""

    why: str
    stops: bool = True


@dataclass(frozen=True, slots=True)
class House:
    """
    business  its name
    others    the account's other published workflows
    drafts    names of workflows that are written and not published yet
    now       the moment of checking
    tags      tags that somebody has, or that forms, imports and rules put on people
    details   of the business, of its own choosing
    types     of appointment; `booking_pages`: those that anybody can book on a page
    clients   names of the practice's other accounts, which nobody here is to read
    library   messages that are published, which lines may say
    files     digests of the files that emails can carry
    out_of_order   connections that do not work, by kind and name (Step.connections)
    arrivals  how many people come in a month, as it has been; `usual`: how many of a hundred of them reach the aim
    closing   what stands under a text, as long as it usually is (messages.closing)
    """

    zone: str = "UTC"
    business: str = ""
    care: Care = Care()
    others: tuple[Workflow, ...] | None = None
    drafts: frozenset[str] = frozenset()
    now: datetime | None = None
    tags: frozenset[str] | None = None
    fields: frozenset[str] | None = None
    forms: frozenset[str] | None = None
    sources: frozenset[str] | None = None
    lists: frozenset[str] | None = None
    details: frozenset[str] | None = None
    types: frozenset[str] | None = None
    booking_pages: frozenset[str] | None = None
    out_of_order: Mapping[tuple[str, str], Trouble] = field(default_factory=dict)
    postal_address: str | None = None
    clients: frozenset[str] = frozenset()
    library: frozenset[str] | None = None
    files: frozenset[str] | None = None
    closing: str = ""
    arrivals: float | None = None
    usual: float = 20
    people: People | None = None
