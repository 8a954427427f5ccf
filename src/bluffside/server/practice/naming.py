"""Names that must be one of a kind within an account: of fields, tags, forms, segments, sources."""

from django.db import models

from bluffside.server.practice.models import Account


def is_taken(model: type[models.Model], account: Account, name: str, own: int = 0) -> bool:
    """Whether another row than `own` has the name, whatever its capitals: two that differ by these alone would be taken for
    each other."""
    return model._default_manager.filter(account=account, name__iexact=name).exclude(pk=own).exists()
