"""The first run: a link that `./bluffside serve` prints while nobody can sign in, by which the practice and its first consultant
are made. It holds for a day, and until somebody can sign in; its key stands behind a #, so that no log has it."""

from datetime import timedelta

from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.signing import BadSignature, TimestampSigner
from django.db import transaction

from bluffside.server.practice.models import Installation, Person, Practice
from bluffside.server.practice.refusals import BadFields

SALT = "bluffside.first-run"
LASTS = timedelta(days=1)


class NoFirstRun(ValueError):
    """In words: the link is not one, is too old, or was used."""


def link() -> str:
    return f"{settings.ADDRESS}/begin#{TimestampSigner(salt=SALT).sign('first')}"


@transaction.atomic
def begin(key: str, practice: str, name: str, email: str, password: str) -> Person:
    """The first consultant. Raises NoFirstRun, or BadFields."""
    try:
        TimestampSigner(salt=SALT).unsign(key, max_age=LASTS)
    except BadSignature:
        raise NoFirstRun(
            "This link has run out, or is not whole. Start ./bluffside serve again: it prints a new one."
        ) from None
    Installation.objects.select_for_update().first()  # two who come at once are put in order
    if Person.objects.exists():
        raise NoFirstRun("Somebody can sign in already, so this link is used up. Sign in.")
    said = {"practice": practice, "name": name, "email": email}
    kept = {field: " ".join(value.replace("\0", "").split()) for field, value in said.items()}
    words = {
        "practice": "The practice needs a name.",
        "name": "What are you called?",
        "email": "By which email do you sign in?",
    }
    faults = {field: words[field] for field, value in kept.items() if not value}
    if faults:
        raise BadFields(faults)
    try:
        made = Practice.objects.create(name=kept["practice"])
        person = Person(email=kept["email"].lower(), name=kept["name"], practice=made)
        person.clean_fields(exclude=["password"])
        return Person.objects.create_user(kept["email"], password, name=kept["name"], practice=made, is_consultant=True)
    except ValidationError as error:
        if hasattr(error, "error_dict"):
            raise BadFields({field: " ".join(told) for field, told in error.message_dict.items()}) from None
        raise BadFields({"password": " ".join(error.messages)}) from None
