"""Deals as the core knows them, and what decisions changed about them."""

from collections import defaultdict
from collections.abc import Collection, Iterable

from django.db.models import Value
from django.db.models.functions import Coalesce

from bluffside.core import facts
from bluffside.server import sql
from bluffside.server.people.changes import Changed
from bluffside.server.pipeline import stays
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account


def load_deals(account: Account, contact_ids: Collection[int]) -> dict[int, tuple[facts.Deal, ...]]:
    """Each contact's deals, in the order they were made."""
    found: dict[int, list[facts.Deal]] = defaultdict(list)
    rows = Deal.objects.filter(account=account, contact__any=set(contact_ids)).order_by("id")
    columns = ("contact_id", "ref", "pipeline", "stage", "created_at", "since", "value", "state", "name")
    for contact_id, *deal in rows.values_list(*columns, Coalesce("owner__name", Value(""))):
        found[contact_id].append(facts.Deal(*deal))
    return {contact_id: tuple(deals) for contact_id, deals in found.items()}


def write_deals(account: Account, changed: Iterable[Changed]) -> None:
    """Deals that were made or moved."""
    rows = [
        (account.id, one.id, deal.id, deal.pipeline[:80], deal.stage[:80], deal.name[:200], deal.value, deal.state,
         deal.created, deal.since, None if deal.state == "open" else clock.now())
        for one in changed
        if one.before.deals is not one.after.deals
        for deal in one.after.deals
        if deal not in one.before.deals
    ]  # fmt: skip
    sql.insert(
        Deal,
        (
            "account_id",
            "contact_id",
            "ref",
            "pipeline",
            "stage",
            "name",
            "value",
            "state",
            "created_at",
            "since",
            "closed_at",
        ),
        rows,
        on_conflict="ON CONFLICT (contact_id, ref) DO UPDATE SET stage = excluded.stage, state = excluded.state,"
        " since = excluded.since, closed_at = CASE WHEN excluded.state = 'open' THEN NULL"
        " ELSE coalesce(pipeline_deal.closed_at, excluded.closed_at) END",
    )
    if rows:
        stays.follow(Deal.objects.filter(account=account, contact__any={row[1] for row in rows}), clock.now())
