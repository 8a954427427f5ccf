"""Deleting an account for good: after it was put away, after a file of everything was made and taken since, and after its name was
typed. From then on nobody enters it; a worker takes its rows away, some thousands at a time, so that nobody else waits, and one
that dies leaves the rest to the next. What stays is a line of the practice: which account, by whom, when, how many rows.
"""

from collections.abc import Iterator
from functools import lru_cache
from typing import Any, NamedTuple

from django.apps import apps
from django.db import models, transaction
from django.db.models import F

from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, AccountExport, Beat, DeletedAccount, Person
from bluffside.server.wake import wake

PART = 5_000  # rows
Model = type[models.Model]


class CannotDelete(ValueError):
    """In words."""


class Order(NamedTuple):
    """The models whose rows carry an account, those first on which no other hangs; `loose`: references that go round in a circle,
    and are let go of before (model and field)."""

    models: tuple[Model, ...]
    loose: tuple[tuple[Model, str], ...]


@transaction.atomic
def delete(account: Account, typed: str, by: Person) -> None:
    """Raises CannotDelete."""
    row = Account.objects.select_for_update().get(id=account.id)
    if why := why_not(row):
        raise CannotDelete(why)
    if " ".join(typed.split()) != row.name:
        raise CannotDelete(f"Type the name as it is written here: {row.name}")
    row.deleting_at = clock.now()
    row.save(update_fields=["deleting_at"])
    DeletedAccount.objects.create(
        practice_id=row.practice_id, number=row.id, name=row.name, by_name=by.name, at=row.deleting_at
    )
    wake("delete")


def why_not(account: Account) -> str:
    """What must be done first; empty when nothing must."""
    if account.deleting_at:
        return "It is being deleted already."
    if account.archived_at is None:
        return "Put it away first."
    one = AccountExport.objects.filter(account=account, state=AccountExport.State.DONE).first()
    if one is None or one.asked_at < account.archived_at:
        return "Make a file of everything it owns first."
    return "" if one.taken_at else "Take the file of everything it owns first."


def delete_batch(account: Account) -> int:
    """Takes a part of its rows away, and in the end the account; answers how many."""
    order = in_order()
    for model, field in order.loose:
        held = model._base_manager.filter(account_id=account.id).exclude(**{field: None}).values("pk")[:PART]
        if count := model._base_manager.filter(pk__in=held).update(**{field: None}):
            return count
    for model in order.models:
        if model is Beat:  # each part is a beat: it goes with the account
            continue
        part = model._base_manager.filter(account_id=account.id).values("pk")[:PART]
        with transaction.atomic():
            if count := _removed(model._base_manager.filter(account_id=account.id, pk__in=part)):
                DeletedAccount.objects.filter(number=account.id).update(rows=F("rows") + count)
                return count
    with transaction.atomic():
        _removed(Beat.objects.filter(account_id=account.id))
        _removed(Account.objects.filter(id=account.id))
        DeletedAccount.objects.filter(number=account.id).update(gone_at=clock.now())
    return 1


def _removed(rows: models.QuerySet[Any]) -> int:
    """Removes rows on which nothing hangs any more, without looking for what does."""
    count: int = rows._raw_delete(rows.db)
    return count


@lru_cache(maxsize=1)
def in_order() -> Order:
    left, order, loose = sorted(_own(), key=lambda one: one._meta.label), list[Model](), list[tuple[Model, str]]()
    loose += [(model, name) for model in left for to, name, _ in _references(model) if to is model]
    while left:
        hanging = {
            one: [(by, name, may) for by in left for to, name, may in _references(by) if to is one is not by]
            for one in left
        }
        free = [one for one in left if not hanging[one]]
        if not free:  # a circle: what may be left empty is let go of
            free = [one for one in left if all(may for _, _, may in hanging[one])][:1]
            loose += [(by, name) for one in free for by, name, _ in hanging[one]]
        if not free:
            raise RuntimeError(f"these hang on one another: {[one._meta.label for one in left]}")
        order += free
        left = [one for one in left if one not in free]
    return Order(tuple(order), tuple(loose))


def _own() -> Iterator[Model]:
    for model in apps.get_models(include_auto_created=True):
        if any(field.column == "account_id" for field in model._meta.concrete_fields):
            yield model


def _references(model: Model) -> Iterator[tuple[Model, str, bool]]:
    """What its rows refer to, by which field, and whether that may be left empty."""
    for field in model._meta.concrete_fields:
        if isinstance(field, models.ForeignKey) and field.column != "account_id":
            yield field.related_model, field.name, field.null
