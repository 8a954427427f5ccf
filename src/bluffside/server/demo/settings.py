"""What the demo's accounts are set to, by their consultant, in the weeks before now: kept as anybody keeps it."""

from collections.abc import Callable
from datetime import timedelta
from functools import partial
from typing import Any

from bluffside.server.practice.models import Account, Person
from bluffside.server.set_up import business, places
from bluffside.server.set_up.business import Business, Detail
from bluffside.server.workflows.house_rules import change_care

At = Callable[[timedelta, Callable[[], object]], None]
TRADES = {
    "tern-harbour": "sailing school", "slipware-lane": "pottery", "huon-street": "physiotherapy", "two-brakes": "bicycle workshop",
}  # fmt: skip
PARTS = {"GB": "ENG", "AU": "TAS", "US": ""}
NIGHT = {"start": "21:00", "end": "07:00"}


def set_up(account: Account, by: Person, before_the_end: At) -> None:
    account.language = places.usual_language(account.region)
    account.currency = places.usual_currency(account.region)
    account.trade = TRADES[account.slug]
    account.save(update_fields=["language", "currency", "trade"])
    if account.slug != "tern-harbour":
        return
    hours = {"days": {
        **{day: [{"start": "09:00", "end": "18:00"}] for day in ("tue", "wed", "thu", "fri")},
        **{day: [{"start": "08:30", "end": "18:00"}] for day in ("sat", "sun")},
    }}  # fmt: skip
    kept: list[tuple[int, dict[str, Any]]] = [
        (11, {"opening": hours}),
        (11, {"holidays": {"country": account.region, "region": PARTS[account.region]}}),
        (10, {"quiet": [NIGHT]}),
        (6, {"longest_days": 60, "most_touches": 12}),
        (4, {"limits": [{"messages": 4, "within": "7 days", "purposes": ["marketing"]}]}),
    ]
    for number, (days, parts) in enumerate(kept):
        ago = timedelta(days=days, minutes=-7 * number)
        before_the_end(ago, partial(change_care, account, parts, by))
    before_the_end(timedelta(days=5), partial(_describe, account, by))


def _describe(account: Account, by: Person) -> None:
    now = {name: getattr(account, name) for name in business.FIELDS}
    details = [
        Detail(name="Where to park", words="Behind the chandlery, free after six"),
        Detail(name="What to bring", words="Old trainers, a warm layer, and a change of clothes"),
    ]
    page = f"https://{account.slug}.example.com"
    business.change(account, Business(**now | {"web_page": page, "details": details}), by)
