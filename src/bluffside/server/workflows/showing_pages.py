"""The page on which the client reads what goes out in their name, says something about it, and agrees. Nobody signs in."""

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods, require_safe

from bluffside.core.letters.compiling import addressed
from bluffside.core.messages.merge import readable
from bluffside.core.timing.local import to_local
from bluffside.core.words import date_in, time_in
from bluffside.server.messaging.letters import html_for
from bluffside.server.people.signed import BadToken
from bluffside.server.practice import clock
from bluffside.server.practice.brand import contact_page
from bluffside.server.practice.refusals import BadFields
from bluffside.server.practice.walls import within
from bluffside.server.workflows import showing
from bluffside.server.workflows.models import Showing

LARGEST = 100_000  # bytes of what is sent
# A letter within the page: nothing of it is run, and nobody else may frame it.
FRAMED = "default-src 'none'; img-src 'self' https: data:; style-src 'unsafe-inline'; form-action 'none'; frame-ancestors 'self'; sandbox"


DONE = {
    "agreed": "Thank you. It is kept that you agree.",
    "remarked": "Thank you. Your remark is kept, and will be read.",
}


def _found(showing_id: int) -> Showing:
    one = Showing.objects.select_related("account", "workflow", "shown_by").filter(pk=showing_id).first()
    if one is None:
        raise Http404
    return one


def _read(token: str) -> tuple[int, int]:
    try:
        return showing.read_token(token)
    except BadToken:
        raise Http404 from None


@csrf_exempt  # nobody is signed in: whoever has the address may say something, and agree
@require_http_methods(["GET", "POST"])
def shown(request: HttpRequest, token: str) -> HttpResponse:
    if int(request.META.get("CONTENT_LENGTH") or 0) > LARGEST:  # before any of it is read
        return HttpResponse("That is more than fits here.", status=413, content_type="text/plain")
    account_id, showing_id = _read(token)
    with within(account_id):
        one = _found(showing_id)
        if not showing.is_open(one):
            return contact_page(request, "workflows/shown.html", one.account, 410, showing=one, closed=True)
        given: dict[str, str] = {}
        faults: dict[str, str] = {}
        if request.method == "POST":
            given = {name: request.POST.get(name, "") for name in ("does", "line", "who", "words")}
            try:
                return HttpResponseRedirect(
                    f"{request.path}?{_take(one, given)}"
                )  # so that loading it again sends nothing twice
            except BadFields as error:
                faults = error.faults
        document = showing.document_of(one)
        return contact_page(
            request, "workflows/shown.html", one.account, 422 if faults else 200, showing=one, name=document.name, given=given,
            done=next((words for name, words in DONE.items() if name in request.GET), ""),
            lines=showing.lines_of(one, document, clock.now()), whole=one.remarks.filter(line="").order_by("id"), faults=faults,
            is_message=one.workflow.sort == "message", token=token, agreed_on=_day(one),
        )  # fmt: skip


def _day(one: Showing) -> str:
    if one.agreed_at is None:
        return ""
    local, language = to_local(one.agreed_at, one.account.zone), one.account.language
    return f"{date_in(language, local.date())}, {time_in(language, local)}"


def _take(one: Showing, given: dict[str, str]) -> str:
    """What was done, by its name in DONE. Raises BadFields."""
    if given["does"] == "agree":
        showing.agree(one.pk, given["who"])
        return "agreed"
    showing.remark(one.pk, given["line"][:40], given["who"], given["words"])
    return "remarked"


@require_safe
def shown_letter(request: HttpRequest, token: str, line: str, field: str, number: int) -> HttpResponse:
    """A letter of it as it will look, its merge fields by what they are called."""
    account_id, showing_id = _read(token)
    with within(account_id):
        one = _found(showing_id)
        letter = showing.letter_of(one, line, field, number) if showing.is_open(one) else None
        if letter is None:
            raise Http404
        response = HttpResponse(html_for(one.account, addressed(letter, readable)))
    response["Content-Security-Policy"] = FRAMED
    response["X-Frame-Options"] = "SAMEORIGIN"
    response["Cache-Control"] = "no-store"
    return response
