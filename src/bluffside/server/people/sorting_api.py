"""The account's fields, tags and lists."""

from typing import Literal

from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field as Limited

from bluffside.server.people import sorting
from bluffside.server.people.field_kinds import FIELD_KINDS, Kind
from bluffside.server.people.models import Field, Tag
from bluffside.server.people.queries import account_facts
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.throttled_cache import lately

router = Router(tags=["sorting"], auth=InAccount())


class KindOut(Schema):
    """A kind of field. `input`: of HTML; `picks`: whether one of some choices is taken, or several; `fixed` choices of all its
    fields; `own_choices`: each field names its own."""

    name: Kind
    label: str
    input: str
    picks: Literal["", "one", "several"]
    fixed: list[str]
    own_choices: bool


class FieldIn(Schema):
    name: str = Limited(min_length=1, max_length=80)
    kind: Kind
    choices: list[str] = []


class FieldOut(FieldIn):
    """`filled`: how many people have a value."""

    id: int
    filled: int


class TagIn(Schema):
    name: str = Limited(min_length=1, max_length=80)
    about: str = Limited(default="", max_length=300)


class TagRow(Schema):
    id: int
    name: str
    about: str
    contacts: int


class MergeTags(Schema):
    into: int


class ListAbout(Schema):
    name: str = Limited(min_length=1, max_length=120)
    about: str = Limited(default="", max_length=300)
    offered: bool = False
    offered_as: str = Limited(default="", max_length=200)


class ListIn(ListAbout):
    """`was`: the name it has so far, when it is to have another."""

    was: str = ""


class ListOut(ListAbout):
    contacts: int


class Changed(Schema):
    count: int


def _said(error: sorting.CannotSort) -> HttpError:
    return HttpError(422, str(error))


# ---- fields


@router.get("fields", response=list[FieldOut])
def all_fields(request: AccountRequest, account: Path[str]) -> list[FieldOut]:
    filled = sorting.filled(request.account)
    found = Field.objects.filter(account=request.account).order_by("name")
    return [_field_out(one, filled.get(one.name, 0)) for one in found]


def _field_out(one: Field, filled: int) -> FieldOut:
    return FieldOut(id=one.id, name=one.name, kind=one.kind, choices=one.choices, filled=filled)


@router.get("fields/kinds", response=list[KindOut])
def kinds_of_field(request: AccountRequest, account: Path[str]) -> list[KindOut]:
    return [
        KindOut(
            name=one.name, label=one.label, input=one.input, picks=one.picks, fixed=list(one.fixed),
            own_choices=one.wants_choices(),
        )
        for one in FIELD_KINDS.values()
    ]  # fmt: skip


@router.post("fields", response={201: FieldOut})
def new_field(request: AccountRequest, account: Path[str], given: FieldIn) -> tuple[int, FieldOut]:
    require(request, "workflows")
    try:
        return 201, _field_out(
            sorting.keep_field(request.account, given.name, given.kind, given.choices, request.person), 0
        )
    except sorting.CannotSort as error:
        raise _said(error) from None


@router.put("fields/{int:field_id}", response=FieldOut)
def change_field(request: AccountRequest, account: Path[str], field_id: int, given: FieldIn) -> FieldOut:
    """Another name, another kind, other choices. Refused when a value that somebody has cannot be read as the new kind, and
    another name when a workflow runs with this one."""
    require(request, "workflows")
    own = get_object_or_404(Field, account=request.account, id=field_id)
    try:
        changed = sorting.keep_field(request.account, given.name, given.kind, given.choices, request.person, own)
        return _field_out(changed, sorting.filled(request.account).get(changed.name, 0))
    except sorting.CannotSort as error:
        raise _said(error) from None


@router.delete("fields/{int:field_id}", response=Changed)
def drop_field(request: AccountRequest, account: Path[str], field_id: int) -> Changed:
    """The field and its values are gone; answers how many people had one."""
    require(request, "workflows")
    return Changed(count=sorting.drop_field(get_object_or_404(Field, account=request.account, id=field_id)))


# ---- tags


