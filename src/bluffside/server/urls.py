"""Where requests go: the API, a contact's pages, and for all else the web application."""

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from bluffside.server.api import api
from bluffside.server.appointments.own_page import (
    appointment_calendar,
    appointment_page,
    followed_calendar,
    waiting_page,
)
from bluffside.server.appointments.pages import book_page
from bluffside.server.capture.pages import confirm, form, lead, own_page
from bluffside.server.health import health, metrics
from bluffside.server.messaging import pages
from bluffside.server.outside.pages import stand_in
from bluffside.server.practice.pictures import picture
from bluffside.server.workflows.showing_pages import shown, shown_letter


@ensure_csrf_cookie
def web_application(request: HttpRequest, rest: str = "") -> HttpResponse:
    """The one page of the web application; its router reads the address."""
    index = settings.WEB / "index.html"
    if rest.startswith(("api/", "assets/", "_allauth/")) or not index.exists():
        raise Http404
    response = HttpResponse(index.read_bytes())
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [
    path("api/", api.urls),
    path("_allauth/", include("allauth.headless.urls")),
    path("l/<str:token>", pages.follow),
    path("u/<str:token>", pages.unsubscribe),
    path("r/<str:token>", pages.in_the_web),
    path("c/<str:token>", confirm),
    path("book/<str:token>", book_page),
    path("a/<str:token>", appointment_page),
    path("a/<str:token>/calendar.ics", appointment_calendar),
    path("w/<str:token>", waiting_page),
    path("calendar/<str:secret>.ics", followed_calendar),
    path("p/<str:token>", own_page),
    path("f/<str:token>", form),
    path("in/<str:secret>", lead),
    path("b/<str:token>", picture),
    path("s/<str:token>", shown),
    path("s/<str:token>/<str:line>/<str:field>/<int:number>", shown_letter),
    path("outside/<str:service>", stand_in),
    path("health", health),
    path("metrics", metrics),
    re_path(r"^(?P<rest>.*)$", web_application),
]
