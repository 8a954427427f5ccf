"""All checks of a workflow: those of the document alone, and those that need to know the account around it."""

from collections.abc import Sequence

from bluffside.core.workflow.account_checks import check_in_house
from bluffside.core.workflow.check import Check
from bluffside.core.workflow.document import Workflow, walk
from bluffside.core.workflow.document_checks import check_alone
from bluffside.core.workflow.house import House

ABOUT_HOURS = ("any-hour", "wide-hours")  # what the account's own quiet hours see to


def check(workflow: Workflow, house: House | None = None) -> list[Check]:
    """Those of the workflow itself first, then in the order of the script."""
    found = check_alone(workflow)
    if house:
        quiet = any(one.concern("text", "marketing") for one in house.care.quiet)
        found = [one for one in found if not (quiet and one.code in ABOUT_HOURS)] + check_in_house(workflow, house)
    order = {step.id: number for number, step in enumerate(walk(workflow.steps), start=1)}
    return sorted(found, key=lambda one: order.get(one.step, 0))


def can_publish(checks: Sequence[Check]) -> bool:
    return all(one.severity != "error" for one in checks)


__all__ = ["Check", "can_publish", "check"]
