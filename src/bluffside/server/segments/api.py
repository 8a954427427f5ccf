"""The people of an account as a list that is searched and narrowed down; what is done with many; segments."""

from collections import defaultdict
from typing import Annotated, Literal

from django.db import transaction
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.conditions import Condition
from bluffside.core.words import counted
from bluffside.server.events.stream import Cause
from bluffside.server.people import exporting
from bluffside.server.people.api import ContactRow, Counted, contact_row, with_details
from bluffside.server.people.models import ContactTag
from bluffside.server.people.services import add_tags, remove_tags, set_list, set_responsible
from bluffside.server.practice import audit, clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Person
from bluffside.server.practice.naming import is_taken
from bluffside.server.segments import choosing
from bluffside.server.segments.choosing import Chosen
from bluffside.server.segments.models import Segment
from bluffside.server.segments.pieces import score_at
from bluffside.server.throttled_cache import lately

router = Router(tags=["segments"], auth=InAccount())
PAGE = 50
# By a further score: "score:" and its name.
Order = (
    Literal["name", "-name", "added", "-added", "score", "-score"]
    | Annotated[str, Field(pattern=r"^-?score:", max_length=50)]
)
ORDERS: dict[str, tuple[str, ...]] = {
    "name": ("last_name", "first_name", "id"),
    "-name": ("-last_name", "-first_name", "-id"),
    "added": ("added_at", "id"),
    "-added": ("-added_at", "-id"),
    "score": ("points", "id"),
    "-score": ("-points", "-id"),
}


class ContactPage(Schema):
    count: int
    page: int
    pages: int
    rows: list[ContactRow]


class Tagging(Schema):
    who: Chosen
    tag: str = Field(min_length=1, max_length=80)
    add: bool = True


class Listing(Schema):
    who: Chosen
    list: str = Field(min_length=1, max_length=120)
    add: bool = True


class ChangedContacts(Schema):
    """For how many it was a change, and for whom: the opposite done to these undoes it."""

    count: int
    ids: list[int]


class Assigning(Schema):
    """`member`: a member's name; empty: nobody of their own."""

    who: Chosen
    member: str = ""


class Assigned(Schema):
    """For how many it was a change; `before`: who had whom (a member's name, "" for nobody), which undoes it."""

    count: int
    before: dict[str, list[int]]


class Wanted(Schema):
    """`limit`: how many of them are shown."""

    who: Chosen
    order: Order = "-added"
    page: int = 1


class SegmentIn(Schema):
    name: str = Field(min_length=1, max_length=120)
    condition: Condition


class SegmentOut(Schema):
    """`of_deals`: its condition looks at deals, so that deals can be found by it, too."""

    id: int
    name: str
    condition: Condition
    words: str
    count: int
    of_deals: bool


