"""Two who may be one, and erasing somebody."""

from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.events.stream import Cause
from bluffside.server.people import erasing, merging
from bluffside.server.people.api import ContactRow, contact_of, contact_row, with_details
from bluffside.server.people.models import Contact
from bluffside.server.people.queries import fields_of
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.throttled_cache import forget, lately

router = Router(tags=["people"], auth=InAccount())


class Compared(Schema):
    """`name` is a field of the contact's own, or "field:" and one of the account's."""

    name: str
    values: list[str]


class PairOut(Schema):
    first: ContactRow
    second: ContactRow
    why: str
    compared: list[Compared]


class Pairs(Schema):
    count: int
    pairs: list[PairOut]


class MergeIn(Schema):
    stays: int
    goes: int
    take: list[str] = []


class TwoPeople(Schema):
    first: int
    second: int


class EraseIn(Schema):
    """`name` repeats the contact's name, so that nobody is erased by a slip."""

    name: str
    why: str = Field(default="", max_length=300)


@router.get("duplicates", response=Pairs)
def all_duplicates(request: AccountRequest, account: Path[str]) -> Pairs:
    """Pairs who may be one person: the first thirty in full."""
    pairs = lately(("duplicates", request.account.id), lambda: merging.duplicates(request.account))
    shown = pairs[:30]
    ids = {id for pair in shown for id in (pair.first, pair.second)}
    found = {one.id: one for one in with_details(Contact.objects.filter(account=request.account, id__in=ids))}
    fields = fields_of(request.account)
    both = [(found.get(pair.first), found.get(pair.second), pair.why) for pair in shown]
    return Pairs(
        count=len(pairs),
        pairs=[
            PairOut(
                first=contact_row(one), second=contact_row(other), why=why,
                compared=[Compared(**row) for row in merging.compared([one, other], fields)],
            )
            for one, other, why in both
            if one and other
        ],
    )  # fmt: skip


@router.post("duplicates/merge", response=ContactRow)
def merge_two(request: AccountRequest, account: Path[str], given: MergeIn) -> ContactRow:
    require(request, "import")
    try:
        kept = merging.merge(request.account, given.stays, given.goes, given.take, Cause(actor=request.person))
    except merging.CannotMerge as error:
        raise HttpError(409, f"{error} Nothing was changed.") from None
    forget(("duplicates", request.account.id))
    return contact_row(contact_of(request, kept.id))


@router.post("duplicates/two", response={204: None})
def are_two(request: AccountRequest, account: Path[str], given: TwoPeople) -> tuple[int, None]:
    """They are two people: the pair is not shown again."""
    require(request, "import")
    one, other = contact_of(request, given.first), contact_of(request, given.second)
    merging.are_two(request.account, one.id, other.id)
    forget(("duplicates", request.account.id))
    return 204, None


@router.post("contacts/{int:contact_id}/erase", response={204: None})
def erase_contact(request: AccountRequest, account: Path[str], contact_id: int, given: EraseIn) -> tuple[int, None]:
    """Erases a person and all that is known of them. It cannot be undone; that they had opted out is kept as a digest."""
    require(request, "import")
    contact = contact_of(request, contact_id)
    if " ".join(given.name.split()).casefold() != contact.name.casefold():
        raise HttpError(422, f"Type {contact.name} to erase this person. Nothing was changed.")
    erasing.erase(contact, request.person, given.why)
    return 204, None
