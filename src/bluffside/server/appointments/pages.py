"""The page that anybody books on, in the account's brand: the days as lines with their times, and below the day of the one that is
chosen, what is asked. It works without scripts: times are links. What is full can be waited for."""

from collections.abc import Mapping
from typing import Any

from django.core.cache import cache as kept
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods

from bluffside.server import sql
from bluffside.server.appointments import booking, offering, waiting
from bluffside.server.appointments.models import AppointmentType, Sitting
from bluffside.server.appointments.times import instant_of, times_page, when, zone_asked
from bluffside.server.capture import forms
from bluffside.server.capture.answers import BadAnswers
from bluffside.server.capture.models import Form
from bluffside.server.capture.pages import account_of, questions_of
from bluffside.server.people import proposals
from bluffside.server.people.import_rows import split_name
from bluffside.server.people.models import Contact
from bluffside.server.people.services import BadContact, normalised
from bluffside.server.people.signed import appointment_link, keyed
from bluffside.server.practice.brand import contact_page
from bluffside.server.practice.origin import address_of
from bluffside.server.practice.walls import within

LARGEST = 200_000  # bytes of what is sent
AN_HOUR = 20  # bookings from one place
HONEYPOT = "website"
ASKED = ("name", "email", "mobile")
TEMPLATE = "appointments/book.html"


@csrf_exempt  # nobody is signed in; nothing is done for whoever is
@require_http_methods(["GET", "POST"])
def book_page(request: HttpRequest, token: str) -> HttpResponse:
    if int(request.META.get("CONTENT_LENGTH") or 0) > LARGEST:
        return HttpResponse("That is more than is asked here.", status=413, content_type="text/plain")
    with within(account_of("book", token)):
        one = get_object_or_404(AppointmentType.objects.select_related("account"), token=sql.plain(token))
        if not one.open:
            return contact_page(request, TEMPLATE, one.account, 410, type=one, closed=True)
        return _send(request, one) if request.method == "POST" else _show(request, one)


def _show(
    request: HttpRequest,
    one: AppointmentType,
    faults: Mapping[str, str] | None = None,
    said: str = "",
    status: int = 200,
) -> HttpResponse:
    asked = request.POST if request.method == "POST" else request.GET
    offer, form = offering.offer_of(one), form_of(one)
    about: dict[str, Any] = {"typed": {name: asked.get(name, "")[:200] for name in ASKED}}
    if form:
        given = {name: request.POST.getlist(name) for name in request.POST}
        about = questions_of(form, forms.design_of(form), given, dict(faults or {}), request.POST.get("page", ""))
    return contact_page(
        request, TEMPLATE, one.account, status, type=one, offer=offer, faults=faults or {}, said=said,
        asks=form is not None, **times_page(one, asked), **about,
    )  # fmt: skip


def form_of(one: AppointmentType) -> Form | None:
    """The form whose questions are asked of who books; while it is closed, is not there any more, or asks for a time itself, the
    usual ones are."""
    number = offering.offer_of(one).form
    form = Form.objects.filter(account=one.account, pk=number, open=True, for_team=False).first() if number else None
    return form if form and forms.can_be_asked_with_a_time(form) else None


def _send(request: HttpRequest, one: AppointmentType) -> HttpResponse:
    """What is typed is never lost: whatever is wrong is said beside it."""
    start, account, form = instant_of(request.POST.get("at", "")), one.account, form_of(one)
    if start is None:
        return _show(request, one, said="Choose a time first.", status=422)
    if _too_many(request):
        return _show(request, one, said="That could not be booked here. Please ring us.", status=429)
    try:
        contact = _by_form(request, form) if form else _by_name(request, one)
        if contact is None:
            return _show(request, one, said="That could not be booked here. Please ring us.", status=429)
        if request.POST.get("wait"):
            return _wait(request, one, contact, start)
        made = booking.book(one, contact, start)
    except (BadContact, BadAnswers) as error:
        return _show(request, one, error.faults, status=422)
    except booking.NotFree as error:
        return _show(request, one, said=f"{error} These are free now.", status=409)
    except waiting.CannotWait as error:
        return _show(request, one, said=str(error), status=409)
    zone, offer = zone_asked(request.POST, one), offering.offer_of(one)
    dates = [when(each, zone, account.language) for each in offer.beginnings(made.start, account.zone)]
    return contact_page(
        request, TEMPLATE, account, type=one, offer=offer, done=dates[0], dates=dates,
        own_page=appointment_link(account.pk, made.pk),
    )  # fmt: skip


def _wait(request: HttpRequest, one: AppointmentType, contact: Contact, start: Any) -> HttpResponse:
    sitting = Sitting.objects.filter(type=one, start=start).first()
    if sitting is None:
        raise waiting.CannotWait("That time is not full any more: choose it again.")
    made = waiting.join(one, contact, sitting)
    waits = when(start, zone_asked(request.POST, one), one.account.language)
    return contact_page(
        request, TEMPLATE, one.account, type=one, offer=offering.offer_of(one), waits=waits,
        own_page=waiting.link_of(made),
    )  # fmt: skip


def _by_form(request: HttpRequest, form: Form) -> Contact | None:
    """Who answered the form's questions; None for what is taken for spam. Raises BadAnswers."""
    given = {name: request.POST.getlist(name) for name in request.POST}
    return forms.send(form, given, {}, request.POST.get("page", ""), address_of(request)).contact


def _by_name(request: HttpRequest, one: AppointmentType) -> Contact | None:
    """Who said who they are; None for a program. Raises BadContact with all that is wrong."""
    typed = {name: sql.plain(request.POST.get(name, "")).strip()[:200] for name in ASKED}
    own: dict[str, str] = {}
    faults: dict[str, str] = {}
    if not typed["name"]:
        faults["name"] = "Please say who you are."
    for name in ("email", "mobile"):
        try:
            own |= normalised(one.account, {name: typed[name]}) if typed[name] else {}
        except (BadContact, ValueError) as error:
            faults[name] = f"{str(error)[:1].upper()}{str(error)[1:].rstrip('.')}."
    if not typed["email"] and not typed["mobile"]:
        faults["mobile"] = "Please leave a mobile number or an email, so that we can confirm it."
    if faults:
        raise BadContact(faults)
    if request.POST.get(HONEYPOT):
        return None
    own["first_name"], own["last_name"] = split_name(typed["name"])
    with transaction.atomic():
        return proposals.come_in(one.account, proposals.Stated(own, {}, [], f"by booking “{one.name}”"))


def _too_many(request: HttpRequest) -> bool:
    key = f"book:{keyed('booking', address_of(request)).hex()[:32]}"
    count = kept.get(key, 0)
    kept.set(key, count + 1, 3_600)
    return int(count) >= AN_HOUR
