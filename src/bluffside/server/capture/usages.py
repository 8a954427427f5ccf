"""The names by which workflows know what people come in by, and what forms, rules and sources of leads name themselves."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from django.db import transaction

from bluffside.server.capture.deals_made import MakesDeal
from bluffside.server.capture.incoming import Acts, rules_of
from bluffside.server.capture.models import Form, IncomingRule, LeadSource
from bluffside.server.people.usages import Place, Use, give_name, swapped
from bluffside.server.practice import connections
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name
from bluffside.server.workflows.models import Workflow


def names(account: Account) -> dict[str, dict[str, str]]:
    """Forms, sources of leads, words that rules listen to, with what is worth knowing of each; and tags that forms and
    sources give."""
    forms = Form.objects.filter(account=account)
    rules = IncomingRule.objects.filter(account=account)
    set_by_them = {use.name for use in (*FORMS.uses(account), *SOURCES.uses(account)) if use.kind == "tag" and use.sets}
    return {
        "tag": dict.fromkeys(set_by_them, ""),
        "form": {one.name: "the team fills it in" if one.for_team else "" if one.open else "closed" for one in forms},
        "source": {one.name: "" if one.on else "off" for one in LeadSource.objects.filter(account=account)},
        "keyword": {word: "a rule for what comes in" for one in rules for word in one.words},
    }


@dataclass(frozen=True)
class Filling:
    """Documents whose parts fill fields and which give tags and lists: where they are kept, in which of its columns, in
    which list of that the parts stand, and what is said of one."""

    place: Place
    model: type[Form] | type[LeadSource]
    column: str
    parts: str
    sentence: str

    def uses(self, account: Account) -> Iterator[Use]:
        for one in self.model.objects.filter(account=account):
            document = getattr(one, self.column)
            for part in document.get(self.parts, ()):
                kind, _, name = part.get("fills", "").partition(":")
                if name:
                    yield Use(kind, name, self.place, one.pk, one.name, self.sentence.format(**part), kind == "field")
            yield from _given(self.place, one.pk, one.name, document)
            if made := document.get("deal"):
                yield from MakesDeal.model_validate(made).uses(self.place, one.pk, one.name)

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        for one in self.model.objects.filter(account=account).select_for_update():
            document = getattr(one, self.column)
            made = document.get("deal") or {}
            named = kind in ("pipeline", "stage") and made.get(kind) == old
            if named:
                made[kind] = new
            if named or _swap(document, kind, old, new) or _filled(document.get(self.parts, ()), kind, old, new):
                one.save(update_fields=[self.column])


FORMS = Filling("form", Form, "design", "questions", "Asks “{label}”.")
SOURCES = Filling("source", LeadSource, "matching", "fields", "Is filled from {path}.")


@transaction.atomic
def rename(one: Form | LeadSource, name: str, by: Person) -> None:
    """By its name workflows, segments and scores know it: they name it by the new one; its address stays. Raises NotAName,
    also when a workflow runs with the old one."""
    kind = (FORMS if isinstance(one, Form) else SOURCES).place
    name = free_name(type(one), kind, one.account, name, one.pk)
    give_name(one.account, kind, one.name, name, by)
    if isinstance(one, LeadSource):
        connections.called_anew(one.account, "source", one.name, name)
    one.name = name
    one.save(update_fields=["name"])


class Rules:
    def uses(self, account: Account) -> Iterator[Use]:
        workflows = dict(Workflow.objects.filter(account=account).values_list("id", "name"))
        for one in rules_of(account):
            acts, title = Acts.model_validate(one.acts), f"“{'”, “'.join(one.words)}”"
            yield from _given("rule", one.pk, title, one.acts)
            for kind, named in (("tag", acts.tags_off), ("list", acts.lists_off)):
                for name in named:
                    yield Use(kind, name, "rule", one.pk, title, "Takes it away.", True)
            if acts.assign:
                yield Use("member", acts.assign, "rule", one.pk, title, "Gives people to them.")
            if acts.workflow in workflows:
                yield Use("workflow", workflows[acts.workflow], "rule", one.pk, title, "Enrols people in it.")

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        for one in IncomingRule.objects.filter(account=account).select_for_update():
            if _swap(one.acts, kind, old, new) | _swap(one.acts, f"{kind}_off", old, new):
                one.save(update_fields=["acts"])


# How these documents call the lists of names in them.
LISTS = {"tag": "tags", "list": "lists", "tag_off": "tags_off", "list_off": "lists_off"}


def _given(place: Place, id: int, title: str, document: dict[str, list[str]]) -> Iterator[Use]:
    for kind in ("tag", "list"):
        for name in document.get(LISTS[kind], ()):
            yield Use(kind, name, place, id, title, "People get it." if kind == "tag" else "People come onto it.", True)


def _swap(document: dict[str, list[str]], kind: str, old: str, new: str) -> bool:
    """Whether it named the old one; then it names the new one."""
    held = document.get(LISTS.get(kind, ""), [])
    if old not in held:
        return False
    document[LISTS[kind]] = swapped(held, old, new)
    return True


def _filled(parts: Iterable[dict[str, str]], kind: str, old: str, new: str) -> bool:
    """The same for what fills a field, or is a time of a type of appointment ("field:Boat")."""
    hits = [one for one in parts if one.get("fills") == f"{kind}:{old}"]
    for one in hits:
        one["fills"] = f"{kind}:{new}"
    return bool(hits)
