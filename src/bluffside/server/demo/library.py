"""The library of the sailing account: messages that its workflows say, one with words that are not published yet, one nobody says yet."""

from datetime import timedelta

from bluffside.core.channel_kinds.email import EmailMessage
from bluffside.core.steps import KINDS
from bluffside.core.steps.speaking import Speaking
from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.document import walk
from bluffside.core.workflow.library import LINE, message_of
from bluffside.server.demo.ways_in import At
from bluffside.server.practice.models import Account, Person
from bluffside.server.workflows import publishing_messages, showing, writing
from bluffside.server.workflows.models import Workflow

LABELS = {"Still thinking": ["taster"], "What the harbour is doing": ["season"], "First dates of the year": ["season"]}
VOUCHER = """Hello {{ contact.first_name | default: "sailor" }},

a day on the water fits under any tree. Vouchers are here: https://tern-harbour.example.com/vouchers

{{ account.name }}"""


def keep_said(account: Account, document: Document, by: Person) -> None:
    """What lines of a script say from the library is kept there first."""
    for step in walk(document.steps):
        if isinstance(step, Speaking) and step.library:
            made = publishing_messages.keep(account, step.library, step, by)
            made.labels = LABELS.get(step.library, [])
            made.save(update_fields=["labels"])


def live(account: Account, by: Person, before_the_end: At) -> None:
    before_the_end(timedelta(days=2), lambda: _think_again(account, by))
    before_the_end(timedelta(days=1), lambda: _begin(account, by))
    before_the_end(timedelta(hours=22), lambda: _show(account, by))


def _think_again(account: Account, by: Person) -> None:
    row = Workflow.written.get(account=account, name="What the harbour is doing", sort="message")
    document = writing.draft_of(row)
    line = message_of(document)
    if line is None:
        return
    wording: EmailMessage = line.versions()["email"]  # type: ignore[assignment]
    later = wording.model_copy(update={"body": wording.body.replace("Saturdays at ten", "Sundays at eleven")})
    other = document.model_copy(update={"steps": (line.model_copy(update={"message": later}),)})
    writing.save_draft(row, other, row.revision, by)


def _show(account: Account, by: Person) -> None:
    """To the client: one is agreed to, about the other there is a remark that nobody has answered yet."""
    rows = Workflow.written.filter(account=account, sort="message")
    agreed = showing.show(rows.get(name="Still thinking"), "Ros Penhale", "", by)
    showing.agree(agreed.pk, "Ros Penhale")
    asked = showing.show(
        rows.get(name="A voucher for the tree"), "Ros Penhale", "For December. Is the page the right one?", by
    )
    showing.remark(asked.pk, LINE, "Ros Penhale", "The page is right. Could it say that a voucher holds for two years?")


def _begin(account: Account, by: Person) -> None:
    words = {"name": "A voucher for the tree", "subject": "A day on the water, under the tree", "body": VOUCHER}
    line = KINDS["email"].model_validate({"kind": "email", "id": LINE, "message": words})
    made = publishing_messages.create(account, words["name"], line, by)  # type: ignore[arg-type]
    made.labels = ["season"]
    made.save(update_fields=["labels"])
