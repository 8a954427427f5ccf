"""Signing in and out."""

from datetime import timedelta

from axes.handlers.proxy import AxesProxyHandler
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth import authenticate, login
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone

from bluffside.server.practice.keeping import session_days
from bluffside.server.practice.models import Person
from bluffside.server.practice.origin import is_foreign

FROM_ANYWHERE = 30  # wrong passwords for one name in a quarter of an hour, wherever they come from
COOLS_OFF = timedelta(hours=settings.AXES_COOLOFF_TIME)


class CannotSignIn(ValueError):
    """In words that do not tell whether the name exists."""


def sign_in(request: HttpRequest, email: str, password: str) -> Person:
    """Raises CannotSignIn, also for a quarter of an hour after five failures from one place, or thirty from anywhere; and
    for what the page of another site asks."""
    if is_foreign(request):
        raise CannotSignIn("Sign in on the page of Bluffside itself.")
    credentials = {"username": email.replace("\0", "").strip().lower()[:254]}
    if _is_locked(request, credentials):
        raise CannotSignIn("Too many tries. Wait a quarter of an hour, then try again.")
    person = authenticate(request, username=credentials["username"], password=password)
    if not isinstance(person, Person):
        if _is_locked(request, credentials):
            raise CannotSignIn("Too many tries. Wait a quarter of an hour, then try again.")
        raise CannotSignIn("That email and password do not go together.")
    login(request, person)
    request.session.set_expiry(session_days(person.practice) * 86_400)
    return person


def _is_locked(request: HttpRequest, credentials: dict[str, str]) -> bool:
    if AxesProxyHandler.is_locked(request, credentials):
        return True
    since = timezone.now() - COOLS_OFF
    tries = AccessAttempt.objects.filter(username=credentials["username"], attempt_time__gt=since)
    return (tries.aggregate(total=Sum("failures_since_start"))["total"] or 0) >= FROM_ANYWHERE
