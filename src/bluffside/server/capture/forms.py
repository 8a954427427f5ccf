"""Forms: made, filled in by anybody or by the team, kept with what was answered; spam kept apart.

What tells a person from a program, without puzzles: a field that no person sees is empty (honeypot), the page was open
for some seconds, and not very many come from one place in an hour. What fails is not lost: it stands apart with its
reason, and somebody can let it in.
"""

import json
import logging
import secrets
import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db import transaction

from bluffside.core.facts import FieldValue
from bluffside.core.terms import CHANNEL_KINDS
from bluffside.server.capture import confirming, deals_made
from bluffside.server.capture.answers import BadAnswers, answered, labelled, read
from bluffside.server.capture.asking import Gone, all_that_can_be_asked, asking
from bluffside.server.capture.design import FILLS, FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.people import proposals
from bluffside.server.people.import_columns import FIELD
from bluffside.server.people.import_rows import split_name
from bluffside.server.people.models import Contact
from bluffside.server.people.models import Field as FieldModel
from bluffside.server.people.queries import account_facts
from bluffside.server.people.services import (
    change_contact,
    form_sent,
    set_fields,
    sort_in,
    without_held,
)
from bluffside.server.people.signed import fits, keyed
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name

QUICKEST = 3.0  # seconds that a person needs at least
LONGEST = 24 * 3_600.0  # seconds for which a page can be sent
AN_HOUR = 12  # sendings from one place in an hour
HONEYPOT = "website"  # what no person sees
NOT_YET = "it has come in, and was not taken yet"
State = FormAnswer.State
log = logging.getLogger("bluffside.forms")


class BadForm(ValueError):
    """Why a form cannot be as it is asked, in words."""


# ---- making


def make(account: Account, name: str, for_team: bool = False, design: FormDesign | None = None) -> Form:
    """Raises NotAName."""
    return Form.objects.create(
        account=account, name=free_name(Form, "form", account, name), token=secrets.token_urlsafe(9), for_team=for_team,
        design=(design or first_design(name, for_team)).model_dump(mode="json"), made_at=clock.now(),
    )  # fmt: skip


def first_design(name: str, for_team: bool) -> FormDesign:
    """What a new form begins with: enough to be sent."""
    if for_team:
        return FormDesign(
            title=name, questions=[Question(id="q1", label="What did they say?", kind="long")], thanks="Kept."
        )
    return FormDesign(
        title=name,
        questions=[
            Question(id="q1", label="Your name", fills="full_name", required=True),
            Question(id="q2", label="Your email", fills="email", kind="email", required=True),
        ],
    )


@transaction.atomic
def change(form: Form, design: FormDesign, open: bool) -> None:
    """Raises BadForm."""
    known = set(FieldModel.objects.filter(account=form.account).values_list("name", flat=True))
    for question in design.questions:
        fills = question.fills
        if asking(fills):
            if form.for_team or fills not in all_that_can_be_asked(form.account):
                raise BadForm(f"“{question.label}” asks for what cannot be asked here.")
        elif fills and fills not in FILLS and fills.removeprefix(FIELD) not in known:
            raise BadForm(f"“{question.label}” fills a field that is not here any more.")
    form.design, form.open = design.model_dump(mode="json"), open
    form.save(update_fields=["design", "open"])


def design_of(form: Form) -> FormDesign:
    return FormDesign.model_validate(form.design)


def can_be_asked_with_a_time(form: Form) -> bool:
    """Whether its questions can be asked where a time is chosen already: not when it asks for one itself."""
    design = design_of(form)
    return not design.problem(form.for_team) and not any(asking(one.fills) for one in design.questions)


# ---- filling in


@dataclass(frozen=True, slots=True)
class Sent:
    """What came of it. `contact` is None for spam and tests."""

    answer: FormAnswer
    contact: Contact | None


def stamp(form: Form, ago: float = 0) -> str:
    """What a page carries: when it was opened (so many seconds ago), signed, and known by it, so that a doubled sending
    is one."""
    text = f"{int((time.time() - ago) * 10):x}.{secrets.token_hex(6)}"
    return f"{text}.{_written(keyed(f'form:{form.pk}', text))}"


def _written(signature: bytes) -> str:
    return signature.hex()[:16]


