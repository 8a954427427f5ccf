"""Names that must be one of a kind within an account: of fields, tags, forms, segments, sources."""

from typing import Any

from django.db import models

from bluffside.server.practice.models import Account


class NotAName(ValueError):
    """Why something cannot be called so, in words."""


Among = type[models.Model] | models.QuerySet[Any]  # all of a model, or some of its rows


def is_taken(among: Among, account: Account, name: str, own: int = 0) -> bool:
    """Whether another row than `own` has the name, whatever its capitals: two that differ by these alone would be taken for
    each other."""
    rows = among if isinstance(among, models.QuerySet) else among._default_manager.all()
    return bool(rows.filter(account=account, name__iexact=name).exclude(pk=own).exists())


def free_name(among: Among, what: str, account: Account, name: str, own: int = 0) -> str:
    """A name as it is kept: 120 letters at most, without spaces that are too many. `what` is the thing in words ("form").
    Raises NotAName."""
    name = " ".join(name.replace("\0", "").split())[:120]
    if not name:
        raise NotAName(f"A {what} needs a name.")
    if is_taken(among, account, name, own):
        raise NotAName(f"There is a {what} “{name}” already. Two of one name would be taken for each other.")
    return name
