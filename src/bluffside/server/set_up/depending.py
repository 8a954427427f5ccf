"""What depends on a setting: the workflows that keep it, or break it, as they are published now."""

from collections.abc import Callable, Iterable
from functools import partial
from typing import NamedTuple

from bluffside.core.care.house import RuleName
from bluffside.core.messages.closing import closing
from bluffside.core.messages.merge import FIELDS, detail_path, uses
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.house import House
from bluffside.core.workflow.house_rules import HOUSE_RULES, HouseRule, keeps
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import some_preferences_link
from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Workflow
from bluffside.server.workflows.versions import published_document


class Named(NamedTuple):
    """A workflow, to go there."""

    id: int
    name: str


class Kept(NamedTuple):
    """A house rule, and the workflows that break it."""

    name: RuleName
    broken: list[Named]


Published = dict[Named, Document]


def published(account: Account) -> Published:
    rows = Workflow.objects.filter(account=account, archived_at=None, published__isnull=False).order_by("name")
    return {Named(one.id, one.name): published_document(one.published_id or 0) for one in rows}


def those(workflows: Published, fits: Callable[[Document], bool]) -> list[Named]:
    return [one for one, document in workflows.items() if fits(document)]


def merging(workflows: Published, names: Iterable[str]) -> dict[str, list[Named]]:
    """The workflows whose messages merge a detail of the business, by its path: those all accounts have, and `names`."""
    paths = [one.path for one in FIELDS if one.path.startswith("account.")] + [detail_path(name) for name in names]
    used = {one: _paths(document) for one, document in workflows.items()}
    return {path: [one for one, found in used.items() if path in found] for path in paths}


def _paths(document: Document) -> set[str]:
    spoken = (step for step in walk(document.steps) if isinstance(step, Speaking))
    texts = (text for step in spoken for one in step.versions().values() for text in one.texts())
    return {use.path for text in texts for use in uses(text)}


def house_rules(account: Account, workflows: Published) -> list[Kept]:
    care = account_facts(account).care
    below = closing("text", "", some_preferences_link(account.id), care)
    house = House(account.zone, account.name, care, closing=below)
    return [Kept(rule.name, those(workflows, partial(_breaks, house, rule))) for rule in HOUSE_RULES]


def _breaks(house: House, rule: HouseRule, document: Document) -> bool:
    return not keeps(document, house, rule)
