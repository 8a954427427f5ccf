"""An account's team: roles, what somebody is responsible for, who stands in, and leaving, which hands over all they hold."""

from collections.abc import Callable
from datetime import date
from typing import Any, NamedTuple

from django.db import transaction
from django.db.models import QuerySet

from bluffside.core.workflow.document import walk
from bluffside.server.appointments import sittings
from bluffside.server.diary.models import Appointment, Task
from bluffside.server.events.stream import Cause
from bluffside.server.messaging.models import Correspondence
from bluffside.server.people.models import Contact
from bluffside.server.people.services import set_responsible
from bluffside.server.pipeline.models import Deal
from bluffside.server.practice import audit, clock
from bluffside.server.practice.models import Account, Membership, Person
from bluffside.server.practice.refusals import BadFields
from bluffside.server.set_up.depending import Named, Published
from bluffside.server.signing_in.invitations import as_words


class Holding(NamedTuple):
    """A sort of thing that somebody holds: `of` says which rows of an account; `field` is who holds them."""

    one: str
    several: str
    field: str
    of: Callable[[Account], QuerySet[Any]]


# What is still to be dealt with. What is done stays with who did it; a test asks of every table that names a person.
HOLDINGS = (
    Holding("contact", "contacts", "responsible", lambda account: Contact.objects.filter(account=account)),
    Holding("task", "tasks", "assigned", lambda account: Task.objects.filter(account=account, done_at=None)),
    Holding(
        "appointment",
        "appointments",
        "member",
        lambda account: Appointment.objects.filter(account=account, start__gte=clock.now()),
    ),
    Holding(
        "correspondence",
        "correspondences",
        "assigned",
        lambda account: Correspondence.objects.filter(account=account, waiting_since__isnull=False),
    ),
    Holding("deal", "deals", "owner", lambda account: Deal.objects.filter(account=account, state=Deal.State.OPEN)),
)


def held(account: Account, person: Person) -> dict[str, int]:
    """How many of each sort they hold, by the sort's name for several."""
    return {one.several: one.of(account).filter(**{one.field: person}).count() for one in HOLDINGS}


def named_in(person: Person, workflows: Published) -> list[Named]:
    """Published workflows with a line that names them."""

    def names(step: Any) -> bool:
        assign = getattr(step, "assign", None)
        return assign is not None and person.name in assign.members

    return [one for one, document in workflows.items() if any(names(step) for step in walk(document.steps))]


@transaction.atomic
def change(membership: Membership, by: Person, given: dict[str, Any]) -> None:
    """`given`: role, responsible_for, stand_in (an id, or None). Raises BadFields."""
    account, person = membership.account, membership.person
    entries = []
    if "role" in given and given["role"] != membership.role:
        if given["role"] not in Membership.Role.values:
            raise BadFields({"role": "There is no such role."})
        if person.id == by.id:
            raise BadFields({"role": "Nobody changes their own role: ask somebody else to."})
        old, membership.role = membership.role, given["role"]
        entries.append(audit.Noted(f"{person.name}’s role", as_words(old), as_words(membership.role)))
    if "responsible_for" in given:
        words = " ".join(str(given["responsible_for"]).replace("\0", "").split())
        if words != membership.responsible_for:
            entries.append(audit.Noted(f"what {person.name} is responsible for", membership.responsible_for, words))
            membership.responsible_for = words
    if "stand_in" in given and given["stand_in"] != membership.stand_in_id:
        stand_in = _of_team(account, given["stand_in"], person) if given["stand_in"] else None
        was = membership.stand_in.name if membership.stand_in else ""
        entries.append(audit.Noted(f"who stands in for {person.name}", was, stand_in.name if stand_in else ""))
        membership.stand_in = stand_in
    if entries:
        membership.save()
        audit.note(account, by, "team", entries)


def be_away(account: Account, person: Person, by: Person, first: date | None, last: date | None) -> None:
    """Raises BadFields."""
    if first and last and last < first:
        raise BadFields({"away_until": "The last day comes before the first."})
    old, new = _away_in_words(person), _away_in_words(Person(away_from=first, away_until=last))
    person.away_from, person.away_until = first, last if first else None
    person.save(update_fields=["away_from", "away_until"])
    if old != new:
        audit.note(account, by, "team", [audit.Noted(f"when {person.name} is away", old, new)])


def _away_in_words(person: Person) -> str:
    if not person.away_from:
        return ""
    return f"from {person.away_from}" + (f" to {person.away_until}" if person.away_until else "")


def _of_team(account: Account, person_id: int, but: Person) -> Person:
    found = Person.objects.filter(id=person_id, is_active=True, practice=account.practice_id).exclude(id=but.id)
    inside = found.filter(memberships__account=account) | found.filter(is_consultant=True)
    person = inside.distinct().first()
    if person is None:
        raise BadFields({"to": "Choose somebody of the team."})
    return person


@transaction.atomic
def leave(membership: Membership, by: Person, to_id: int | None) -> dict[str, int]:
    """They lose the account at once, and what they hold goes to somebody of the team; answers how many of each sort. Raises
    BadFields: somebody has to take over what they hold."""
    account, person = membership.account, membership.person
    if person.id == by.id:
        raise BadFields({"to": "Nobody lets themselves go: ask somebody else to."})
    counts = held(account, person)
    to = _of_team(account, to_id, person) if to_id else None
    if to is None and any(counts.values()):
        raise BadFields({"to": "Somebody has to take over what they hold."})
    if to:
        hand_over(account, person, to, Cause(actor=by))
    sittings.hand_over(account, person, to)
    if account.responsible_id == person.id:
        Account.objects.filter(id=account.id).update(responsible=to)
    membership.delete()
    account.memberships.filter(stand_in=person).update(stand_in=None)
    said = ", ".join(f"{count} {name}" for name, count in counts.items() if count)
    gone = f"left; {said} went to {to.name}" if to and said else "left"
    audit.note(account, by, "team", [audit.Noted(person.name, as_words(membership.role), gone)])
    return counts


def hand_over(account: Account, person: Person, to: Person, cause: Cause) -> None:
    contacts, *others = HOLDINGS
    ids = list(contacts.of(account).filter(responsible=person).values_list("id", flat=True))
    set_responsible(account, ids, to, cause)
    for one in others:
        one.of(account).filter(**{one.field: person}).update(**{one.field: to})
