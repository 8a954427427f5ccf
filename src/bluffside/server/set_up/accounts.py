"""The accounts of a practice: made from three answers, or as another's set-up; put away, and brought back."""

from collections.abc import Iterator
from itertools import count

from django.db import transaction
from django.utils.text import slugify

from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.messaging import stopping
from bluffside.server.practice import audit, clock, walls
from bluffside.server.practice.models import Account, Person, Practice
from bluffside.server.practice.refusals import BadFields
from bluffside.server.set_up import places

# What stands in an address for something else.
TAKEN = {
    "api",
    "assets",
    "_allauth",
    "l",
    "u",
    "p",
    "f",
    "in",
    "b",
    "book",
    "c",
    "outside",
    "health",
    "metrics",
    "begin",
    "join",
    "confirm",
    "new-password",
    "mailbox",
    "myself",
    "colleagues",
}
COPIED = ("care", "score_rules", "brand_colour", "brand_line", "link_colour", "closing_lines")
PUT_AWAY = "the account is put away"


@transaction.atomic
def make(practice: Practice, name: str, zone: str, trade: str, by: Person, like: Account | None = None) -> Account:
    """A new account, tried out until it goes live: messages reach its own team alone. The zone says its country, and that
    its language and money; `like` gives its house rules and brand. Raises BadFields."""
    name = " ".join(name.replace("\0", "").split())
    at = next((one for one in places.zones() if one.zone == zone), None)
    faults = {}
    if not name:
        faults["name"] = "A business needs a name."
    elif practice.accounts.filter(name__iexact=name).exists():
        faults["name"] = f"There is an account “{name}” already."
    if at is None:
        faults["zone"] = "Type a town or a country, and pick."
    if faults or at is None:
        raise BadFields(faults)
    account = Account.objects.create(
        practice=practice,
        slug=next(one for one in _slugs(name) if not Account.objects.filter(slug=one).exists()),
        name=name,
        zone=zone,
        region=at.region,
        language=places.usual_language(at.region),
        currency=places.usual_currency(at.region),
        trade=" ".join(trade.split()) or (like.trade if like else ""),
        sender_name=name,
        signature=name,
        trying_out=True,
        **({field: getattr(like, field) for field in COPIED} if like else {}),
    )
    with walls.within(account):
        said = f"made with the set-up of {like.name}" if like else "made"
        audit.note(account, by, "account", [audit.Noted("the account", "", said)])
        record(account, [Happened("account.made", None, {"like": like.name if like else ""}, Cause(actor=by))])
    return account


def _slugs(name: str) -> Iterator[str]:
    first = slugify(name)[:40].strip("-") or "account"
    if first not in TAKEN:
        yield first
    yield from (f"{first}-{number}" for number in count(2))


@transaction.atomic
def put_away(account: Account, by: Person) -> None:
    """Nothing goes out from now on; what comes in is kept. Raises stopping.CannotStop when it is put away already."""
    row = Account.objects.select_for_update().get(id=account.id)
    if row.archived_at:
        raise stopping.CannotStop("The account is put away already.")
    if not row.stopped_at:
        stopping.stop(row, PUT_AWAY, by)
    Account.objects.filter(id=row.id).update(archived_at=clock.now())
    audit.note(row, by, "account", [audit.Noted("the account", "", "put away")])


@transaction.atomic
def bring_back(account: Account, by: Person) -> None:
    """Its sending stays stopped until somebody lifts that, and decides about what fell due. Raises stopping.CannotStop."""
    row = Account.objects.select_for_update().get(id=account.id)
    if not row.archived_at:
        raise stopping.CannotStop("The account is not put away.")
    row.archived_at = None
    row.save(update_fields=["archived_at"])
    audit.note(row, by, "account", [audit.Noted("the account", "put away", "brought back")])
