"""Where somebody is signed in: the list of it, ending it, and telling them of a new place."""

from __future__ import annotations

import hashlib
import ipaddress
from datetime import datetime, timedelta
from typing import Any

from allauth.account.app_settings import EmailVerificationMethod
from allauth.account.internal.flows.login import perform_login, record_authentication
from allauth.account.models import Login
from allauth.usersessions.models import UserSession
from django.contrib.sessions.models import Session
from django.http import HttpRequest
from django.utils import timezone

from bluffside.server.practice import clock, staff_mail
from bluffside.server.practice.keeping import session_days
from bluffside.server.practice.models import Person, StaffMail
from bluffside.server.practice.origin import address_of
from bluffside.server.signing_in.mails import written
from bluffside.server.signing_in.models import KnownPlace


def let_in(request: HttpRequest, person: Person) -> None:
    """Signs in whom nobody knew until now: there is no second step to ask them for, and they have just set their password."""
    perform_login(request, Login(user=person, email_verification=EmailVerificationMethod.NONE))
    record_authentication(request, person, method="password", email=person.email)


def begin(request: HttpRequest, person: Person) -> None:
    """What signing in brings with it: how long the session lasts without a request, and a mail if the place is new."""
    request.session.set_expiry(session_days(person.practice) * 86_400)
    _tell_of_new_place(request, person)


def _tell_of_new_place(request: HttpRequest, person: Person) -> None:
    ip, agent = address_of(request), request.headers.get("User-Agent", "")
    digest = hashlib.sha256(f"{_network(ip)} {browser(agent)}".encode()).hexdigest()
    been = KnownPlace.objects.filter(person=person)
    first = not been.exists()
    _, new = been.update_or_create(person=person, digest=digest, defaults={"at": timezone.now()})
    if new and not first:
        words = written("new_place", {"ip": ip, "browser": browser(agent)})
        staff_mail.write(person.email, words.subject, words.text)


def _network(ip: str) -> str:
    """A provider gives out other addresses of the same network each day: that is no new place."""
    try:
        known = ipaddress.ip_address(ip)
    except ValueError:
        return ip
    return str(ipaddress.ip_network(f"{ip}/{24 if known.version == 4 else 56}", strict=False))


def browser(agent: str) -> str:
    """A browser and where it runs, in words, from what it says of itself: "Firefox on Linux"."""
    names = (("Edg/", "Edge"), ("Firefox/", "Firefox"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))
    systems = (("Android", "Android"), ("iPhone", "an iPhone"), ("iPad", "an iPad"), ("Windows", "Windows"),
               ("Macintosh", "a Mac"), ("Linux", "Linux"))  # fmt: skip
    name = next((words for mark, words in names if mark in agent), "an unknown browser")
    system = next((words for mark, words in systems if mark in agent), "")
    return f"{name} on {system}" if system else name


def forget_old(now: datetime) -> None:
    """Sessions that have run out, places not seen for a year, and mail that has long gone."""
    Session.objects.filter(expire_date__lt=now - timedelta(days=1)).delete()
    KnownPlace.objects.filter(at__lt=now - timedelta(days=365)).delete()
    StaffMail.objects.filter(next_try_at=None, made_at__lt=clock.now() - timedelta(days=90)).delete()


def end_the_others(request: HttpRequest | None, user: Person, **_: Any) -> None:
    """After a new password, whoever holds another session of theirs holds nothing any more."""
    held = request.session.session_key if request is not None else None
    for one in UserSession.objects.filter(user=user).exclude(session_key=held or ""):
        one.end()