def _opened(form: Form, stamped: str) -> tuple[str, float]:
    """The page's key, and for how many seconds it was open; "" when it is no page of this form."""
    text, _, signature = stamped.rpartition(".")
    if not fits(signature, f"form:{form.pk}", text, _written):
        return "", 0.0
    when, _, key = text.partition(".")
    return key, time.time() - int(when, 16) / 10


def send(form: Form, given: Mapping[str, list[str]], hidden: Mapping[str, str], stamped: str, origin: str) -> Sent:
    """Somebody sends the form from its page. Raises BadAnswers; then nothing is kept."""
    design = design_of(form)
    key, seconds = _opened(form, stamped)
    digest = keyed("origin", origin).hex()[:32]
    answers = answered(design, given)
    consent = [str(n) for n in range(len(design.consent)) if given.get(f"consent-{n}")]
    kept = dict(hidden) if len(hidden) <= 20 else {}
    why = _program(given, key)
    if key:  # who goes back and says something else sends another answer
        said = json.dumps([answers, consent], sort_keys=True)
        key = f"{key}:{keyed('answers', said).hex()[:16]}"
    known = FormAnswer.objects.filter(form=form, key=key).select_related("contact").first() if key else None
    if known:
        return Sent(known, known.contact)
    values = {} if why else read(form.account, design, given)
    why = why or _hasty(form, design, seconds, digest)
    # Kept first, whatever comes of it. Two sendings of one page may come at the same moment.
    answer, new = FormAnswer.objects.get_or_create(
        form=form, key=key or secrets.token_hex(8),
        defaults={"account": form.account, "state": State.SPAM, "reason": why or NOT_YET,
                  "answers": answers | ({"consent": consent} if consent else {}), "hidden": kept, "origin": digest,
                  "at": clock.now()},
    )  # fmt: skip
    if not why and new:
        try:
            with transaction.atomic():
                answer.contact = _take(answer, design, values, consent, answers, WORLD)
                answer.state, answer.reason = State.TAKEN, ""
                answer.save(update_fields=["contact", "state", "reason"])
        except BadAnswers:  # somebody was quicker: they choose again, and nothing they typed is lost
            answer.delete()
            raise
        except Exception as error:  # it waits for somebody to let it in; who sent it has done nothing wrong
            log.exception("an answer to a form could not be taken", extra={"account": form.account.slug})
            answer.contact, answer.state = None, State.SPAM
            answer.reason = f"it could not be taken: {type(error).__name__}: {error}"[:200]
            answer.save(update_fields=["reason"])
    return Sent(answer, answer.contact)


def _program(given: Mapping[str, list[str]], key: str) -> str:
    """Why no person can have sent it; empty when one can."""
    if any(given.get(HONEYPOT, ())):
        return "filled in a field that no person sees"
    return "" if key else "did not come from the form’s page"


def _hasty(form: Form, design: FormDesign, seconds: float, origin: str) -> str:
    """Why something that is filled in well may still be spam, and waits for somebody to look; empty when nothing speaks for
    that. Asked last, so that who sends it too soon with something missing is told what."""
    if design.one_device:
        return ""
    if seconds < QUICKEST:
        return f"sent {seconds:.1f} seconds after the page was opened"
    if seconds > LONGEST:
        return "the page had been open for more than a day"
    since = clock.now() - timedelta(hours=1)
    if FormAnswer.objects.filter(account=form.account, origin=origin, at__gt=since).count() >= AN_HOUR:
        return f"more than {AN_HOUR} from one place in an hour"
    return ""


def try_out(form: Form, given: Mapping[str, list[str]]) -> FormAnswer:
    """A test: kept and marked, and nobody is added. Raises BadAnswers."""
    design = design_of(form)
    read(form.account, design, given)
    answers = answered(design, given)
    return FormAnswer.objects.create(
        account=form.account, form=form, key=secrets.token_hex(8), state=State.TEST, answers=answers, at=clock.now()
    )


@transaction.atomic
def fill_in(form: Form, contact: Contact, given: Mapping[str, list[str]], by: Person) -> FormAnswer:
    """Somebody of the team fills it in about a contact. Raises BadAnswers."""
    design = design_of(form)
    values = read(form.account, design, given)
    answers = answered(design, given)
    cause = Cause(actor=by)
    _apply(contact, values, cause)
    _sorted(form, design, contact, cause)
    form_sent(contact, form.name, labelled(form.account, design, answers), cause)
    return FormAnswer.objects.create(
        account=form.account, form=form, contact=contact, key=secrets.token_hex(8), state=State.TAKEN,
        answers=answers, by=by, at=clock.now(),
    )  # fmt: skip


