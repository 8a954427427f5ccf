"""Secrets at rest: what the database keeps of them is sealed (Fernet: AES-128-CBC with an HMAC, `cryptography`) with a key that
comes from the installation's own, which stands outside the database. What an older key sealed is still read
(`./bluffside new-key`)."""

import base64
from functools import lru_cache

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings

PURPOSE = b"bluffside.sealing"


class CannotUnseal(ValueError):
    """Sealed with a key that this installation does not have, or not sealed at all."""


def seal(text: str) -> str:
    return _keys().encrypt(text.encode()).decode() if text else ""


def unseal(sealed: str) -> str:
    """Raises CannotUnseal."""
    try:
        return _keys().decrypt(sealed).decode() if sealed else ""
    except InvalidToken:
        raise CannotUnseal("It was sealed with a key that is not here.") from None


def _keys() -> MultiFernet:
    return _from((settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS))


@lru_cache(maxsize=8)
def _from(keys: tuple[str, ...]) -> MultiFernet:
    return MultiFernet(
        [
            Fernet(base64.urlsafe_b64encode(HKDF(SHA256(), 32, salt=None, info=PURPOSE).derive(key.encode())))
            for key in keys
        ]
    )
