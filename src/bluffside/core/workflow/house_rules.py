"""The house rules that are kept when a workflow is written: what it should not be, checked before it is published. What is kept
while it runs (quiet hours, limits, pauses, speed) is the care's own.

A rule is one entry of HOUSE_RULES; the account says of each whether it warns or refuses (`Care.refuses`).
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from bluffside.core.care.house import RuleName
from bluffside.core.channels.text_parts import measure
from bluffside.core.messages.merge import uses
from bluffside.core.steps.speaking import Speaking
from bluffside.core.words import counted
from bluffside.core.workflow.check import Check, Severity
from bluffside.core.workflow.counts import most_touches
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.house import A_MONDAY, House
from bluffside.core.workflow.timeline import time_line

NO_END = 1_000_000
SAYS_WHO = ("account.name", "account.signature")


@dataclass(frozen=True, slots=True)
class HouseRule:
    """`breaks` gives where a workflow breaks it: a check's code, the line (empty: the whole), a sentence."""

    name: RuleName
    breaks: Callable[[Workflow, House], Iterator[tuple[str, str, str]]]


def house_rule_checks(workflow: Workflow, house: House) -> Iterator[Check]:
    for rule in HOUSE_RULES:
        severity: Severity = "error" if rule.name in house.care.refuses else "warning"
        for code, step, sentence in rule.breaks(workflow, house):
            yield Check(code, step, severity, sentence)


def keeps(workflow: Workflow, house: House, rule: HouseRule) -> bool:
    return next(rule.breaks(workflow, house), None) is None


def _too_long(workflow: Workflow, house: House) -> Iterator[tuple[str, str, str]]:
    most = house.care.longest_days
    if most and (days := time_line(workflow, A_MONDAY, house.zone).last_day) > most:
        yield "too-long", "", f"It takes {counted(days, 'day')}; the house rule is {most} at the longest."


def _too_many_touches(workflow: Workflow, house: House) -> Iterator[tuple[str, str, str]]:
    most = house.care.most_touches
    if most and (touches := most_touches(workflow.steps)) > most:
        yield "too-many-touches", "", f"It has {touches} touches; the house rule is {most} at the most."


def _split(workflow: Workflow, house: House) -> Iterator[tuple[str, str, str]]:
    """Texts that carriers split into more parts than wanted, with what stands under them; merge fields make a length
    uncertain."""
    most = house.care.most_text_parts or NO_END
    for step in walk(workflow.steps):
        text = step.versions().get("text") if isinstance(step, Speaking) else None
        if text and "{" not in text.body and (parts := measure(text.body + house.closing).parts) > most:
            own = " with the link that stands under it" if house.closing and measure(text.body).parts < parts else ""
            yield "text-split", step.id, f"“{text.name}” is split into {parts} parts{own}."


def _says_not_who(workflow: Workflow, house: House) -> Iterator[tuple[str, str, str]]:
    """The first text of a workflow, if it names the business by none of its merge fields and not in words."""
    if not house.care.first_text_says_who:
        return
    for step in walk(workflow.steps):
        text = step.versions().get("text") if isinstance(step, Speaking) else None
        if text:
            named = any(use.path in SAYS_WHO for use in uses(text.body))
            if not named and not (house.business and house.business.casefold() in text.body.casefold()):
                yield "says-not-who", step.id, f"“{text.name}” is the first text, and does not say who writes."
            return


HOUSE_RULES = (
    HouseRule("longest_days", _too_long),
    HouseRule("most_touches", _too_many_touches),
    HouseRule("most_text_parts", _split),
    HouseRule("first_text_says_who", _says_not_who),
)
