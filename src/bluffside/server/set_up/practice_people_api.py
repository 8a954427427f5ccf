"""The practice's people: who signs in, who is a consultant, and who has a second step."""

from datetime import datetime
from typing import cast

from allauth.mfa.models import Authenticator
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.server.practice import clock, walls
from bluffside.server.practice.api import OfPractice
from bluffside.server.practice.models import Membership, Person
from bluffside.server.set_up import practice_people
from bluffside.server.signing_in import invitations
from bluffside.server.signing_in.models import Invitation

router = Router(tags=["practice"], auth=OfPractice())


class PracticePerson(Schema):
    """`accounts`: in words, the teams they are in. `second_step`: whether they have one."""

    id: int
    name: str
    email: str
    consultant: bool
    you: bool
    shut_out: bool
    second_step: bool
    accounts: list[str]
    seen_at: datetime | None


class InvitedConsultant(Schema):
    id: int
    email: str
    by: str


class PeopleOfPractice(Schema):
    demanded: bool
    people: list[PracticePerson]
    invited: list[InvitedConsultant]


def _people(request: HttpRequest) -> PeopleOfPractice:
    me = cast(Person, request.user)
    practice = me.practice
    people = list(practice.people.order_by("-is_active", "-is_consultant", "name")[:500])
    steps = Authenticator.objects.filter(user__in=people).exclude(type=Authenticator.Type.RECOVERY_CODES)
    with_step = set(steps.values_list("user_id", flat=True))
    return PeopleOfPractice(
        demanded=practice.second_step,
        people=[
            PracticePerson(
                id=one.id,
                name=one.name,
                email=one.email,
                consultant=one.is_consultant,
                you=one.id == me.id,
                shut_out=not one.is_active,
                second_step=one.id in with_step,
                accounts=_accounts_of(one),
                seen_at=one.seen_at,
            )
            for one in people
        ],
        invited=[
            InvitedConsultant(id=one.id, email=one.email, by=one.by.name if one.by else "")
            for one in practice.invitations.filter(account=None, until__gt=clock.now()).select_related("by")
        ],
    )


def _accounts_of(person: Person) -> list[str]:
    before = walls.scope()
    walls.as_person(person)
    try:
        found = Membership.objects.filter(person=person).select_related("account").order_by("account__name")
        return [one.account.name for one in found]
    finally:
        walls.return_to(before)


def _one(request: HttpRequest, person_id: int) -> Person:
    return get_object_or_404(
        Person.objects.select_related("practice"), practice=cast(Person, request.user).practice, id=person_id
    )


@router.get("people", response=PeopleOfPractice)
def people(request: HttpRequest) -> PeopleOfPractice:
    return _people(request)


class ConsultantIn(Schema):
    email: str = Field(max_length=254)


@router.post("people/invitations", response=PeopleOfPractice)
def invite(request: HttpRequest, given: ConsultantIn) -> PeopleOfPractice:
    """Mails a link by which somebody becomes a consultant, with every account."""
    me = cast(Person, request.user)
    invitations.invite(me.practice, None, given.email, invitations.CONSULTANT, me)
    return _people(request)


@router.delete("people/invitations/{int:invitation_id}", response=PeopleOfPractice)
def take_back(request: HttpRequest, invitation_id: Path[int]) -> PeopleOfPractice:
    me = cast(Person, request.user)
    invitations.take_back(get_object_or_404(Invitation, practice=me.practice, account=None, id=invitation_id), me)
    return _people(request)


class PartIn(Schema):
    """What is not said stays as it is."""

    consultant: bool | None = None
    shut_out: bool | None = None


@router.patch("people/{int:person_id}", response=PeopleOfPractice)
def change(request: HttpRequest, person_id: Path[int], given: PartIn) -> PeopleOfPractice:
    me, person = cast(Person, request.user), _one(request, person_id)
    if given.consultant is not None:
        practice_people.be_consultant(person, me, given.consultant)
    if given.shut_out is not None:
        practice_people.shut_out(person, me, given.shut_out)
    return _people(request)


@router.delete("people/{int:person_id}/second-steps", response=PeopleOfPractice)
def clear(request: HttpRequest, person_id: Path[int]) -> PeopleOfPractice:
    """For whoever has lost theirs. They sign in with their password alone, and are told by mail."""
    practice_people.clear_second_steps(_one(request, person_id), cast(Person, request.user))
    return _people(request)


class DemandIn(Schema):
    demanded: bool


@router.put("second-step", response=PeopleOfPractice)
def demand(request: HttpRequest, given: DemandIn) -> PeopleOfPractice:
    """Of everybody who signs in to the practice. Who has none sets one up before anything else."""
    me = cast(Person, request.user)
    practice_people.demand_second_step(me.practice, me, given.demanded)
    return _people(request)
