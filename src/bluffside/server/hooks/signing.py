"""Signing requests by the Standard Webhooks specification (https://www.standardwebhooks.com, from memory): webhook-id,
webhook-timestamp and webhook-signature "v1," + base64 of HMAC-SHA256 over "id.timestamp.body".

Each account signs by a key of its own, which is sealed at rest, and shown once: when somebody has it made.
"""

import base64
import hmac
import secrets

from django.db import transaction

from bluffside.server.practice import audit
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.sealing import CannotUnseal, seal, unseal


def new_key() -> str:
    return f"whsec_{base64.b64encode(secrets.token_bytes(24)).decode()}"


def signature(key: str, id: str, timestamp: int, body: str) -> str:
    digest = hmac.digest(base64.b64decode(key.removeprefix("whsec_")), f"{id}.{timestamp}.{body}".encode(), "sha256")
    return f"v1,{base64.b64encode(digest).decode()}"


def key_of(account: Account) -> str:
    """The account's, made when there is none, or none that can be opened here (a back-up without its keys)."""
    sealed = Account.objects.values_list("signing_key_sealed", flat=True).get(id=account.id)
    try:
        if key := unseal(sealed):
            return key
    except CannotUnseal:
        pass
    made = seal(new_key())
    Account.objects.filter(id=account.id, signing_key_sealed=sealed).update(signing_key_sealed=made)
    return unseal(Account.objects.values_list("signing_key_sealed", flat=True).get(id=account.id))


def known_key(account: Account) -> str:
    """The account's if it has one that opens; else empty."""
    try:
        return unseal(account.signing_key_sealed)
    except CannotUnseal:
        return ""


@transaction.atomic
def make_anew(account: Account, by: Person) -> str:
    """A new key, which signs from now on; the one before is gone. Answers it: it is not shown again."""
    key = new_key()
    Account.objects.filter(id=account.id).update(signing_key_sealed=seal(key))
    audit.note(account, by, "connections", [audit.Noted("the key that signs requests", "", "made anew")])
    return key
