"""Conditions: one typed expression over a contact and what belongs to it, read in several ways.

base.py         what every test is: holds, describes itself, shows what it saw, says what facts it needs
person.py       tags, fields of every kind, lists, reach, consent, score, who is responsible
deals.py        any deal such that; appointments such that
activity.py     counts ("fewer than 3 calls in 30 days"), events within a time, message behaviour
clock.py        local time of day, weekday
expression.py   all / any / none of several, nested; the union that documents are parsed with

server/segments compiles the same expression to SQL.
"""

from bluffside.core.conditions.activity import CountTest, EventTest, MessageTest
from bluffside.core.conditions.base import Case, Need, Test
from bluffside.core.conditions.clock import TimeTest, WeekdayTest
from bluffside.core.conditions.deals import AppointmentTest, DealTest
from bluffside.core.conditions.expression import AllOf, AnyOf, Condition, NoneOf
from bluffside.core.conditions.person import (
    ConsentTest,
    FieldTest,
    ListTest,
    OwnerTest,
    ReachTest,
    ScoreTest,
    TagTest,
)

__all__ = [
    "AllOf",
    "AnyOf",
    "AppointmentTest",
    "Case",
    "Condition",
    "ConsentTest",
    "CountTest",
    "DealTest",
    "EventTest",
    "FieldTest",
    "ListTest",
    "MessageTest",
    "Need",
    "NoneOf",
    "OwnerTest",
    "ReachTest",
    "ScoreTest",
    "TagTest",
    "Test",
    "TimeTest",
    "WeekdayTest",
]
