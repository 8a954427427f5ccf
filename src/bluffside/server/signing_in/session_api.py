"""Who is signed in, where they may go, and the two ways in for whom nobody knows yet: the first run, and an invitation."""

from django.contrib.auth import logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.practice import first_run, installation, walls
from bluffside.server.practice.access import SignedInAtAll, needs_second_step, role_in
from bluffside.server.practice.api import AccountOut
from bluffside.server.practice.models import Person
from bluffside.server.practice.origin import is_foreign
from bluffside.server.signing_in import invitations
from bluffside.server.signing_in.sessions import let_in

router = Router(tags=["session"])


class SessionOut(Schema):
    """`csrf` goes back in the X-CSRFToken header of every write. `consultant`: of the practice, with every account.
    `demo`: nothing here is real, and mail is simulated. `second_step`: the practice demands one, and they have none yet, so that nothing else is open to them."""

    csrf: str
    name: str | None
    consultant: bool
    second_step: bool
    demo: bool
    accounts: list[AccountOut]


def _session(request: HttpRequest, person: Person | None) -> SessionOut:
    found = []
    if person:
        walls.as_person(person)
        for account in person.practice.accounts.order_by("name"):
            if role := role_in(person, account):
                found.append(AccountOut(slug=account.slug, name=account.name, zone=account.zone, role=role))
    return SessionOut(
        csrf=get_token(request),
        name=person.name if person else None,
        consultant=bool(person and person.is_consultant),
        second_step=bool(person and needs_second_step(person)),
        demo=not installation.is_real(),
        accounts=found,
    )


@router.get("", response=SessionOut, auth=None)
def who(request: HttpRequest) -> SessionOut:
    return _session(request, request.user if isinstance(request.user, Person) else None)


@router.delete("", response=SessionOut, auth=SignedInAtAll())
def end(request: HttpRequest) -> SessionOut:
    logout(request)
    return _session(request, None)


class FirstRun(Schema):
    """`key`: what stands behind the # of the link that was printed."""

    key: str = Field(max_length=200)
    email: str
    password: str
    practice: str = Field(max_length=120)
    name: str = Field(max_length=120)


@router.post("first", response=SessionOut, auth=None)
def first(request: HttpRequest, given: FirstRun) -> SessionOut:
    """Makes the practice and its first consultant, who is signed in; 403 once somebody can sign in."""
    try:
        if is_foreign(request):
            raise first_run.NoFirstRun("Open the link itself.")
        person = first_run.begin(given.key, given.practice, given.name, given.email, given.password)
    except first_run.NoFirstRun as error:
        raise HttpError(403, str(error)) from None
    let_in(request, person)
    return _session(request, person)


class InvitedOut(Schema):
    """`known`: whoever is invited signs in here already, and needs no password of their own for it."""

    to: str
    by: str
    role: str
    email: str
    known: bool


class InvitationKey(Schema):
    """`key`: what stands behind the # of the link."""

    key: str = Field(max_length=200)


class Joining(InvitationKey):
    name: str = Field(default="", max_length=120)
    password: str = Field(default="", max_length=200)


@router.post("invited", response=InvitedOut, auth=None)
def invited(request: HttpRequest, given: InvitationKey) -> InvitedOut:
    """What an invitation says; 403 when it is not one, was used or taken back, or is too old."""
    try:
        return InvitedOut(**invitations.read(given.key)._asdict())
    except invitations.NotInvited as error:
        raise HttpError(403, str(error)) from None


@router.post("join", response=SessionOut, auth=None)
def join(request: HttpRequest, given: Joining) -> SessionOut:
    """Takes an invitation up. Who signs in here already has the account from then on, and signs in as ever; anybody else is
    made, and is signed in."""
    try:
        if is_foreign(request):
            raise invitations.NotInvited("Open the link itself.")
        person, made = invitations.take_up(given.key, given.name, given.password)
    except invitations.NotInvited as error:
        raise HttpError(403, str(error)) from None
    if made:
        logout(request)
        let_in(request, person)
    return _session(request, request.user if isinstance(request.user, Person) else None)