@transaction.atomic
def let_in(answer: FormAnswer, by: Person) -> Contact:
    """Somebody says that it is no spam. What they chose and cannot be had any more is left out. Raises BadAnswers."""
    row = FormAnswer.objects.select_for_update().get(id=answer.id)
    if row.state != State.SPAM:
        raise BadForm("It is let in already.")
    form, design = answer.form, design_of(answer.form)
    given = {id: said if isinstance(said, list) else [said] for id, said in row.answers.items()}
    values = read(form.account, design, given, late=True)
    consent = [str(one) for one in row.answers.get("consent", [])]
    answers = {id: said for id, said in row.answers.items() if id != "consent"}
    contact = _take(row, design, values, consent, answers, Cause(actor=by))
    row.state, row.contact = State.TAKEN, contact
    row.save(update_fields=["state", "contact"])
    return contact


# ---- what is done with answers


def _take(
    answer: FormAnswer, design: FormDesign, values: Mapping[str, Any], consent: list[str],
    answers: Mapping[str, Any], cause: Cause,
) -> Contact:  # fmt: skip
    """The contact the answers are about, found by email or mobile or made; changed, sorted, and told of. What they agree to holds
    once they have confirmed it, where the account asks for that (confirming.py)."""
    form, account = answer.form, answer.form.account
    fields = _own(values)
    source = f"by the form “{form.name}”"
    ticked = [design.consent[int(number)] for number in consent]
    agreed = [
        proposals.Agreed(one.channel, one.purposes, "form", f"ticked on the form “{form.name}”", one.words)
        for one in ticked
    ]
    confirms = account_facts(account).care.confirm_forms
    said = proposals.Stated(fields, _declared(values), [] if confirms else agreed, source)
    contact = proposals.come_in(account, said, cause)
    if confirms:
        to_confirm = [one for one in agreed if confirming.asks_first(contact, one)]
        confirming.ask(answer, contact, to_confirm)
        others = [one for one in agreed if one not in to_confirm]
        proposals.take_consents(contact, proposals.Stated(fields, {}, others, source), cause)
    _sorted(form, design, contact, cause)
    _chosen(design, values, contact, cause)
    form_sent(
        contact,
        form.name,
        labelled(account, design, answers) | {name: said for name, said in answer.hidden.items() if said},
        cause,
    )
    return contact


def _own(values: Mapping[str, Any]) -> dict[str, str]:
    fields = {name: str(value) for name, value in values.items() if name in FILLS and name != "full_name"}
    if "full_name" in values:
        fields["first_name"], fields["last_name"] = split_name(str(values["full_name"]))
    return fields


def _declared(values: Mapping[str, Any]) -> dict[str, FieldValue]:
    return {name.removeprefix(FIELD): value for name, value in values.items() if name.startswith(FIELD)}


def _apply(contact: Contact, values: Mapping[str, Any], cause: Cause) -> None:
    """The team's answers replace old values; an address that is somebody else's is left as it was, and so is a known
    name."""
    fields = {
        name: value
        for name, value in _own(values).items()
        if value and not (name in ("first_name", "last_name") and getattr(contact, name))
    }
    change_contact(contact, without_held(contact, fields), cause)
    set_fields(contact, _declared(values), cause)


def _sorted(form: Form, design: FormDesign, contact: Contact, cause: Cause) -> None:
    sort_in(form.account, contact.id, cause, tags=design.tags, lists=design.lists)
    deals_made.make(contact, design.deal, form.name, cause)


def _chosen(design: FormDesign, values: Mapping[str, Any], contact: Contact, cause: Cause) -> None:
    """What is done with choices that are more than words. Raises BadAnswers."""
    for one in design.questions:
        if one.fills in values and (asks := asking(one.fills)):
            try:
                asks.sort.take(contact, asks.name, values[one.fills], cause)
            except Gone as error:
                raise BadAnswers({one.id: f"{error}."}) from None


def suggested_words(account: Account, channel: str) -> str:
    """Words to ask for consent by that a form begins with."""
    return f"Yes, {account.name} may send me {CHANNEL_KINDS[channel].one}s with news and offers. I can stop them at any time."
