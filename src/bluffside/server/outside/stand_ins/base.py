"""What every stand-in for an outside service declares."""

from collections.abc import Callable
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict


class Person(BaseModel):
    """Whom it is about, as every request to a service says (hooks/services.py)."""

    contact: str
    name: str = ""
    email: str = ""
    mobile: str = ""


class Body(BaseModel):
    """What a service is asked by an account."""

    model_config = ConfigDict(extra="allow")

    account: str


class PersonBody(Body):
    """What a service is asked about somebody; its own requests add the rest."""

    person: Person


def knows_nothing(account: str, contact_id: int) -> list[str]:
    return []


@dataclass(frozen=True, slots=True)
class StandIn:
    """name    as effects call the service, and the last part of the stand-in's address
    takes   the shape of its requests; what does not fit is answered 400
    knows   what the service knows of a contact, in words, by the account's slug and the contact's number: shown beside their
            phone
    """

    name: str
    takes: type[Body] = Body
    knows: Callable[[str, int], list[str]] = knows_nothing
