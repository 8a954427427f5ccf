"""A message of the library written once to some people: a workflow of one line underneath, with the same checks, reasons and figures."""

from bluffside.core.terms import CHANNELS
from bluffside.core.timing.local import to_local
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.library import LINE
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import library, writing
from bluffside.server.workflows.models import Sort, Workflow


class NotPublished(ValueError):
    """In words."""


def once(account: Account, message: Workflow, by: Person) -> Workflow:
    """The workflow that says it, published and open; nobody is in it yet. Raises NotPublished, writing.CannotPublish."""
    line = library.words_of(account.id).get(message.name)
    if line is None:
        raise NotPublished(f"“{message.name}” is not published yet: publish it, and then write it to people.")
    day = to_local(clock.now(), account.zone)
    name = f"{message.name[:100]}, {day.day} {day:%B}"
    hours = {"start": "09:00", "end": "19:00"} if any(one in CHANNELS for one in line.versions()) else None
    said = line.model_copy(update={"id": LINE, "library": message.name})
    document = Document.model_validate({"name": name, "hours": hours, "steps": [said.model_dump(mode="json")]})
    made = writing.create(account, document, by)
    made.sort = Sort.ONCE
    made.save(update_fields=["sort"])
    writing.publish(made, made.revision, by)
    return Workflow.objects.select_related("account", "published").get(pk=made.pk)
