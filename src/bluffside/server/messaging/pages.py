"""Pages a contact sees: where links lead through, and leaving a list of emails."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods, require_safe

from bluffside.core.messages.closing import words_for
from bluffside.server.messaging import parcels
from bluffside.server.messaging.links import is_robot, read_link, read_unsubscribe, read_web
from bluffside.server.messaging.models import Link, SentLetter
from bluffside.server.messaging.services import click, opt_out
from bluffside.server.people.models import Contact
from bluffside.server.people.proposals import number_now
from bluffside.server.people.queries import account_facts
from bluffside.server.people.signed import BadToken, preferences_link
from bluffside.server.practice.brand import contact_page, nobody_there
from bluffside.server.practice.walls import within


@require_safe
def follow(request: HttpRequest, token: str) -> HttpResponse:
    try:
        account_id, message_id, number = read_link(token)
        with within(account_id):
            try:
                url = click(message_id, number, is_robot(request.method or "", request.headers))
            except Link.DoesNotExist:
                return nobody_there(request, account_id)
    except BadToken:
        raise Http404 from None
    response = HttpResponseRedirect(url)
    response["Cache-Control"] = "no-store"
    return response


# Nothing in a mail is run or embedded, and pictures are all that it may ask for.
ONLY_READ = "default-src 'none'; img-src https: http: data:; style-src 'unsafe-inline'; form-action 'none'; frame-ancestors 'none'; sandbox allow-popups allow-top-navigation-by-user-activation"


@require_safe
def in_the_web(request: HttpRequest, token: str) -> HttpResponse:
    """A letter as it was sent, for whoever has its address, as long as its words are kept."""
    try:
        account_id, message_id = read_web(token)
    except BadToken:
        raise Http404 from None
    with within(account_id):
        sent = SentLetter.objects.filter(message=message_id).select_related("words", "message", "account").first()
        if sent is None:
            return nobody_there(request, account_id)
        response = HttpResponse(parcels.read_in_the_web(sent))
    response["Content-Security-Policy"] = ONLY_READ
    response["X-Robots-Tag"] = "noindex"
    response["Cache-Control"] = "private, no-store"
    response["Referrer-Policy"] = "no-referrer"
    return response


@csrf_exempt  # a mail program posts here with nothing but the address (RFC 8058, section 3.1); the token is signed
@require_http_methods(["GET", "POST"])
def unsubscribe(request: HttpRequest, token: str) -> HttpResponse:
    """GET asks, so that a link checker unsubscribes nobody; POST does it."""
    try:
        account_id, contact_id = read_unsubscribe(token)
    except BadToken:
        raise Http404 from None
    with within(account_id):
        contact_id = number_now(account_id, contact_id)
        contact = Contact.objects.select_related("account").filter(id=contact_id).first()
        if contact is None:
            return nobody_there(request, account_id)
        if request.method == "POST":
            opt_out(contact, "email", "asked on the page for leaving the list")
        about: dict[str, Any] = {
            "contact": contact,
            "own_page": preferences_link(account_id, contact_id),
            "to_own": words_for("email", account_facts(contact.account).care),
            "done": request.method == "POST",
        }
        return contact_page(request, "messaging/unsubscribe.html", contact.account, **about)
