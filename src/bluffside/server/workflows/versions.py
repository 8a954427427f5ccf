"""Published versions, read once: a version never changes, so what is made of it is kept.

What it names may be called otherwise later. Then its `called` says how, and it is read with the new name: a stage answers to its
former words in versions that run. All processes notice by `Account.names_changed`, which each reads with the account.
"""

from functools import lru_cache

from django.db import transaction
from django.db.models import F

from bluffside.core.workflow.document import Workflow as Document
from bluffside.core.workflow.files import parse_workflow
from bluffside.core.workflow.program import Program, compile_workflow
from bluffside.core.workflow.references import references, renamed
from bluffside.server.practice import walls
from bluffside.server.practice.models import Account
from bluffside.server.workflows.library import said
from bluffside.server.workflows.models import Start, Version

SUBJECTS = {
    "stage": ("stage.changed", "deal.rested"),
    "pipeline": ("deal.created", "deal.won", "deal.lost"),
    "message": ("message.sent", "link.clicked", "reply.received"),
}  # what starts go by


def reading(version: Version) -> Document:
    """The document, with what it names as that is called now, and the words that messages of the library have now."""
    document = parse_workflow(version.document)
    for kind, old, new in version.called:
        document = renamed(document, {(kind, old): new})
    return said(version.account_id, document)


def published_document(version_id: int) -> Document:
    account = _account_of(version_id)
    read = _document if walls.is_settled(account) else _document.__wrapped__
    return read(version_id, walls.names_changed(account))


def program_of(version_id: int) -> Program:
    account = _account_of(version_id)
    read = _program if walls.is_settled(account) else _program.__wrapped__
    return read(version_id, walls.names_changed(account))


@lru_cache(maxsize=20_000)
def _account_of(version_id: int) -> int:
    return Version.objects.values_list("account_id", flat=True).get(id=version_id)


@lru_cache(maxsize=2_000)
def _document(version_id: int, names_changed: int) -> Document:
    return reading(Version.objects.get(id=version_id))


@lru_cache(maxsize=2_000)
def _program(version_id: int, names_changed: int) -> Program:
    return compile_workflow(published_document(version_id))


@transaction.atomic
def answer_to(account: Account, kind: str, old: str, new: str) -> None:
    """From now on the versions that name something by its old name mean what has the new one. `kind`: of SUBJECTS."""
    for version in Version.objects.select_for_update().filter(account=account).order_by("id"):
        if any((one.kind, one.name) == (kind, old) for one in references(reading(version))):
            version.called = [*version.called, [kind, old, new]]
            version.save(update_fields=["called"])
    Start.objects.filter(account=account, event_kind__in=SUBJECTS[kind], subject=old).update(subject=new)
    read_anew(account)


def read_anew(account: Account) -> None:
    """From this transaction's end on, all processes read the account's versions anew."""
    Account.objects.filter(pk=account.pk).update(names_changed=F("names_changed") + 1)
    account.refresh_from_db(fields=["names_changed"])
    walls.unsettle(account)
