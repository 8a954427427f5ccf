"""Forms and their answers, rules for what comes in, sources of leads, the brand of the pages that contacts see."""

from typing import Any, Literal

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Q
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.core.channels.answers import keyword
from bluffside.core.timing.words import moment
from bluffside.server.capture import flyer, forms, incoming, leads, named
from bluffside.server.capture.design import FormDesign
from bluffside.server.capture.models import Form, FormAnswer, IncomingRule, Lead, LeadSource
from bluffside.server.events.stream import Cause, listen
from bluffside.server.messaging import strangers
from bluffside.server.messaging.models import StrangerMail
from bluffside.server.messaging.services import ask_for_quiet
from bluffside.server.people.api import ContactRow, bad_contact, contact_of, contact_row
from bluffside.server.people.services import BadContact
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.brand import brand_of, is_colour
from bluffside.server.workflows.models import Workflow

router = Router(tags=["capture"], auth=InAccount())
SHOWN = 100


# ---- brand


class BrandIn(Schema):
    colour: str = ""
    line: str = Field(default="", max_length=120)


class BrandOut(BrandIn):
    """`on`: the colour of words on it, ink or paper, whichever reads better."""

    on: str


@router.get("brand", response=BrandOut)
def brand(request: AccountRequest, account: Path[str]) -> BrandOut:
    own = request.account
    return BrandOut(colour=own.brand_colour, line=own.brand_line, on=brand_of(own).on)


@router.put("brand", response=BrandOut)
def set_brand(request: AccountRequest, account: Path[str], given: BrandIn) -> BrandOut:
    require(request, "workflows")
    if given.colour and not is_colour(given.colour):
        raise HttpError(422, "A colour is written like #1d5b66. Nothing was changed.")
    request.account.brand_colour, request.account.brand_line = given.colour.lower(), given.line.strip()
    request.account.save(update_fields=["brand_colour", "brand_line"])
    return brand(request, account)


# ---- what contacts asked the team for


class Pause(Schema):
    """Quiet for so many weeks from now; none: no more."""

    weeks: int = Field(ge=0, le=52)


@router.put("contacts/{int:contact_id}/pause", response=ContactRow)
def quiet(request: AccountRequest, account: Path[str], contact_id: int, pause: Pause) -> ContactRow:
    """The contact asked for quiet: marketing waits until then."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    ask_for_quiet(contact, pause.weeks, Cause(actor=request.person))
    return contact_row(contact_of(request, contact_id))


# ---- forms


class Named(Schema):
    name: str = Field(min_length=1, max_length=120)


class FormIn(Schema):
    design: FormDesign
    open: bool = True


class NewForm(Named):
    for_team: bool = False


class FormRow(Schema):
    id: int
    name: str
    for_team: bool
    open: bool
    taken: int
    spam: int
    last: str


class FormOut(FormRow):
    """`problem`: why it cannot be filled in yet."""

    link: str
    design: FormDesign
    problem: str


class AnswerOut(Schema):
    id: int
    state: str
    reason: str
    at: str
    contact_id: int
    contact: str
    by: str
    answers: dict[str, str]
    hidden: dict[str, str]


class Given(Schema):
    """What was typed, by the question's id."""

    answers: dict[str, list[str]]


class Wrong(Schema):
    """What is wrong, by the question's id; nothing when it was kept."""

    faults: dict[str, str]


class ConsentWords(Schema):
    email: str
    text: str


def _form_of(request: AccountRequest, form_id: int) -> Form:
    return get_object_or_404(Form.objects.select_related("account"), account=request.account, id=form_id)


def _row(request: AccountRequest, form: Form) -> dict[str, Any]:
    counts = FormAnswer.objects.filter(form=form).aggregate(
        taken=Count("id", filter=Q(state="taken")), spam=Count("id", filter=Q(state="spam"))
    )
    last = FormAnswer.objects.filter(form=form, state="taken").order_by("-at").values_list("at", flat=True).first()
    return {
        "id": form.id, "name": form.name, "for_team": form.for_team, "open": form.open,
        "last": moment(last, request.account.zone) if last else "", **counts,
    }  # fmt: skip


