"""Pages that contacts see, and where other systems send leads: nobody signs in here. What is asked for is known by a
token that cannot be guessed, and each page enters that account alone."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404
from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_http_methods, require_POST

from bluffside.core.own_fields import OWN
from bluffside.core.phone_numbers import as_written
from bluffside.core.terms import ADDRESS_OF, PURPOSES, Channel
from bluffside.core.timing.local import to_local
from bluffside.core.words import place
from bluffside.server import sql
from bluffside.server.capture import confirming, forms, leads, preferences
from bluffside.server.capture.answers import BadAnswers, chosen_in_words
from bluffside.server.capture.asking import asking
from bluffside.server.capture.design import FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer, LeadSource
from bluffside.server.events.stream import Cause
from bluffside.server.people import proposals
from bluffside.server.people.models import Contact, ContactList
from bluffside.server.people.services import BadContact
from bluffside.server.people.signed import BadToken, preferences_link, read_preferences
from bluffside.server.people.values import in_words
from bluffside.server.practice import clock
from bluffside.server.practice.access import RIGHTS, role_in
from bluffside.server.practice.brand import contact_page, nobody_there
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.origin import address_of
from bluffside.server.practice.walls import within

LARGEST = 1_000_000  # bytes of a form as it is sent
FEW = 6  # choices that are shown as buttons rather than folded up
AUTOFILL = {"full_name": "name"} | {name: one.autofill for name, one in OWN.items() if one.autofill}


def account_of(kind: str, token: str) -> int:
    """Whose form, booking page, calendar or lead source it is. Raises Http404."""
    found = sql.rows("SELECT bluffside_account_of(%s, %s)", [kind, sql.plain(token)])[0][0]
    if found is None:
        raise Http404
    return int(found)


# ---- forms


@csrf_exempt  # nobody is signed in; the page carries a signed stamp of its own
@require_http_methods(["GET", "POST"])
def form(request: HttpRequest, token: str) -> HttpResponse:
    if int(request.META.get("CONTENT_LENGTH") or 0) > LARGEST:  # before any of it is read
        return HttpResponse("That is more than a form takes.", status=413, content_type="text/plain")
    with within(account_of("form", token)):
        one = get_object_or_404(Form.objects.select_related("account"), token=token, for_team=False)
        design = forms.design_of(one)
        if not one.open or design.problem(False):
            return contact_page(request, "capture/form.html", one.account, 410, form=one, design=design, closed=True)
        if request.method == "GET":
            hidden = {name: request.GET.get(name, "")[:200] for name in design.hidden}
            return show(request, one, design, {}, hidden, {})
        given = {name: request.POST.getlist(name) for name in request.POST}
        hidden = {name: request.POST.get(f"hidden-{name}", "")[:200] for name in design.hidden}
        try:
            sent = forms.send(one, given, hidden, request.POST.get("page", ""), address_of(request))
        except BadAnswers as error:
            return show(request, one, design, given, hidden, error.faults, request.POST.get("page", ""))
        # What is taken for spam is thanked as well: who sent it learns nothing from the answer.
        return contact_page(
            request, "capture/form.html", one.account, form=one, design=design, thanks=design.thanks,
            chosen=chosen_in_words(one.account, design, sent.answer.answers),
        )  # fmt: skip


def show(
    request: HttpRequest, one: Form, design: FormDesign, given: dict[str, list[str]], hidden: dict[str, str],
    faults: dict[str, str], stamp: str = "",
) -> HttpResponse:  # fmt: skip
    """The form to be filled in, with what was typed before and what is wrong with it."""
    asked = questions_of(one, design, given, faults, stamp)
    return contact_page(
        request, "capture/form.html", one.account, 422 if faults else 200, form=one, design=design, action="",
        hidden=list(hidden.items()), faults=faults, **asked,
    )  # fmt: skip


def questions_of(
    one: Form, design: FormDesign, given: dict[str, list[str]], faults: dict[str, str], stamp: str = ""
) -> dict[str, Any]:
    """What capture/questions.html shows, and the stamp that is sent with the answers."""
    return {
        "stamp": stamp or forms.stamp(one),
        "questions": [_question(one.account, question, given, faults) for question in design.questions],
        "consent": [
            {"words": asked.words, "given": bool(given.get(f"consent-{n}"))} for n, asked in enumerate(design.consent)
        ],
    }


def _question(account: Account, one: Question, given: dict[str, list[str]], faults: dict[str, str]) -> dict[str, Any]:
    said, asks = given.get(one.id, []), asking(one.fills)
    choices = [word.capitalize() for word in one.of.fixed] or one.choices
    # Few choices of the question's own stand there to be ticked; more, or those that go without saying, open from a line.
    ticked = one.of.picks == "several" or (one.of.picks == "one" and not one.of.fixed and len(choices) <= FEW)
    return {
        "id": one.id, "label": one.label, "help": one.help, "kind": one.kind, "required": one.required, "choices": choices,
        "ticked": ticked, "picks": one.of.picks, "given": said, "first": said[0] if said else "", "fault": faults.get(one.id, ""),
        "input": "email" if one.kind == "email" else one.of.input, "attributes": _attributes(one, one.id in faults),
        "asks": asks is not None, "of": asks.choices(account) if asks else [], "where": place(account.zone),
    }  # fmt: skip


def _attributes(one: Question, wrong: bool) -> SafeString:
    said = format_html("")
    if one.required:
        said += format_html(' aria-required="true"')
    if fill := AUTOFILL.get(one.fills):
        said += format_html(' autocomplete="{}"', fill)
    about = [part for part in (f"h-{one.id}" if one.help else "", f"w-{one.id}" if wrong else "") if part]
    if about:
        said += format_html(' aria-describedby="{}"', " ".join(about))
    return said + format_html(' aria-invalid="true"') if wrong else said


# ---- preferences


@csrf_exempt  # the address is signed, and a mail program's browser has no session here
@require_http_methods(["GET", "POST"])
def own_page(request: HttpRequest, token: str) -> HttpResponse:
    """What a contact wants to hear, and how. Looking changes nothing, so that a link checker changes nothing."""
    try:
        account_id, contact_id = read_preferences(token)
    except (BadToken, ValueError):
        raise Http404 from None
    with within(account_id):
        contact_id = proposals.number_now(account_id, contact_id)
        known = Contact.objects.select_related("account")
        contact = known.filter(id=contact_id).first()
        if contact is None:
            return nobody_there(request, account_id)
        if request.method == "GET":
            return _preferences(request, contact)
        inside = request.user if isinstance(request.user, Person) else None
        if inside and "people" not in RIGHTS.get(role_in(inside, contact.account), ()):
            said = "You are signed in, and may look at people here, not change them. Nothing was changed."
            return HttpResponse(said, status=403, content_type="text/plain")
        cause = Cause(actor=inside)
        if request.POST.get("do") == "leave":
            preferences.leave(contact, cause)
            return _preferences(request, contact, left=True)
        if request.POST.get("shown", "") != preferences.as_shown(contact):
            return _preferences(request, contact, stale=True)
        if request.POST.get("do", "").startswith(("right-", "wrong-")):
            return _decided(request, contact, inside)
        try:
            preferences.keep(
                contact,
                {
                    (channel, purpose): f"{channel}-{purpose}" in request.POST
                    for channel in preferences.channels_of(contact)
                    for purpose in PURPOSES
                },
                [one for one in dict.fromkeys(request.POST.getlist("order")) if one in preferences.OFFERED],
                request.POST.getlist("subject"),
                int(request.POST["pause"]) if request.POST.get("pause", "") in ("0", "2", "4", "13") else None,
                {name: request.POST[name] for name in preferences.DETAILS if name in request.POST},
                cause,
            )
        except BadContact as error:
            said = " ".join(f"{text[:1].upper()}{text[1:].rstrip('.')}." for text in error.faults.values())
            return _preferences(request, Contact.objects.select_related("account").get(id=contact_id), fault=said)
        return _preferences(request, Contact.objects.select_related("account").get(id=contact_id), saved=True)


def _decided(request: HttpRequest, contact: Contact, inside: Person | None) -> HttpResponse:
    """They say whether something that came in about them is right."""
    said, _, number = request.POST["do"].partition("-")
    one = next((one for one in proposals.still_open(contact) if str(one.pk) == number), None)
    try:
        if one:
            proposals.settle(one, said == "right", inside)
    except proposals.CannotTake as error:
        return _preferences(request, contact, fault=str(error))
    return _preferences(request, Contact.objects.select_related("account").get(id=contact.id), saved=True)


def _preferences(request: HttpRequest, contact: Contact, **more: Any) -> HttpResponse:
    channels, now = preferences.channels_of(contact), preferences.open_to(contact)
    order = [one for one in preferences.order_of(contact) if one in channels]
    paused = contact.paused_until if contact.paused_until and contact.paused_until > clock.now() else None
    labels = {name: OWN[name].label.capitalize() for name in preferences.DETAILS}
    return contact_page(
        request, "capture/preferences.html", contact.account, 422 if more.get("fault") else 409 if more.get("stale") else 200,
        shown=preferences.as_shown(contact),
        proposals=[
            {"id": one.pk, "label": proposals.label(one.what), "value": "" if one.what.startswith("consent:") else in_words(one.value),
             "source": one.source, "wording": one.about.get("wording", "")}
            for one in proposals.still_open(contact)
        ],
        channels=[_row(contact, channel, now) for channel in channels],
        order=[
            [{"channel": one, "label": preferences.LABELS[one], "chosen": one == place} for one in channels] for place in order
        ],
        subjects=[
            {"name": one.name, "label": one.offered_as or one.name, "on": one.name in contact.lists}
            for one in ContactList.objects.filter(account=contact.account, offered=True).order_by("name")
        ],
        paused=f"{to_local(paused, contact.zone or contact.account.zone):%-d %B %Y}" if paused else "",
        details=[
            {
                "name": name, "label": labels[name], "value": _shown(contact, name), "auto": AUTOFILL[name],
                "input": {"email": "email", "mobile": "tel"}.get(name, "text"),
            }
            for name in preferences.DETAILS
        ],
        **more,
    )  # fmt: skip


def _shown(contact: Contact, name: str) -> str:
    value = str(getattr(contact, name))
    return as_written(value, contact.account.region) if name == "mobile" else value


def _row(contact: Contact, channel: Channel, now: dict[Any, bool]) -> dict[str, Any]:
    label = preferences.LABELS[channel]
    return {
        "label": label,
        "address": as_written(getattr(contact, ADDRESS_OF[channel]), contact.account.region),
        "boxes": [
            {
                "name": f"{channel}-{purpose}",
                "on": now[channel, purpose],
                "label": f"{label}: {preferences.ABOUT[purpose]}",
            }
            for purpose in PURPOSES
        ],
    }


@csrf_exempt  # nobody is signed in; the token is signed, and stands in a message to them alone
@require_http_methods(["GET", "POST"])
def confirm(request: HttpRequest, token: str) -> HttpResponse:
    """What they agreed to on a form: GET asks, so that a link checker agrees to nothing; POST does it."""
    try:
        account_id, answer_id, way = confirming.read(token)
    except BadToken:
        raise Http404 from None
    with within(account_id):
        answer = FormAnswer.objects.select_related("contact__account").filter(pk=answer_id).first()
        if answer is None or answer.contact is None:
            return nobody_there(request, account_id)
        if request.method == "POST":
            confirming.confirm(answer, answer.contact, way)
        about: dict[str, Any] = {
            "words": [one["words"] for one in answer.to_confirm.get(way, [])],
            "done": request.method == "POST",
            "own_page": preferences_link(account_id, answer.contact.id),
        }
        return contact_page(request, "capture/confirm.html", answer.contact.account, **about)


# ---- leads


@csrf_exempt  # another system posts, with the secret in the address
@require_POST
def lead(request: HttpRequest, secret: str) -> HttpResponse:
    """Keeps what came before it answers, so that nothing a source got a 2xx for is lost."""
    with within(account_of("lead", secret)):
        source = get_object_or_404(LeadSource.objects.select_related("account"), digest=leads.digest_of(secret))
        try:
            body = leads.parse(request.body, request.headers.get("Content-Type", ""))
        except leads.BadLead as error:
            return JsonResponse({"error": f"Not taken: {error}."}, status=400)
        key = request.headers.get("webhook-id", "") or request.headers.get("Idempotency-Key", "")
        kept = leads.receive(source, body, key)
        return JsonResponse({"kept": kept.pk, "state": kept.state}, status=202)
