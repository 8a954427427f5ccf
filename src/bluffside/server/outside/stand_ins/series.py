"""Series: a service that keeps lists, and sends series of its own to who is on them."""

from typing import Literal

from bluffside.server.outside.models import Asked
from bluffside.server.outside.stand_ins.base import PersonBody, StandIn


class Change(PersonBody):
    service: str
    what: Literal["list", "series"]
    name: str
    on: bool


def on_series(account: str, contact_id: int) -> dict[tuple[str, str, str], bool]:
    """Which lists and series a contact is on: (service, list or series, name)."""
    asked = Asked.objects.filter(service="series", account=account, body__person__contact=str(contact_id)).order_by(
        "id"
    )
    return {(one.body["service"], one.body["what"], one.body["name"]): one.body["on"] for one in asked}


def _knows(account: str, contact_id: int) -> list[str]:
    on = on_series(account, contact_id)
    return [f"On the {what} “{name}” at {service}." for (service, what, name), is_on in on.items() if is_on]


STAND_IN = StandIn("series", Change, _knows)