@router.post("contacts/find", response=ContactPage)
def find_contacts(request: AccountRequest, account: Path[str], wanted: Wanted) -> ContactPage:
    """A page of those who are meant, and how many they are."""
    found = choosing.people(request.account, wanted.who)
    count = _count(request, wanted.who)
    pages = max(1, -(-count // PAGE))
    page = min(max(wanted.page, 1), pages)
    order, _, score = wanted.order.partition(":")
    if order.endswith("score"):
        found = found.annotate(points=score_at(clock.now(), score))
    rows = with_details(found.order_by(*ORDERS[order]))[(page - 1) * PAGE : page * PAGE]
    return ContactPage(count=count, page=page, pages=pages, rows=[contact_row(row) for row in rows])


def _count(request: AccountRequest, who: Chosen) -> int:
    key = ("people", request.account.id, who.model_dump_json())
    return lately(key, lambda: choosing.people(request.account, who).count())


@router.post("contacts/count", response=Counted)
def count_chosen(request: AccountRequest, account: Path[str], who: Chosen) -> Counted:
    return Counted(count=_count(request, who))


@router.post("contacts/tag", response=ChangedContacts)
def tag_many(request: AccountRequest, account: Path[str], tagging: Tagging) -> ChangedContacts:
    """Gives people a tag, or takes it off; workflows that start on it start."""
    require(request, "people")
    cause = Cause(actor=request.person)
    with transaction.atomic():
        who = choosing.ids(request.account, tagging.who)
        tagged = ContactTag.objects.filter(account=request.account, tag__name=tagging.tag, contact__in=who)
        had = set(tagged.values_list("contact_id", flat=True))
        changed = [id for id in who if (id in had) != tagging.add]
        change = add_tags if tagging.add else remove_tags
        change(request.account, [(id, tagging.tag, cause) for id in changed])
    return ChangedContacts(count=len(changed), ids=changed)


@router.post("contacts/list", response=ChangedContacts)
def list_many(request: AccountRequest, account: Path[str], listing: Listing) -> ChangedContacts:
    """Puts people on a list, or takes them off."""
    require(request, "people")
    name = " ".join(listing.list.split())
    with transaction.atomic():
        who = choosing.ids(request.account, listing.who)
        had = set(request.account.contacts.filter(id__in=who, lists__contains=[name]).values_list("id", flat=True))
        changed = [id for id in who if (id in had) != listing.add]
        set_list(request.account, changed, name, listing.add, Cause(actor=request.person))
    return ChangedContacts(count=len(changed), ids=changed)


@router.post("contacts/assign", response=Assigned)
def assign_many(request: AccountRequest, account: Path[str], assigning: Assigning) -> Assigned:
    """Gives people somebody who is responsible for them."""
    require(request, "people")
    member = None
    if assigning.member:
        member = Person.objects.filter(
            name=assigning.member, practice=request.account.practice_id, is_active=True
        ).first()  # fmt: skip
        if member is None:
            raise HttpError(422, f"Nobody of the team is called {assigning.member}. Nothing was changed.")
    before: dict[str, list[int]] = defaultdict(list)
    with transaction.atomic():
        who = choosing.ids(request.account, assigning.who)
        others = request.account.contacts.filter(id__in=who).exclude(responsible=member)
        for id, name in others.values_list("id", "responsible__name"):
            before[name or ""].append(id)
        count = set_responsible(request.account, who, member, Cause(actor=request.person))
    return Assigned(count=count, before=before)


@router.post("contacts/export/{format}", response={200: str})
def export_many(
    request: AccountRequest, account: Path[str], format: exporting.Format, who: Chosen
) -> HttpResponse | StreamingHttpResponse:
    """The people meant as a file: CSV (RFC 4180), a workbook, or vCard 4.0 (RFC 6350)."""
    require(request, "import")
    found = choosing.people(request.account, who).order_by("id")
    said = counted(found.count(), "person", "people")
    audit.note(request.account, request.person, "exports", [audit.Noted(f"{said} as {format}")])
    return exporting.answer(request.account, found, format)


# ---- segments


@router.get("segments", response=list[SegmentOut])
def all_segments(request: AccountRequest, account: Path[str]) -> list[SegmentOut]:
    """How many are in them is counted in one query."""
    found = list(Segment.objects.filter(account=request.account).order_by("name"))
    counts = lately(("segments", request.account.id), lambda: choosing.count_each(request.account, found))
    return [_segment_out(request, one, counts.get(one.id, 0)) for one in found]


@router.post("segments", response={201: SegmentOut})
def keep_segment(request: AccountRequest, account: Path[str], given: SegmentIn) -> tuple[int, SegmentOut]:
    require(request, "people")
    name = _free_name(request, given, None)
    made = Segment.objects.create(
        account=request.account, name=name, condition=given.condition.model_dump(mode="json"),
        by=request.person, made_at=clock.now(),
    )  # fmt: skip
    return 201, _segment_out(request, made)


@router.put("segments/{int:segment_id}", response=SegmentOut)
def change_segment(request: AccountRequest, account: Path[str], segment_id: int, given: SegmentIn) -> SegmentOut:
    require(request, "people")
    segment = _segment_of(request, segment_id)
    segment.name = _free_name(request, given, segment)
    segment.condition = given.condition.model_dump(mode="json")
    segment.save(update_fields=["name", "condition"])
    return _segment_out(request, segment)


@router.delete("segments/{int:segment_id}", response={204: None})
def drop_segment(request: AccountRequest, account: Path[str], segment_id: int) -> tuple[int, None]:
    """The condition is gone; the people stay."""
    require(request, "people")
    _segment_of(request, segment_id).delete()
    return 204, None


def _segment_of(request: AccountRequest, segment_id: int) -> Segment:
    return get_object_or_404(Segment, account=request.account, id=segment_id)


def _free_name(request: AccountRequest, given: SegmentIn, own: Segment | None) -> str:
    name = " ".join(given.name.split())
    if is_taken(Segment, request.account, name, own.id if own else 0):
        raise HttpError(422, f"There is a segment “{name}” already. Nothing was changed.")
    return name


def _segment_out(request: AccountRequest, segment: Segment, count: int | None = None) -> SegmentOut:
    condition = choosing.condition_of(segment)
    if count is None and not condition.missing():
        count = _count(request, Chosen(segment=segment.name))
    return SegmentOut(
        id=segment.id,
        name=segment.name,
        condition=condition,  # type: ignore[arg-type]
        words=condition.describe(),
        count=count or 0,
        of_deals="deals" in condition.all_needs(),
    )
