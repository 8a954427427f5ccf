"""Where django-allauth meets Bluffside: whose address, which words, what is sealed. Nobody signs up by themselves."""

import time
from collections.abc import Mapping
from typing import Any

import segno
from allauth.account.adapter import DefaultAccountAdapter
from allauth.account.auth_backends import AuthenticationBackend
from allauth.account.internal.flows.login import get_authentication_records
from allauth.core import context
from allauth.headless.adapter import DefaultHeadlessAdapter
from allauth.mfa.adapter import DefaultMFAAdapter
from django.conf import settings
from django.contrib.auth.base_user import AbstractBaseUser
from django.http import HttpRequest

from bluffside.server.practice import staff_mail
from bluffside.server.practice.models import Person
from bluffside.server.practice.origin import address_of
from bluffside.server.practice.sealing import seal, unseal
from bluffside.server.signing_in import sessions
from bluffside.server.signing_in.locks import is_locked
from bluffside.server.signing_in.mails import written


class Backend(AuthenticationBackend):  # type: ignore[misc]
    """Reads the practice along with the person: every request asks it what it demands."""

    def get_user(self, user_id: Any) -> Person | None:
        person = Person.objects.select_related("practice").filter(pk=user_id).first()
        return person if person and self.user_can_authenticate(person) else None


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    error_messages: Mapping[str, Any] = {
        **DefaultAccountAdapter.error_messages,
        "email_password_mismatch": "That email and password do not go together.",
        "rate_limited": "Too many tries. Wait a while, then try again.",
        "too_many_login_attempts": "Too many tries. Wait a quarter of an hour, then try again.",
        "enter_current_password": "That is not your password.",
        "incorrect_password": "That is not your password.",
    }

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False

    def get_client_ip(self, request: HttpRequest) -> str:
        return address_of(request)

    def pre_authenticate(self, request: HttpRequest, **credentials: Any) -> None:
        if is_locked(request, str(credentials.get("email", ""))):
            raise self.validation_error("too_many_login_attempts")

    def authenticate(self, request: HttpRequest, **credentials: Any) -> AbstractBaseUser | None:
        email = str(credentials.get("email", "")).replace("\0", "").strip().lower()[:254]
        person: AbstractBaseUser | None = super().authenticate(request, **{**credentials, "email": email})
        if person is None and is_locked(request, email):
            raise self.validation_error("too_many_login_attempts")
        return person

    def is_reauthentication_required(self, *, app: str, **kwargs: Any) -> bool:
        """Who has signed in just now has shown who they are; the library would ask once more."""
        request = context.request
        shown = [one["at"] for one in get_authentication_records(request, request.user)]
        lately = bool(shown) and time.time() - max(shown) < settings.ACCOUNT_REAUTHENTICATION_TIMEOUT
        return not lately and bool(super().is_reauthentication_required(app=app, **kwargs))

    def post_login(self, request: HttpRequest, user: Any, **told: Any) -> Any:
        sessions.begin(request, user)
        return super().post_login(request, user, **told)

    def send_mail(self, template_prefix: str, email: str, context: dict[str, Any]) -> None:
        link = context.get("password_reset_url") or context.get("activate_url")
        said = {
            "email": email,
            "link": link,
            "old": context.get("from_email"),
            "new": context.get("to_email"),
            "ip": context.get("ip"),
            "browser": sessions.browser(str(context.get("user_agent") or "")),
        }
        words = written(template_prefix, said)
        staff_mail.write(email, words.subject, words.text)


class SecondStepAdapter(DefaultMFAAdapter):  # type: ignore[misc]
    """Keys and recovery codes are sealed at rest; an account's name stands in the app that shows the codes."""

    error_messages: Mapping[str, Any] = {
        **DefaultMFAAdapter.error_messages,
        "incorrect_code": "That code is not right. It changes every half minute: type the one that shows now.",
    }

    def get_totp_issuer(self) -> str:
        return "Bluffside"

    def encrypt(self, text: str) -> str:
        return seal(text)

    def decrypt(self, encrypted_text: str) -> str:
        return unseal(encrypted_text)


class WebAdapter(DefaultHeadlessAdapter):  # type: ignore[misc]
    """With the address that an authenticator app reads as a picture, drawn here."""

    def populate_response_meta(self, request: HttpRequest, meta: dict[str, Any]) -> None:
        if address := meta.get("totp_url"):
            meta["picture"] = segno.make(address, error="m").svg_data_uri(scale=4, border=2, dark="#22303a")