def _form_out(request: AccountRequest, form: Form) -> FormOut:
    design = forms.design_of(form)
    return FormOut(**_row(request, form), link=flyer.link(form), design=design, problem=design.problem(form.for_team))


@router.get("forms", response=list[FormRow])
def all_forms(request: AccountRequest, account: Path[str]) -> list[FormRow]:
    found = Form.objects.filter(account=request.account).order_by("name")
    return [FormRow(**_row(request, one)) for one in found]


@router.get("forms/consent-words", response=ConsentWords)
def consent_words(request: AccountRequest, account: Path[str]) -> ConsentWords:
    """Words that consent can be asked for with."""
    own = request.account
    return ConsentWords(email=forms.suggested_words(own, "email"), text=forms.suggested_words(own, "text"))


@router.post("forms", response={201: FormOut})
def new_form(request: AccountRequest, account: Path[str], given: NewForm) -> tuple[int, FormOut]:
    require(request, "workflows")
    return 201, _form_out(request, forms.make(request.account, given.name, given.for_team))


@router.get("forms/{int:form_id}", response=FormOut)
def one_form(request: AccountRequest, account: Path[str], form_id: int) -> FormOut:
    return _form_out(request, _form_of(request, form_id))


@router.put("forms/{int:form_id}", response=FormOut)
def change_form(request: AccountRequest, account: Path[str], form_id: int, given: FormIn) -> FormOut:
    require(request, "workflows")
    form = _form_of(request, form_id)
    try:
        forms.change(form, given.design, given.open)
    except forms.BadForm as error:
        raise HttpError(422, f"{error} The last state that was right is kept.") from None
    return _form_out(request, form)


@router.put("forms/{int:form_id}/name", response=FormOut)
def rename_form(request: AccountRequest, account: Path[str], form_id: int, given: Named) -> FormOut:
    require(request, "workflows")
    form = _form_of(request, form_id)
    named.rename(form, given.name, request.person)
    return _form_out(request, form)


@router.get("forms/{int:form_id}/answers", response=list[AnswerOut])
def answers(
    request: AccountRequest, account: Path[str], form_id: int, state: Literal["taken", "spam", "test"] = "taken"
) -> list[AnswerOut]:
    """The last hundred."""
    form = _form_of(request, form_id)
    labels = {one.id: one.label for one in forms.design_of(form).questions}
    found = FormAnswer.objects.filter(form=form, state=state).select_related("contact", "by").order_by("-at", "-id")
    return [_answer_out(one, labels, request.account.zone) for one in found[:SHOWN]]


def _answer_out(one: FormAnswer, labels: dict[str, str], zone: str) -> AnswerOut:
    said = {
        labels.get(id, id): ", ".join(value) if isinstance(value, list) else str(value)
        for id, value in one.answers.items()
        if id != "consent"
    }
    return AnswerOut(
        id=one.pk, state=one.state, reason=one.reason, at=moment(one.at, zone), contact_id=one.contact_id or 0,
        contact=one.contact.name if one.contact else "", by=one.by.name if one.by else "", answers=said,
        hidden={name: value for name, value in one.hidden.items() if value},
    )  # fmt: skip


@router.post("forms/{int:form_id}/try", response=Wrong)
def try_form(request: AccountRequest, account: Path[str], form_id: int, given: Given) -> Wrong:
    """A test: kept among the tests, and nobody is added."""
    require(request, "workflows")
    try:
        forms.try_out(_form_of(request, form_id), given.answers)
    except forms.BadAnswers as error:
        return Wrong(faults=error.faults)
    return Wrong(faults={})


@router.post("forms/{int:form_id}/about/{int:contact_id}", response=Wrong)
def fill_in(request: AccountRequest, account: Path[str], form_id: int, contact_id: int, given: Given) -> Wrong:
    """Somebody of the team fills a form in about a contact."""
    require(request, "people")
    form = _form_of(request, form_id)
    if not form.for_team:
        raise HttpError(409, f"“{form.name}” is filled in by contacts, on its page.")
    try:
        forms.fill_in(form, contact_of(request, contact_id), given.answers, request.person)
    except forms.BadAnswers as error:
        return Wrong(faults=error.faults)
    return Wrong(faults={})


