"""Sentences with a count in them are said for 0, 1, 2 and many, and agree with it: nothing says "1 calls", "5 of them comes"
or the same words twice."""

import re
from collections.abc import Iterator
from typing import Any

import pytest

from bluffside.core.conditions.activity import KINDS as ACTIVITIES
from bluffside.core.conditions.activity import CountTest
from bluffside.core.conditions.expression import TESTS, NoneOf
from bluffside.core.conditions.person import TagTest
from bluffside.core.steps import KINDS as STEPS
from bluffside.core.triggers import TRIGGERS

COUNTS = (0, 1, 2, 1_204)
ONE = "call|text|email|message|person|day|hour|minute|form|time|reply|task|line|letter"
SEVERAL = "calls|texts|emails|messages|people|days|hours|minutes|forms|times|replies|tasks|lines|letters"
PLURAL_OF_ONE = re.compile(rf"\b1 (?:[a-z]+ )?(?:{SEVERAL})\b")
SINGULAR_OF_MANY = re.compile(rf"\b(?:0|2|[\d,]{{4,}}) (?:{ONE})\b")
TWICE = re.compile(r"\b(\w+) \1\b", re.IGNORECASE)
BROKEN = re.compile(r"  |\.,|,,|\.\.|[{}]|\bNone\b")


def said_of(kind: Any, **values: Any) -> str:
    return str(kind(**values).describe())


def sentences() -> Iterator[str]:
    for activity in ACTIVITIES:
        for count in COUNTS:
            for compare in ("at_least", "more_than", "fewer_than", "exactly"):
                yield said_of(CountTest, activity=activity, compare=compare, number=count)
    for test in TESTS:
        yield str(test().describe())
    for step in STEPS.values():
        yield str(step.blank().describe())
    for name, trigger in TRIGGERS.items():
        yield str(trigger(kind=name).describe())


@pytest.mark.parametrize("sentence", sorted(set(sentences())))
def test_a_sentence_agrees_with_its_count(sentence: str) -> None:
    for fault in (PLURAL_OF_ONE, SINGULAR_OF_MANY, TWICE, BROKEN):
        assert not fault.search(sentence), sentence


def test_what_is_not_so_is_said_plainly() -> None:
    tags = (TagTest(tag="a", has=True), TagTest(tag="b", has=True))
    assert NoneOf(of=tags[:1]).describe() == "not so: has the tag “a”"
    assert NoneOf(of=tags).describe() == "none of this: has the tag “a” or has the tag “b”"
