"""Requests to outside services about a contact: what is asked, of whom, and where the service is.

Where a service is, the installation says (settings.BLUFFSIDE_SERVICES); one that nobody has named is the stand-in that ships.
"""

from collections.abc import Mapping
from typing import Any

from django.conf import settings

from bluffside.core.facts import Contact
from bluffside.server import sql
from bluffside.server.hooks.sending import NewCall
from bluffside.server.practice.models import Account

STAND_IN = "http://stand-in.example/outside"


def where_is(service: str) -> str:
    return settings.BLUFFSIDE_SERVICES.get(service, f"{STAND_IN}/{service}")


def request_to(
    service: str, body: Mapping[str, Any], contact: Contact, account: Account, key: str, enrolment: int | None = None
) -> NewCall:
    """A request that is made until it is answered, and taken once for a key."""
    person = {"contact": contact.id, "name": contact.name, "email": contact.email, "mobile": contact.mobile}
    text = sql.to_json(dict(body) | {"person": person, "account": account.slug})
    return NewCall(int(contact.id), enrolment, key, "POST", where_is(service), text, service=service)
