"""An appointment's own page, by a signed address in whatever is sent about it: to confirm it, to move it, to cancel it, to put it in
a calendar; and the page of somebody who waits for a place. Looking changes nothing, since mail scanners open links: only a button
acts. What is over says so.

    /a/<account>.<appointment>.<signature>          and below it, calendar.ics
    /w/<account>.<who waits>.<signature>
"""

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_http_methods

from bluffside.core.appointments.calendar_text import calendar
from bluffside.server.appointments import booking, offering, waiting
from bluffside.server.appointments.calendars import entry_of, feed
from bluffside.server.appointments.models import AppointmentType, Sitting, Waiting
from bluffside.server.appointments.times import instant_of, times_page
from bluffside.server.appointments.times import when as when_in_words
from bluffside.server.capture.pages import account_of
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment
from bluffside.server.people.signed import BadToken, appointment_link, read_appointment
from bluffside.server.practice import clock
from bluffside.server.practice.brand import contact_page, nobody_there
from bluffside.server.practice.models import Account
from bluffside.server.practice.walls import within

State = Appointment.State
OVER = {
    State.CANCELLED: "This appointment is cancelled.",
    State.MISSED: "This appointment is over.",
    State.ATTENDED: "This appointment is over. Thank you for coming.",
}


@csrf_exempt  # the address is signed, and a mail program's browser has no session here
@require_http_methods(["GET", "POST"])
def appointment_page(request: HttpRequest, token: str) -> HttpResponse:
    account_id, number = _read(token)
    with within(account_id):
        one = _appointment(account_id, number)
        if one is None:
            return nobody_there(request, account_id)
        if request.method == "GET" or over(one):
            return _show(request, one)
        return _act(request, one)


@require_GET
def appointment_calendar(request: HttpRequest, token: str) -> HttpResponse:
    """Its entry, to be put into any calendar (RFC 5545)."""
    account_id, number = _read(token)
    with within(account_id):
        one = _appointment(account_id, number)
        if one is None:
            return nobody_there(request, account_id)
        answer = HttpResponse(calendar(one.account.name, [entry_of(one)]), content_type="text/calendar; charset=utf-8")
        answer["Content-Disposition"] = 'attachment; filename="appointment.ics"'
        answer["Cache-Control"] = "no-store"
        return answer


@require_GET
def followed_calendar(request: HttpRequest, secret: str) -> HttpResponse:
    """A calendar of the team's, by its secret address."""
    account_id = account_of("calendar", secret[:100])
    with within(account_id):
        text = feed(Account.objects.get(pk=account_id), secret)
        if text is None:
            raise Http404
        return HttpResponse(
            text, content_type="text/calendar; charset=utf-8", headers={"Cache-Control": "private, max-age=300"}
        )


def _read(token: str) -> tuple[int, int]:
    try:
        return read_appointment(token)
    except (BadToken, ValueError):
        raise Http404 from None


def _appointment(account_id: int, number: int) -> Appointment | None:
    found = Appointment.objects.filter(account=account_id, pk=number).select_related("account", "contact", "member")
    one = found.first()
    return one.first if one and one.first else one  # of a course, what is booked is its first date


def over(one: Appointment) -> str:
    """Why nothing can be done about it any more, in words; empty while something can."""
    dates = list(diary.dates_of(one))
    if any(each.state in diary.STANDING and (each.end or each.start) > clock.now() for each in dates):
        return ""
    return OVER.get(State(dates[-1].state), "This appointment is over.")


def _latest(one: Appointment, kind: AppointmentType | None) -> Any:
    """Until when it can be moved or cancelled here."""
    return one.start - timedelta(hours=offering.offer_of(kind).change_hours if kind else 0)


def _show(request: HttpRequest, one: Appointment, said: str = "", wrong: str = "", status: int = 200) -> HttpResponse:
    account, kind = one.account, booking.type_of(one)
    gone, latest = over(one), _latest(one, kind)
    late = when_in_words(latest, account.zone, account.language) if latest <= clock.now() else ""
    dates = [when_in_words(each.start, account.zone, account.language) for each in diary.dates_of(one)]
    about: dict[str, Any] = {}
    asked = request.POST if request.method == "POST" else request.GET
    moving = kind is not None and not gone and not late and asked.get("do") == "move" and not said
    if kind and moving:
        about = times_page(kind, asked, one)
        about["when_chosen"] = about.pop("when")
    return contact_page(
        request, "appointments/own_page.html", account, status, one=one, said=said, wrong=wrong, title=one.type,
        with_whom=one.member.first_name if one.member else "", dates=dates, over=gone, late=late, moving=moving,
        can_move=kind is not None, calendar=f"{appointment_link(account.pk, one.pk)}/calendar.ics",
        book_again=_page_of(kind), **about, when=when_in_words(one.start, account.zone, account.language),
    )  # fmt: skip


