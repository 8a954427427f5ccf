"""Who may do what. Every endpoint of an account asks here; a stranger's account does not exist (404).

right        consultant  manager  team member  viewer
see              x          x         x          x
addresses        x          x         x                 (renderer: api.AsTheirRole)
people           x          x         x
tasks            x          x         x
import           x          x
workflows        x          x
set-up           x          x
clock            x                                      move the demo's clock
"""

from typing import Literal

from allauth.mfa.models import Authenticator
from django.http import Http404, HttpRequest
from ninja.errors import HttpError
from ninja.security import APIKeyCookie

from bluffside.server.practice import installation, walls
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.seen import note_seen

Right = Literal["see", "addresses", "people", "tasks", "import", "workflows", "set-up", "clock"]

RIGHT_WORDS: dict[Right, str] = {
    "see": "See results, the diary, workflows and people",
    "addresses": "See email addresses and telephone numbers",
    "people": "Add and change contacts, put them into workflows, answer them",
    "tasks": "Record how calls and to-dos went",
    "import": "Bring in files of contacts, and take them out",
    "workflows": "Write workflows and publish them",
    "set-up": "Say who the business is, its hours, its rules, and who is in the team",
}

RIGHTS: dict[str, frozenset[Right]] = {
    "consultant": frozenset(("see", "addresses", "people", "tasks", "import", "workflows", "set-up", "clock")),
    "manager": frozenset(("see", "addresses", "people", "tasks", "import", "workflows", "set-up")),
    "team": frozenset(("see", "addresses", "people", "tasks")),
    "viewer": frozenset(("see",)),
}


class AccountRequest(HttpRequest):
    """A request that has passed `InAccount`."""

    account: Account
    person: Person
    role: str


def role_in(person: Person, account: Account) -> str:
    """The person's role there; empty when the account is not theirs to enter."""
    if account.practice_id != person.practice_id or account.deleting_at:
        return ""
    if person.is_consultant:
        return "consultant"
    membership = account.memberships.filter(person=person).first()
    return membership.role if membership else ""


class SignedInAtAll(APIKeyCookie):
    """A session of a person who may sign in; CSRF is checked. For what one needs to give oneself a second step."""

    param_name = "sessionid"

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person = request.user
        if not isinstance(person, Person) or not person.is_active:
            return None
        walls.as_person(person)
        note_seen(request, person)
        return person


class SignedIn(SignedInAtAll):
    """And with a second step, where their practice demands one."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person = super().authenticate(request, key)
        if person and needs_second_step(person):
            raise HttpError(403, "Your practice asks everybody for a second step when signing in. Set yours up first.")
        return person


def needs_second_step(person: Person) -> bool:
    """Whether the practice demands one, and they have none: recovery codes alone are none."""
    if not person.practice.second_step:
        return False
    return not Authenticator.objects.filter(user=person).exclude(type=Authenticator.Type.RECOVERY_CODES).exists()


class InAccount(SignedIn):
    """And the account of the path is theirs to enter; else 404, as if it were not there."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person = super().authenticate(request, key)
        if person is None:
            return None
        match = request.resolver_match
        account = (
            Account.objects.select_related("responsible").filter(slug=match.kwargs["account"] if match else "").first()
        )
        role = role_in(person, account) if account else ""
        if account is None or not role:
            raise Http404
        walls.enter(account)
        request.account, request.person, request.role = account, person, role  # type: ignore[attr-defined]
        return person


class InSimulated(InAccount):
    """And something is simulated there; in real use its simulated phones are not there at all."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Person | None:
        person = super().authenticate(request, key)
        if person and not installation.simulates_anything():
            raise Http404
        return person


def rights_of(role: str) -> frozenset[Right]:
    """In real use nobody moves the clock."""
    return RIGHTS[role] - {"clock"} if installation.is_real() else RIGHTS[role]


def require(request: AccountRequest, right: Right) -> None:
    """Raises 403 in words when the person's role lacks the right."""
    if right not in rights_of(request.role):
        raise HttpError(403, f"As {request.role} of {request.account.name} you may not do that; {_who_may(right)} may.")


CALLED = {"consultant": "consultants", "manager": "managers", "team": "team members", "viewer": "viewers"}


def _who_may(right: Right) -> str:
    *most, last = [CALLED[role] for role, rights in RIGHTS.items() if right in rights and role in CALLED]
    return f"{', '.join(most)} and {last}" if most else last
