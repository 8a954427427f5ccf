"""Invitations: somebody is asked in by a link that is mailed to them, holds for a week, and is used once."""

from datetime import timedelta
from typing import NamedTuple

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.signing import BadSignature, Signer
from django.core.validators import validate_email
from django.db import transaction

from bluffside.server.practice import audit, clock, staff_mail, walls
from bluffside.server.practice.models import Account, Membership, Person, Practice
from bluffside.server.practice.refusals import BadFields
from bluffside.server.signing_in.models import Invitation

LASTS = timedelta(days=7)
SALT = "bluffside.invitation"
MOST_OPEN = 100  # of one account
CONSULTANT = "consultant"


class NotInvited(ValueError):
    """In words: the link is not one, is too old, or was used or taken back."""


class Invited(NamedTuple):
    to: str
    by: str
    role: str
    email: str
    known: bool


GONE = "This invitation has run out, was used, or was taken back. Ask who invited you for another."


def link(one: Invitation) -> str:
    """Its key names the moment it was made, so that one that is sent anew puts the older link out of use."""
    key = f"{one.account_id or 0}.{one.id}.{int(one.made_at.timestamp() * 1000)}"
    return f"{settings.ADDRESS}/join#{Signer(salt=SALT).sign(key)}"


@transaction.atomic
def invite(practice: Practice, account: Account | None, email: str, role: str, by: Person) -> Invitation:
    """Mails a link; whoever is invited already is sent a new one. Without an account, as a consultant. Raises BadFields."""
    email = email.replace("\0", "").strip().lower()
    try:
        validate_email(email)
    except ValidationError:
        raise BadFields({"email": "That is not an email address."}) from None
    if role not in ({CONSULTANT} if account is None else set(Membership.Role.values)):
        raise BadFields({"role": "There is no such role."})
    if account and account.memberships.filter(person__email=email).exists():
        raise BadFields({"email": "They are in the team already."})
    if Person.objects.filter(email=email, practice=practice, is_consultant=True, is_active=True).exists():
        raise BadFields({"email": "They are a consultant of the practice: every account is open to them."})
    beside = practice.invitations.filter(account=account)
    if beside.exclude(email=email).count() >= MOST_OPEN:
        raise BadFields({"email": "So many invitations are open that no more can be made. Take some back."})
    now = clock.now()
    given = {"role": "" if account is None else role, "by": by, "made_at": now, "until": now + LASTS}
    made, _ = practice.invitations.update_or_create(account=account, email=email, defaults=given)
    place = account.name if account else practice.name
    staff_mail.write(
        email,
        f"{by.name} invites you to {place}",
        f"{by.name} asks you to come in to {place} as {as_words(role)}. Open this within a week:\n\n{link(made)}\n\n"
        "If you do not know what this is about, do nothing.",
    )
    if account:
        audit.note(account, by, "team", [audit.Noted(email, "", f"invited as {as_words(role)}")])
    return made


def as_words(role: str) -> str:
    return {"team": "team member", CONSULTANT: "consultant"}.get(role, role)


@transaction.atomic
def take_back(one: Invitation, by: Person) -> None:
    if one.account:
        audit.note(one.account, by, "team", [audit.Noted(one.email, f"invited as {as_words(one.role)}", "taken back")])
    one.delete()


def read(key: str) -> Invited:
    """Raises NotInvited."""
    account_id, invitation_id, made = _parts(key)
    with walls.within(*([account_id] if account_id else [])):
        one = _find(invitation_id, made)
        return Invited(
            to=one.account.name if one.account else one.practice.name,
            by=one.by.name if one.by else "",
            role=as_words(one.role or CONSULTANT),
            email=one.email,
            known=_known(one) is not None,
        )


def take_up(key: str, name: str, password: str) -> tuple[Person, bool]:
    """The person, and whether they were made by it. Raises NotInvited, or BadFields."""
    account_id, invitation_id, made = _parts(key)
    with walls.within(*([account_id] if account_id else [])), transaction.atomic():
        one = _find(invitation_id, made, lock=True)
        person = _known(one)
        known = person is not None
        if person is None:
            person = _make(one, name, password)
        elif not person.is_active:
            Person.objects.filter(id=person.id).update(is_active=True)
        if one.account:
            one.account.memberships.update_or_create(person=person, defaults={"role": one.role})
            entry = audit.Noted(person.name, "invited", f"came in as {as_words(one.role)}")
            audit.note(one.account, person, "team", [entry])
        else:
            person.is_consultant = True
            person.save(update_fields=["is_consultant"])
        one.delete()
    return person, not known


def _parts(key: str) -> tuple[int, int, int]:
    try:
        account_id, invitation_id, made = Signer(salt=SALT).unsign(key).split(".")
    except BadSignature:
        raise NotInvited(GONE) from None
    return int(account_id), int(invitation_id), int(made)


def _find(invitation_id: int, made: int, lock: bool = False) -> Invitation:
    rows = Invitation.objects.select_for_update(of=("self",)) if lock else Invitation.objects
    one = rows.select_related("account", "practice", "by").filter(id=invitation_id, until__gt=clock.now()).first()
    if one is None or int(one.made_at.timestamp() * 1000) != made:
        raise NotInvited(GONE)
    return one


def _known(one: Invitation) -> Person | None:
    """Who signs in with this address already. A person belongs to one practice: another's cannot take it up, and the link,
    which was mailed to that very address, is the only thing that says so."""
    person = Person.objects.filter(email=one.email).first()
    if person and person.practice_id != one.practice_id:
        raise NotInvited("You sign in for another practice with this address. Ask to be invited by another address.")
    return person


def _make(one: Invitation, name: str, password: str) -> Person:
    name = " ".join(name.replace("\0", "").split())
    if not name:
        raise BadFields({"name": "What are you called?"})
    try:
        return Person.objects.create_user(one.email, password, name=name, practice=one.practice)
    except ValidationError as error:
        raise BadFields({"password": " ".join(error.messages)}) from None
