"""Whether anything that is written holds something by the figures it is known by: a picture, a file."""

from django.db.models import QuerySet, TextField
from django.db.models.functions import Cast

from bluffside.server.practice.models import Account
from bluffside.server.workflows.models import Version, Workflow


def is_written(account: Account, known_by: str) -> bool:
    """In a draft, or in a version, also one that runs no more."""
    drafts, versions = Workflow.written.filter(account=account), Version.objects.filter(account=account)
    return holds(drafts, "draft", known_by) or holds(versions, "document", known_by)


def holds(rows: QuerySet, field: str, known_by: str) -> bool:  # type: ignore[type-arg]  # of any model
    """Whether the JSON of one of the rows has it."""
    return bool(rows.annotate(text=Cast(field, TextField())).filter(text__contains=known_by).exists())
