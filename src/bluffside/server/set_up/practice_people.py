"""Who works for the practice: its consultants, everybody who signs in, and helping whoever has lost their second step."""

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.db import transaction

from bluffside.server.practice import audit, staff_mail, walls
from bluffside.server.practice.models import Person, Practice
from bluffside.server.practice.refusals import BadFields
from bluffside.server.signing_in.mails import written


def _note(practice: Practice, by: Person, entry: audit.Noted) -> None:
    """What changes for all accounts stands in each."""
    for account in practice.accounts.all():
        with walls.within(account):
            audit.note(account, by, "team", [entry])


def _but_one(practice: Practice, person: Person) -> None:
    """Raises BadFields: somebody has to be there who may do everything. The caller holds a transaction."""
    Practice.objects.select_for_update().get(id=practice.id)
    others = Person.objects.filter(practice=practice, is_consultant=True, is_active=True).exclude(id=person.id)
    if not others.exists():
        raise BadFields({"person": f"{person.name} is the only consultant: somebody has to be one."})


@transaction.atomic
def be_consultant(person: Person, by: Person, is_one: bool) -> None:
    """Whoever is no consultant any more keeps only the accounts in whose teams they are. Raises BadFields."""
    if person.is_consultant == is_one:
        return
    if person.id == by.id:
        raise BadFields({"person": "Nobody changes their own role: ask somebody else to."})
    if not is_one:
        _but_one(person.practice, person)
    Person.objects.filter(id=person.id).update(is_consultant=is_one)
    old, new = ("", "consultant") if is_one else ("consultant", "no consultant any more")
    _note(person.practice, by, audit.Noted(f"{person.name}’s part in the practice", old, new))


@transaction.atomic
def shut_out(person: Person, by: Person, out: bool) -> None:
    """Whoever is shut out signs in no more, and what they have open is dead at once; letting in again gives all back. Raises
    BadFields."""
    if person.is_active == (not out):
        return
    if person.id == by.id:
        raise BadFields({"person": "Nobody shuts themselves out: ask somebody else to."})
    if out and person.is_consultant:
        _but_one(person.practice, person)
    Person.objects.filter(id=person.id).update(is_active=not out)
    if out:
        end_sessions(person)
    _note(
        person.practice, by, audit.Noted(person.name, "" if out else "shut out", "shut out" if out else "let in again")
    )


def end_sessions(person: Person) -> None:
    for one in UserSession.objects.filter(user=person):
        one.end()


@transaction.atomic
def clear_second_steps(person: Person, by: Person) -> int:
    """For whoever has lost theirs: they sign in with their password alone, are told by mail, and every session of theirs ends.
    Answers how many steps there were."""
    steps = Authenticator.objects.filter(user=person)
    count = steps.exclude(type=Authenticator.Type.RECOVERY_CODES).count()
    if not steps.exists():
        return 0
    steps.delete()
    end_sessions(person)
    words = written("second_steps_cleared", {"name": by.name})
    staff_mail.write(person.email, words.subject, words.text)
    _note(person.practice, by, audit.Noted(f"{person.name}’s second step", "set up", "taken away, as they had lost it"))
    return count


@transaction.atomic
def demand_second_step(practice: Practice, by: Person, demanded: bool) -> None:
    if practice.second_step == demanded:
        return
    practice.second_step = demanded
    practice.save(update_fields=["second_step"])
    words = {True: "asked of everybody", False: "left to each"}
    _note(practice, by, audit.Noted("a second step when signing in", words[not demanded], words[demanded]))
