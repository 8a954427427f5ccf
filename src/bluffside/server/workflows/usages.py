"""What workflows and the lead score name, and another name put in the place of one."""

from collections.abc import Iterator

from bluffside.core.messages.merge import own_path
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.references import Reference, named, references, renamed
from bluffside.server.people.models import Field
from bluffside.server.people.usages import Use
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import writing
from bluffside.server.workflows.library import draft_of, running
from bluffside.server.workflows.models import Sort, Workflow
from bluffside.server.workflows.scoring import rules_of, set_rules
from bluffside.server.workflows.versions import SUBJECTS, answer_to, published_document


class Workflows:
    """What drafts and the versions that run name: tags, forms, fields, messages that are alike, and the rest."""

    def uses(self, account: Account) -> Iterator[Use]:
        fields = {own_path(name): name for name in Field.objects.filter(account=account).values_list("name", flat=True)}

        def called(one: Reference) -> tuple[str, str]:
            return one.kind, fields.get(own_path(one.name), one.name) if one.kind == "field" else one.name

        workflows = list(Workflow.written.filter(account=account, archived_at=None))
        versions = running(workflows)
        for workflow in workflows:
            document = draft_of(workflow)
            said = {step.id: step.describe() for step in walk(document.steps)} | {"": "Starts, entry or leaving"}
            here = (workflow.id, workflow.name)
            written = references(document)
            runs = {called(one) for id in versions[workflow.id] for one in references(published_document(id))}
            for one in written:
                yield Use(*called(one), "workflow", *here, said[one.step], one.sets, one.step, called(one) in runs)
            for kind, name in runs - {called(one) for one in written}:
                yield Use(kind, name, "workflow", *here, "Not in the draft, but in a version that runs.", runs=True)
            if workflow.sort == Sort.MESSAGE:
                continue
            for step in walk(document.steps):
                if step.speaks and (title := getattr(step, "title", "")):
                    yield Use("message", title, "workflow", *here, said[step.id], False, step.id)

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        """In the drafts. Versions that run answer to the former words of a stage or pipeline; of what else there is, nothing that
        runs has another name (`people.usages.give_name`)."""
        if kind in SUBJECTS:
            answer_to(account, kind, old, new)
        for workflow in Workflow.written.filter(account=account, archived_at=None):
            document = draft_of(workflow)
            changed = renamed(document, {(kind, old): new})
            if changed != document:
                writing.save_draft(workflow, changed, workflow.revision, by)


class Scores:
    """What the rules of the lead score name."""

    def uses(self, account: Account) -> Iterator[Use]:
        if rules := rules_of(account):
            for rule in rules.all:
                for kind, name in named(rule):
                    yield Use(kind, name, "score", account.pk, rule.name, f"{rule.points:g} points.")

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        if rules := rules_of(account):
            set_rules(account, renamed(rules, {(kind, old): new}))
