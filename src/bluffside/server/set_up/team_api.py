"""The team of an account: who is in it, who is invited, and what each role may do."""

from datetime import date, timedelta
from typing import Any, Literal

from django.http import Http404
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.core.phone_numbers import as_written
from bluffside.core.timing.local import to_local
from bluffside.server.practice import clock
from bluffside.server.practice.access import CALLED, RIGHT_WORDS, RIGHTS, AccountRequest, InAccount, require
from bluffside.server.practice.models import Membership, Person
from bluffside.server.practice.team import is_away, people_of
from bluffside.server.practice.words import moment
from bluffside.server.set_up import depending, team
from bluffside.server.set_up.api import NamedOut
from bluffside.server.signing_in import invitations
from bluffside.server.signing_in.models import Invitation

router = Router(tags=["set-up"], auth=InAccount())
RoleName = Literal["manager", "team", "viewer"]


class MemberOut(Schema):
    """`role`: "consultant" for who is of the practice. `away` is today; `seen`: when last, in words, empty for never;
    `holds`: in words, such as "12 contacts". `named_in`: workflows with a line that names them."""

    id: int
    name: str
    email: str
    number: str
    role: str
    you: bool
    responsible_for: str
    away: bool
    away_from: date | None
    away_until: date | None
    stand_in: int | None
    seen: str
    holds: str
    named_in: list[NamedOut]


class InvitedToOut(Schema):
    id: int
    email: str
    role: str
    by: str
    days: int  # until it runs out


class RoleOut(Schema):
    """`may`: the names of its rights."""

    name: str
    words: str
    may: list[str]


class RightOut(Schema):
    name: str
    words: str


class TeamOut(Schema):
    members: list[MemberOut]
    invited: list[InvitedToOut]
    roles: list[RoleOut]
    rights: list[RightOut]


def _team(request: AccountRequest) -> TeamOut:
    own, today = request.account, to_local(clock.now(), request.account.zone).date()
    roles = {one.person_id: one for one in own.memberships.all()}
    workflows = depending.published(own)
    members = []
    for person in people_of(own).order_by("-is_consultant", "name"):
        membership = roles.get(person.id)
        counts = team.held(own, person)
        members.append(
            MemberOut(
                id=person.id,
                name=person.name,
                email=person.email,
                number=as_written(person.phone, own.region),
                role="consultant" if person.is_consultant else membership.role if membership else "",
                you=person.id == request.person.id,
                responsible_for=membership.responsible_for if membership else "",
                away=is_away(person, today),
                away_from=person.away_from,
                away_until=person.away_until,
                stand_in=membership.stand_in_id if membership else None,
                seen=moment(person.seen_at, own.zone) if person.seen_at else "",
                holds=", ".join(_counted(name, count) for name, count in counts.items() if count),
                named_in=[NamedOut(id=one.id, name=one.name) for one in team.named_in(person, workflows)],
            )
        )
    open_ones = own.invitations.filter(until__gt=clock.now()).select_related("by").order_by("email")
    return TeamOut(
        members=members,
        invited=[
            InvitedToOut(
                id=one.id,
                email=one.email,
                role=one.role,
                by=one.by.name if one.by else "",
                days=-(-(one.until - clock.now()) // timedelta(days=1)),
            )
            for one in open_ones
        ],
        roles=[RoleOut(name=name, words=CALLED[name], may=sorted(rights)) for name, rights in RIGHTS.items()],
        rights=[RightOut(name=name, words=words) for name, words in RIGHT_WORDS.items()],
    )


def _counted(several: str, count: int) -> str:
    one = next(sort.one for sort in team.HOLDINGS if sort.several == several)
    return f"{count:,} {one if count == 1 else several}"


def _membership(request: AccountRequest, person_id: int) -> Membership:
    found = request.account.memberships.select_related("account", "person", "stand_in")
    return get_object_or_404(found, person=person_id)


@router.get("set-up/team", response=TeamOut)
def get_team(request: AccountRequest, account: Path[str]) -> TeamOut:
    require(request, "set-up")
    return _team(request)


class InvitationIn(Schema):
    email: str = Field(max_length=254)
    role: RoleName


@router.post("set-up/team/invitations", response=TeamOut)
def invite(request: AccountRequest, account: Path[str], given: InvitationIn) -> TeamOut:
    """Mails a link that holds for a week. Who is invited already is sent a new one."""
    require(request, "set-up")
    invitations.invite(request.account.practice, request.account, given.email, given.role, request.person)
    return _team(request)


@router.delete("set-up/team/invitations/{int:invitation_id}", response=TeamOut)
def take_back(request: AccountRequest, account: Path[str], invitation_id: int) -> TeamOut:
    require(request, "set-up")
    one = get_object_or_404(Invitation, account=request.account, id=invitation_id)
    invitations.take_back(one, request.person)
    return _team(request)


class MemberIn(Schema):
    """What is not said stays as it is. `stand_in`: an id of the team; null for nobody. Days away are of the account's
    calendar, and hold wherever they work."""

    role: RoleName | None = None
    responsible_for: str | None = Field(default=None, max_length=200)
    stand_in: int | None = None
    away_from: date | None = None
    away_until: date | None = None


@router.patch("set-up/team/{int:person_id}", response=TeamOut)
def change(request: AccountRequest, account: Path[str], person_id: int, given: MemberIn) -> TeamOut:
    require(request, "set-up")
    said: dict[str, Any] = given.model_dump(exclude_unset=True)
    person = people_of(request.account).filter(id=person_id).first()
    if person is None:
        raise Http404
    if {"away_from", "away_until"} & set(said):
        dates = {"away_from": person.away_from, "away_until": person.away_until, **said}
        team.be_away(request.account, person, request.person, dates["away_from"], dates["away_until"])
    of_membership: dict[str, Any] = {one: said[one] for one in ("role", "responsible_for", "stand_in") if one in said}
    if of_membership:
        team.change(_membership(request, person_id), request.person, of_membership)
    return _team(request)


class Leaving(Schema):
    """`to`: who takes over; may be left out when they hold nothing."""

    to: int | None = None


@router.post("set-up/team/{int:person_id}/leave", response=TeamOut)
def leave(request: AccountRequest, account: Path[str], person_id: int, given: Leaving) -> TeamOut:
    """They lose the account at once; what they hold is somebody else's from then on."""
    require(request, "set-up")
    team.leave(_membership(request, person_id), request.person, given.to)
    return _team(request)


class ColleagueOut(Schema):
    id: int
    name: str


@router.get("colleagues", response=list[ColleagueOut])
def colleagues(request: AccountRequest, account: Path[str]) -> list[Person]:
    """Who works there, by name."""
    return list(people_of(request.account).order_by("name"))