@router.post("forms/{int:form_id}/answers/{int:answer_id}/let-in", response=AnswerOut)
def let_in(request: AccountRequest, account: Path[str], form_id: int, answer_id: int) -> AnswerOut:
    """It is no spam: taken as if it had not been held back."""
    require(request, "people")
    form = _form_of(request, form_id)
    answer = get_object_or_404(FormAnswer.objects.select_related("form__account", "by"), form=form, id=answer_id)
    try:
        forms.let_in(answer, request.person)
    except (forms.BadForm, forms.BadAnswers) as error:
        raise HttpError(409, f"It cannot be let in: {error}") from None
    answer.refresh_from_db()
    return _answer_out(answer, {one.id: one.label for one in forms.design_of(form).questions}, request.account.zone)


@router.get("forms/{int:form_id}/code.{format}", response={200: str})
def form_code(
    request: AccountRequest, account: Path[str], form_id: int, format: Literal["svg", "png", "pdf"]
) -> HttpResponse:
    """The QR code of the form's page, as a picture or on a flyer."""
    form = _form_of(request, form_id)
    if format == "pdf":
        response = HttpResponse(flyer.flyer(form), content_type="application/pdf")
    else:
        response = HttpResponse(
            flyer.code(form, format), content_type="image/svg+xml" if format == "svg" else "image/png"
        )
    response["Content-Disposition"] = f"inline; filename*=UTF-8''form-{form.id}.{format}"
    return response


# ---- rules for what comes in


class RuleIn(Schema):
    on: bool = True
    channels: list[Literal["email", "text"]] = Field(default=["text"], min_length=1)
    match: incoming.Match = "is"
    words: list[str] = Field(max_length=20)
    acts: incoming.Acts = incoming.Acts()


class RuleOut(RuleIn):
    """`does` in words; `hidden`: why it will not act for some of its words."""

    id: int
    does: str
    hidden: str
    fitted: int
    last: str


class TryText(Schema):
    channel: Literal["email", "text"] = "text"
    text: str = Field(max_length=2_000)


class Tried(Schema):
    """Which rule would act (0: none), and what happens, in words."""

    rule: int
    words: str


def _rules(request: AccountRequest) -> list[RuleOut]:
    rules = incoming.rules_of(request.account)
    hidden = incoming.overlaps(rules)
    names = dict(Workflow.objects.filter(account=request.account).values_list("id", "name"))
    return [
        RuleOut(
            id=one.pk, on=one.on, channels=one.channels, match=one.match, words=one.words,  # type: ignore[arg-type]
            acts=(acts := incoming.Acts.model_validate(one.acts)), does=acts.words(names.get(acts.workflow, "a workflow that is gone")),
            hidden=hidden.get(one.pk, ""), fitted=one.fitted, last=moment(one.last_at, request.account.zone) if one.last_at else "",
        )
        for one in rules
    ]  # fmt: skip


def _rule_of(request: AccountRequest, rule_id: int) -> IncomingRule:
    require(request, "workflows")
    return get_object_or_404(IncomingRule, account=request.account, id=rule_id)


def _write(request: AccountRequest, rule: IncomingRule, given: RuleIn) -> None:
    words = list(dict.fromkeys(word for word in (" ".join(one.split())[:80] for one in given.words) if word))
    if not words:
        raise HttpError(422, "Name at least one word. Nothing was changed.")
    if given.acts.workflow:
        get_object_or_404(Workflow, account=request.account, id=given.acts.workflow)
    rule.on, rule.channels, rule.match, rule.words = given.on, list(given.channels), given.match, words
    rule.acts = given.acts.model_dump()
    rule.save()
    listen(request.account, ["reply.received"])


@router.get("incoming-rules", response=list[RuleOut])
def all_rules(request: AccountRequest, account: Path[str]) -> list[RuleOut]:
    """In the order in which they are asked."""
    return _rules(request)


@router.post("incoming-rules", response={201: list[RuleOut]})
def new_rule(request: AccountRequest, account: Path[str], given: RuleIn) -> tuple[int, list[RuleOut]]:
    require(request, "workflows")
    rules = incoming.rules_of(request.account)
    with transaction.atomic():
        _write(request, IncomingRule(account=request.account, position=rules[-1].position + 1 if rules else 1), given)
    return 201, _rules(request)