def _page_of(kind: AppointmentType | None) -> str:
    return f"/book/{kind.token}" if kind and kind.open else ""


def _act(request: HttpRequest, one: Appointment) -> HttpResponse:
    kind, do = booking.type_of(one), request.POST.get("do", "")
    try:
        if do == "confirm":
            if one.state == State.BOOKED:
                diary.settle(one, State.CONFIRMED)
            return _again(request, one, "Thank you. We expect you.")
        if do not in ("move", "cancel") or _latest(one, kind) <= clock.now():
            return _show(request, one, wrong="It is too late to change that here.", status=409)
        if do == "cancel":
            diary.settle(one, State.CANCELLED)
            return _again(request, one, "It is cancelled. Thank you for telling us.")
        start = instant_of(request.POST.get("at", ""))
        if start is None or kind is None:
            return _show(request, one, wrong="Choose a time first.", status=422)
        booking.move(one, start)
        return _again(request, one, "It is moved.")
    except booking.NotFree as error:
        return _show(request, one, wrong=f"{error} Yours stays as it is; these are free now.", status=409)
    except diary.BadAppointment:
        return _again(request, one, "")


def _again(request: HttpRequest, one: Appointment, said: str) -> HttpResponse:
    fresh = _appointment(one.account_id, one.pk)
    assert fresh
    return _show(request, fresh, said)


# ---- who waits


@csrf_exempt  # the address is signed
@require_http_methods(["GET", "POST"])
def waiting_page(request: HttpRequest, token: str) -> HttpResponse:
    try:
        account_id, number = waiting.read(token)
    except (BadToken, ValueError):
        raise Http404 from None
    with within(account_id):
        found = Waiting.objects.filter(account=account_id, pk=number)
        one = found.select_related("sitting__type__account", "contact__account").first()
        if one is None:
            account = Account.objects.get(pk=account_id)
            over = "This is over: the place was taken, or let go. Nothing is booked by this page any more."
            return contact_page(request, "appointments/waits.html", account, 410, title="The waiting list", over=over)
        return _waits(request, one)


def _waits(request: HttpRequest, one: Waiting) -> HttpResponse:
    kind, account, wrong = one.sitting.type, one.sitting.type.account, ""
    at = when_in_words(one.sitting.start, account.zone, account.language)
    until = when_in_words(one.until, account.zone, account.language) if one.until else ""
    about: dict[str, Any] = {"title": kind.name, "when": at, "until": until, "book_again": _page_of(kind)}
    do = request.POST.get("do", "")
    if do == "leave":
        waiting.let_go(one)
        return contact_page(request, "appointments/waits.html", account, over="You do not wait any more.", **about)
    if do == "take":
        try:
            made = take(one)
        except (booking.NotFree, diary.BadAppointment) as error:
            wrong = str(error)
        else:
            fresh = _appointment(account.pk, made.pk)
            assert fresh
            return _show(request, fresh, "The place is yours.")
    return contact_page(request, "appointments/waits.html", account, 409 if wrong else 200, wrong=wrong, **about)


@transaction.atomic
def take(one: Waiting) -> Appointment:
    """They take the place that is kept for them. Raises NotFree."""
    Sitting.objects.select_for_update().get(pk=one.sitting_id)  # first, as whoever gives a place to the next one does
    row = Waiting.objects.select_for_update().filter(pk=one.pk).first()
    if row is None or row.until is None or row.until <= clock.now():
        raise booking.NotFree("The place has gone to the next one who waited.")
    kind, contact, start = one.sitting.type, one.contact, one.sitting.start
    row.delete()  # with it the place that was kept; the sitting stands meanwhile
    return booking.book(kind, contact, start, by_team=booking.ByTeam())
