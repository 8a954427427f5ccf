"""Forms, what people sent by them, and their codes to print."""

from typing import Any, Literal

from django.db.models import Count, Max, Q, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.capture import flyer, forms, usages
from bluffside.server.capture.answers import BadAnswers, labelled
from bluffside.server.capture.asking import all_that_can_be_asked
from bluffside.server.capture.design import FormDesign
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.people.api import contact_of
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment

router = Router(tags=["capture"], auth=InAccount())
SHOWN = 100


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


class AnswersIn(Schema):
    """What was typed, by the question's id."""

    answers: dict[str, list[str]]


class FormFaults(Schema):
    """What is wrong, by the question's id; nothing when it was kept."""

    faults: dict[str, str]


class CanBeAsked(Schema):
    """What a question can ask for that is more than words."""

    fills: str
    label: str


class ConsentWords(Schema):
    email: str
    text: str


def _forms(request: AccountRequest) -> QuerySet[Form]:
    """With how many answers were taken and how many look like spam, and when the last was taken."""
    taken = Q(answers__state="taken")
    counts = {"taken": Count("answers", filter=taken), "spam": Count("answers", filter=Q(answers__state="spam"))}
    forms = Form.objects.filter(account=request.account).select_related("account")
    return forms.annotate(**counts, last=Max("answers__at", filter=taken))


def _form_of(request: AccountRequest, form_id: int) -> Form:
    return get_object_or_404(_forms(request), id=form_id)


def _row(request: AccountRequest, form: Any) -> dict[str, Any]:
    """Of a form of `_forms`."""
    return {
        "id": form.id, "name": form.name, "for_team": form.for_team, "open": form.open, "taken": form.taken,
        "spam": form.spam, "last": moment(form.last, request.account.zone) if form.last else "",
    }  # fmt: skip


def _form_out(request: AccountRequest, form: Form) -> FormOut:
    design = forms.design_of(form)
    return FormOut(**_row(request, form), link=flyer.link(form), design=design, problem=design.problem(form.for_team))


@router.get("forms", response=list[FormRow])
def all_forms(request: AccountRequest, account: Path[str]) -> list[FormRow]:
    return [FormRow(**_row(request, one)) for one in _forms(request).order_by("name")]


@router.get("forms/consent-words", response=ConsentWords)
def consent_words(request: AccountRequest, account: Path[str]) -> ConsentWords:
    """Words that consent can be asked for with."""
    own = request.account
    return ConsentWords(email=forms.suggested_words(own, "email"), text=forms.suggested_words(own, "text"))


@router.get("forms/can-be-asked", response=list[CanBeAsked])
def can_be_asked(request: AccountRequest, account: Path[str]) -> list[CanBeAsked]:
    found = all_that_can_be_asked(request.account)
    return [CanBeAsked(fills=fills, label=label) for fills, label in found.items()]


@router.post("forms", response={201: FormOut})
def new_form(request: AccountRequest, account: Path[str], given: NewForm) -> tuple[int, FormOut]:
    require(request, "workflows")
    return 201, _form_out(request, _form_of(request, forms.make(request.account, given.name, given.for_team).id))


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
    usages.rename(form, given.name, request.person)
    return _form_out(request, form)


@router.get("forms/{int:form_id}/answers", response=list[AnswerOut])
def answers(
    request: AccountRequest, account: Path[str], form_id: int, state: Literal["taken", "spam", "test"] = "taken"
) -> list[AnswerOut]:
    """The last hundred."""
    form = _form_of(request, form_id)
    found = FormAnswer.objects.filter(form=form, state=state).select_related("contact", "by").order_by("-at", "-id")
    return [_answer_out(one, form) for one in found[:SHOWN]]


def _answer_out(one: FormAnswer, form: Form) -> AnswerOut:
    design, own = forms.design_of(form), form.account
    known = {each.id for each in design.questions} | {"consent"}
    said = labelled(own, design, one.answers)
    said |= {  # of questions that were taken out since
        id: ", ".join(value) if isinstance(value, list) else str(value)
        for id, value in one.answers.items()
        if id not in known
    }
    return AnswerOut(
        id=one.pk, state=one.state, reason=one.reason, at=moment(one.at, own.zone), contact_id=one.contact_id or 0,
        contact=one.contact.name if one.contact else "", by=one.by.name if one.by else "", answers=said,
        hidden={name: value for name, value in one.hidden.items() if value},
    )  # fmt: skip


@router.post("forms/{int:form_id}/try", response=FormFaults)
def try_form(request: AccountRequest, account: Path[str], form_id: int, given: AnswersIn) -> FormFaults:
    """A test: kept among the tests, and nobody is added."""
    require(request, "workflows")
    try:
        forms.try_out(_form_of(request, form_id), given.answers)
    except BadAnswers as error:
        return FormFaults(faults=error.faults)
    return FormFaults(faults={})


@router.post("forms/{int:form_id}/about/{int:contact_id}", response=FormFaults)
def fill_in(request: AccountRequest, account: Path[str], form_id: int, contact_id: int, given: AnswersIn) -> FormFaults:
    """Somebody of the team fills a form in about a contact."""
    require(request, "people")
    form = _form_of(request, form_id)
    if not form.for_team:
        raise HttpError(409, f"“{form.name}” is filled in by contacts, on its page.")
    try:
        forms.fill_in(form, contact_of(request, contact_id), given.answers, request.person)
    except BadAnswers as error:
        return FormFaults(faults=error.faults)
    return FormFaults(faults={})


@router.post("forms/{int:form_id}/answers/{int:answer_id}/let-in", response=AnswerOut)
def let_in(request: AccountRequest, account: Path[str], form_id: int, answer_id: int) -> AnswerOut:
    """It is no spam: taken as if it had not been held back."""
    require(request, "people")
    form = _form_of(request, form_id)
    answer = get_object_or_404(FormAnswer.objects.select_related("form__account", "by"), form=form, id=answer_id)
    try:
        forms.let_in(answer, request.person)
    except (forms.BadForm, BadAnswers) as error:
        raise HttpError(409, f"It cannot be let in: {error}") from None
    answer.refresh_from_db()
    return _answer_out(answer, form)


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
