"""The domains that emails come from: a key for each, signing by it, and what DNS should say of the domain.

SPF is RFC 7208, DKIM RFC 6376, DMARC RFC 7489. Nothing is asked of DNS from here: what it should say is text to be copied.
"""

import base64
from functools import lru_cache
from typing import NamedTuple
from urllib.parse import urlsplit

import dkim
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import rsa
from django.conf import settings

from bluffside.server.messaging.carrier import Signing
from bluffside.server.messaging.models import SenderDomain
from bluffside.server.practice.models import Account
from bluffside.server.practice.sealing import CannotUnseal, seal, unseal

BITS = 2048  # RFC 8301, section 3.2: 1024 at least, 2048 to be used
SELECTOR = "bluffside"
# Signed beside From (RFC 6376, 5.4.1, and RFC 8058, section 4, for the one-click headers).
COVERED = (
    b"from", b"to", b"reply-to", b"subject", b"date", b"message-id", b"mime-version", b"content-type", b"in-reply-to", b"references", b"list-unsubscribe",
    b"list-unsubscribe-post",
)  # fmt: skip


class Record(NamedTuple):
    """A TXT record: at which name, and what it says; `why`: what it is for."""

    name: str
    text: str
    why: str


def of(account: Account, domain: str) -> SenderDomain:
    """The domain's row, with a key made when there was none."""
    found = account.sender_domains.filter(domain=domain).first()
    if found:
        return found
    key = rsa.generate_private_key(65537, BITS)
    pem = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.TraditionalOpenSSL, serialization.NoEncryption()
    )
    public = key.public_key().public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    made, _ = account.sender_domains.get_or_create(
        domain=domain,
        defaults={
            "selector": SELECTOR,
            "key_sealed": seal(pem.decode()),
            "public": base64.b64encode(public).decode(),
            "signs": bool(settings.BLUFFSIDE_SMTP),
        },
    )
    return made


def signing_of(account: Account) -> dict[str, Signing]:
    """By domain, where mail is signed here. A key that cannot be unsealed signs nothing: the mail goes unsigned."""
    found = {}
    for one in account.sender_domains.filter(signs=True):
        try:
            found[one.domain] = Signing(one.domain, one.selector, unseal(one.key_sealed))
        except CannotUnseal:
            continue
    return found


def signed(wire: bytes, signing: Signing) -> bytes:
    """A mail with its signature before it."""
    there = {line.split(b":", 1)[0].lower() for line in wire.split(b"\r\n\r\n", 1)[0].split(b"\r\n")}
    header = dkim.sign(
        wire,
        signing.selector.encode(),
        signing.domain.encode(),
        signing.key.encode(),
        canonicalize=(b"relaxed", b"relaxed"),
        include_headers=[name for name in COVERED if name in there],
    )
    return bytes(header) + wire


def records(domain: str, one: SenderDomain | None, sender: str) -> list[Record]:
    """What DNS should say for the domain; `one` is its key, where one was made."""
    host = urlsplit(settings.BLUFFSIDE_SMTP).hostname or "mail.example.com"
    found = [
        Record(
            domain,
            f"v=spf1 a:{host} ~all",
            "SPF: which servers may send for the domain. There is one such record: where there is one already, put "
            f"“a:{host}” into it.",
        )
    ]
    if one and one.signs:
        key = Record(
            f"{one.selector}._domainkey.{domain}",
            f"v=DKIM1; k=rsa; p={one.public}",
            "DKIM: the key by which receivers see that a mail is yours and came whole.",
        )
        found.append(key)
    policy = f"v=DMARC1; p=none; rua=mailto:{sender}"
    why = "DMARC: what receivers do with mail that fails both. “none” tells you first, and harms nothing."
    return [*found, Record(f"_dmarc.{domain}", policy, why)]


@lru_cache(maxsize=256)
def domain_of(address: str) -> str:
    return address.rpartition("@")[2].lower()
