"""Signing in and out."""

from axes.handlers.proxy import AxesProxyHandler
from django.contrib.auth import authenticate, login
from django.http import HttpRequest

from bluffside.server.practice.models import Person


class CannotSignIn(ValueError):
    """In words that do not tell whether the name exists."""


def sign_in(request: HttpRequest, email: str, password: str) -> Person:
    """Raises CannotSignIn, also for a quarter of an hour after five failures."""
    credentials = {"username": email.strip().lower()}
    if AxesProxyHandler.is_locked(request, credentials):
        raise CannotSignIn("Too many tries. Wait a quarter of an hour, then try again.")
    person = authenticate(request, username=credentials["username"], password=password)
    if not isinstance(person, Person):
        if AxesProxyHandler.is_locked(request, credentials):
            raise CannotSignIn("Too many tries. Wait a quarter of an hour, then try again.")
        raise CannotSignIn("That email and password do not go together.")
    login(request, person)
    return person