@router.put("incoming-rules/{int:rule_id}", response=list[RuleOut])
def change_rule(request: AccountRequest, account: Path[str], rule_id: int, given: RuleIn) -> list[RuleOut]:
    rule = _rule_of(request, rule_id)
    with transaction.atomic():
        _write(request, rule, given)
    return _rules(request)


@router.post("incoming-rules/{int:rule_id}/{way}", response=list[RuleOut])
def move_rule(request: AccountRequest, account: Path[str], rule_id: int, way: Literal["up", "down"]) -> list[RuleOut]:
    """One place earlier or later."""
    rule = _rule_of(request, rule_id)
    rules = incoming.rules_of(request.account)
    at = next(n for n, one in enumerate(rules) if one.pk == rule.pk)
    to = at + (-1 if way == "up" else 1)
    if 0 <= to < len(rules):
        rules[at], rules[to] = rules[to], rules[at]
    for position, one in enumerate(rules, start=1):
        one.position = position
    IncomingRule.objects.bulk_update(rules, ["position"])
    return _rules(request)


@router.delete("incoming-rules/{int:rule_id}", response=list[RuleOut])
def drop_rule(request: AccountRequest, account: Path[str], rule_id: int) -> list[RuleOut]:
    _rule_of(request, rule_id).delete()
    return _rules(request)


@router.post("incoming-try", response=Tried)
def try_text(request: AccountRequest, account: Path[str], given: TryText) -> Tried:
    """What a text would do. Nothing is done."""
    said = keyword(given.text)
    if said == "out":
        return Tried(rule=0, words="Opts them out at once; no rule is asked.")
    if said == "in":
        return Tried(rule=0, words="Opts them in again; no rule is asked.")
    rule = incoming.first_that_fits(incoming.rules_of(request.account), given.channel, given.text)
    if rule is None:
        return Tried(rule=0, words="No rule fits: it waits under Today for somebody to answer.")
    at, found = next((at, one) for at, one in enumerate(_rules(request), start=1) if one.id == rule.pk)
    return Tried(rule=rule.pk, words=f"Rule {at} acts: {found.does}.")


# ---- emails from people nobody knows


class StrangerOut(Schema):
    """`text` is how the mail begins."""

    id: int
    address: str
    name: str
    subject: str
    text: str
    at: str


@router.get("strangers", response=list[StrangerOut])
def all_strangers(request: AccountRequest, account: Path[str]) -> list[StrangerOut]:
    """The newest hundred, kept apart until somebody takes the writer in or throws the mail away."""
    require(request, "people")
    found = StrangerMail.objects.filter(account=request.account).order_by("-received_at", "-id")[:SHOWN]
    return [
        StrangerOut(
            id=one.pk, address=one.address, name=one.name, subject=one.subject, text=one.text[:600],
            at=moment(one.received_at, request.account.zone),
        )
        for one in found
    ]  # fmt: skip


def _stranger_of(request: AccountRequest, stranger_id: int) -> StrangerMail:
    require(request, "people")
    return get_object_or_404(StrangerMail.objects.select_related("account"), account=request.account, id=stranger_id)


@router.post("strangers/{int:stranger_id}/take-in", response=ContactRow)
def take_in_stranger(request: AccountRequest, account: Path[str], stranger_id: int) -> ContactRow:
    """The writer becomes a contact, and what they wrote a reply of theirs."""
    mail = _stranger_of(request, stranger_id)
    try:
        return contact_row(strangers.take_in(mail, Cause(actor=request.person)))
    except BadContact as error:
        raise bad_contact(error) from None


@router.delete("strangers/{int:stranger_id}", response={204: None})
def drop_stranger(request: AccountRequest, account: Path[str], stranger_id: int) -> tuple[int, None]:
    _stranger_of(request, stranger_id).delete()
    return 204, None


# ---- leads


class SourceIn(Schema):
    on: bool
    matching: leads.Matching


