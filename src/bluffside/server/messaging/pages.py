"""Pages a contact sees: where links lead through, and leaving a list of emails."""

from django.core import signing
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404, render
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_http_methods

from bluffside.server.messaging.models import Link
from bluffside.server.messaging.parcels import contact_of_token
from bluffside.server.messaging.services import click, opt_out
from bluffside.server.people.models import Contact


@require_GET
def follow(request: HttpRequest, code: str) -> HttpResponse:
    try:
        url = click(code)
    except Link.DoesNotExist:
        raise Http404 from None
    response = HttpResponseRedirect(url)
    response["Cache-Control"] = "no-store"
    return response


@csrf_exempt  # a mail program posts here with nothing but the address (RFC 8058, section 3.1); the token is signed
@require_http_methods(["GET", "POST"])
def unsubscribe(request: HttpRequest, token: str) -> HttpResponse:
    """GET asks, so that a link checker unsubscribes nobody; POST does it."""
    try:
        contact = get_object_or_404(Contact.objects.select_related("account"), id=contact_of_token(token))
    except signing.BadSignature:
        raise Http404 from None
    if request.method == "POST":
        opt_out(contact, "email", "asked on the page for leaving the list")
    return render(request, "messaging/unsubscribe.html", {"contact": contact, "done": request.method == "POST"})