@router.get("tags", response=list[TagRow])
def list_tags(request: AccountRequest, account: Path[str]) -> list[TagRow]:
    found = sorting.tags_of(request.account)
    return [TagRow(id=tag.id, name=tag.name, about=tag.about, contacts=count) for tag, count in found]


@router.post("tags", response={201: Changed})
def new_tag(request: AccountRequest, account: Path[str], given: TagIn) -> tuple[int, Changed]:
    require(request, "people")
    try:
        sorting.keep_tag(request.account, given.name, given.about, request.person)
    except sorting.CannotSort as error:
        raise _said(error) from None
    return 201, Changed(count=0)


@router.put("tags/{int:tag_id}", response=Changed)
def change_tag(request: AccountRequest, account: Path[str], tag_id: int, given: TagIn) -> Changed:
    require(request, "people")
    own = get_object_or_404(Tag, account=request.account, id=tag_id)
    if own.name != given.name:
        require(request, "workflows")
    try:
        sorting.keep_tag(request.account, given.name, given.about, request.person, own)
    except sorting.CannotSort as error:
        raise _said(error) from None
    return Changed(count=0)


@router.post("tags/{int:tag_id}/merge", response=Changed)
def merge_tag(request: AccountRequest, account: Path[str], tag_id: int, given: MergeTags) -> Changed:
    """Whoever has this tag gets the other, and this one is gone. Answers how many got it."""
    require(request, "workflows")
    away = get_object_or_404(Tag, account=request.account, id=tag_id)
    into = get_object_or_404(Tag, account=request.account, id=given.into)
    try:
        return Changed(count=sorting.merge_tags(request.account, away, into, request.person))
    except sorting.CannotSort as error:
        raise _said(error) from None


@router.delete("tags/{int:tag_id}", response=Changed)
def drop_tag(request: AccountRequest, account: Path[str], tag_id: int) -> Changed:
    """Nobody has it any more; answers how many did. No workflow hears of it."""
    require(request, "workflows")
    tag = get_object_or_404(Tag, account=request.account, id=tag_id)
    count = tag.tagged.count()
    tag.delete()
    return Changed(count=count)


# ---- what they agreed to


class Agreed(Schema):
    """How many people have an address on a channel, and what they said about it for a purpose."""

    channel: str
    purpose: str
    reachable: int
    given: int
    withdrawn: int
    asked: int
    nothing: int
    run_out: int


@router.get("consent", response=list[Agreed])
def consent(request: AccountRequest, account: Path[str]) -> list[Agreed]:
    """Of those who have an address there."""
    own = request.account
    since = account_facts(own).care.agreed_since(clock.now())
    found = lately(("consent", own.id, own.care.get("consent_months")), lambda: sorting.consent_of(own, since))
    return [Agreed(channel=channel, purpose=purpose, **counts) for (channel, purpose), counts in found.items()]


# ---- lists


@router.get("lists", response=list[ListOut])
def all_lists(request: AccountRequest, account: Path[str]) -> list[ListOut]:
    return [
        ListOut(name=one.name, about=one.about, offered=one.offered, offered_as=one.offered_as, contacts=count)
        for one, count in sorting.lists_of(request.account)
    ]


@router.put("lists", response=ListOut)
def keep_list(request: AccountRequest, account: Path[str], given: ListIn) -> ListOut:
    """Makes a list, or changes what is known of the one of that name."""
    require(request, "people")
    try:
        if given.was and given.was != given.name:
            require(request, "workflows")
        sorting.keep_list(
            request.account, given.name, given.about, given.offered, given.offered_as, request.person, given.was
        )
    except sorting.CannotSort as error:
        raise _said(error) from None
    return next(one for one in all_lists(request, account) if one.name == " ".join(given.name.split()))


@router.post("lists/drop", response=Changed)
def drop_list(request: AccountRequest, account: Path[str], given: ListIn) -> Changed:
    """The list is gone; answers how many were on it. No workflow hears of it."""
    require(request, "workflows")
    return Changed(count=sorting.drop_list(request.account, given.name))