class SourceRow(Schema):
    """`seconds`: how long ago something came last; -1: never."""

    id: int
    name: str
    on: bool
    ready: bool
    last: str
    taken: int
    waiting: int
    failed: int


class LeadOut(Schema):
    id: int
    state: str
    reason: str
    at: str
    contact_id: int
    contact: str
    values: list[tuple[str, str]]


class SourceOut(SourceRow):
    """`values`: the paths and values of the sample; `understood`: what it would become, or `fault` says why not."""

    url: str
    matching: leads.Matching
    values: list[tuple[str, str]]
    understood: dict[str, str]
    fault: str
    leads: list[LeadOut]


def _source_of(request: AccountRequest, source_id: int) -> LeadSource:
    return get_object_or_404(LeadSource.objects.select_related("account"), account=request.account, id=source_id)


def _source_row(request: AccountRequest, source: LeadSource) -> dict[str, Any]:
    counts = dict(Lead.objects.filter(source=source).values_list("state").annotate(count=Count("id")).order_by())
    return {
        "id": source.id, "name": source.name, "on": source.on, "ready": leads.Matching.model_validate(source.matching).ready(),
        "last": moment(source.last_at, request.account.zone) if source.last_at else "",
        "taken": counts.get("taken", 0), "waiting": counts.get("waiting", 0), "failed": counts.get("failed", 0),
    }  # fmt: skip


def _source_out(request: AccountRequest, source: LeadSource) -> SourceOut:
    matching, values = (
        leads.Matching.model_validate(source.matching),
        list(leads.paths(source.sample))[: leads.MOST_PATHS],
    )
    understood, fault = {}, ""
    if source.sample is not None:
        try:
            understood = leads.understood(request.account, matching, source.sample)
        except ValueError as error:
            fault = str(error)
    last = Lead.objects.filter(source=source).select_related("contact").order_by("-id")[:30]
    return SourceOut(
        **_source_row(request, source), url=f"{settings.ADDRESS}/in/{source.secret}", matching=matching, values=values,
        understood=understood, fault=fault,
        leads=[
            LeadOut(
                id=one.pk, state=one.state, reason=one.reason, at=moment(one.at, request.account.zone),
                contact_id=one.contact_id or 0, contact=one.contact.name if one.contact else "",
                values=list(leads.paths(one.body))[:12],
            )
            for one in last
        ],
    )  # fmt: skip


@router.get("lead-sources", response=list[SourceRow])
def all_sources(request: AccountRequest, account: Path[str]) -> list[SourceRow]:
    found = LeadSource.objects.filter(account=request.account).order_by("name")
    return [SourceRow(**_source_row(request, one)) for one in found]


@router.post("lead-sources", response={201: SourceOut})
def new_source(request: AccountRequest, account: Path[str], given: Named) -> tuple[int, SourceOut]:
    require(request, "workflows")
    return 201, _source_out(request, leads.make(request.account, given.name))


@router.get("lead-sources/{int:source_id}", response=SourceOut)
def one_source(request: AccountRequest, account: Path[str], source_id: int) -> SourceOut:
    require(request, "workflows")
    return _source_out(request, _source_of(request, source_id))


@router.put("lead-sources/{int:source_id}", response=SourceOut)
def change_source(request: AccountRequest, account: Path[str], source_id: int, given: SourceIn) -> SourceOut:
    require(request, "workflows")
    source = _source_of(request, source_id)
    source.on, source.matching = given.on, given.matching.model_dump()
    source.save(update_fields=["on", "matching"])
    return _source_out(request, source)


@router.put("lead-sources/{int:source_id}/name", response=SourceOut)
def rename_source(request: AccountRequest, account: Path[str], source_id: int, given: Named) -> SourceOut:
    require(request, "workflows")
    source = _source_of(request, source_id)
    named.rename(source, given.name, request.person)
    return _source_out(request, source)


@router.post("lead-sources/{int:source_id}/replay", response=SourceOut)
def replay(request: AccountRequest, account: Path[str], source_id: int) -> SourceOut:
    """Tries what waits or failed again."""
    require(request, "workflows")
    source = _source_of(request, source_id)
    leads.replay(source)
    return _source_out(request, source)
