"""Whoever sends a form or a lead about somebody who is known takes nothing over: only what is empty is filled, all else waits
for the team or the contact themselves. And links that were sent work for ever, without undoing what was said since."""

import json
import re
import unicodedata
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bluffside.core.facts import Contact as FactsContact
from bluffside.core.facts import Facts
from bluffside.core.messages.merge import render
from bluffside.server import sql
from bluffside.server.capture import forms, leads
from bluffside.server.capture.design import Asked, FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.messaging.links import unsubscribe_token
from bluffside.server.messaging.models import Message
from bluffside.server.messaging.services import ask_for_quiet, opt_out, take_reply
from bluffside.server.people import imports, proof
from bluffside.server.people.erasing import erase
from bluffside.server.people.merging import merge
from bluffside.server.people.models import Consent, Contact, Field, Proposal
from bluffside.server.people.services import add_contact, add_note, contact_at, set_consent
from bluffside.server.people.signed import preferences_link
from bluffside.server.people.spreadsheet import as_it_was, harmless
from bluffside.server.practice import clock
from bluffside.server.practice.models import Membership, Person
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House
from tests.server.visiting import fill, lead_of, outside

Send = Callable[..., Any]
ANA = {"first_name": "Ana", "last_name": "Reyes", "email": "ana@example.com", "mobile": "+447700900001"}
WORDS = "Yes, write to me."


@pytest.fixture
def form(house: House, monkeypatch: pytest.MonkeyPatch) -> Form:
    monkeypatch.setattr(forms, "QUICKEST", 0.0)
    monkeypatch.setattr(forms, "AN_HOUR", 10_000)
    Field.objects.create(account=house.sailing, name="Boat", kind="text")
    made = forms.make(house.sailing, "Open day")
    fills = {
        "first_name": "first_name",
        "last_name": "last_name",
        "email": "email",
        "mobile": "mobile",
        "Boat": "field:Boat",
    }
    questions = [Question(id=name.replace("_", "").lower(), label=name, fills=to) for name, to in fills.items()]
    consent = [Asked(channel="text", words=WORDS), Asked(channel="email", words=WORDS)]
    forms.change(made, FormDesign(title="Come", questions=questions, consent=consent), True)
    return made


def by_form(house: House, form: Form, said: dict[str, str], agrees: bool = True) -> None:
    given = {name.replace("_", "").lower(): value for name, value in said.items()}
    ticks = {"consent-0": "yes", "consent-1": "yes"} if agrees else {}
    assert fill(form, **given, **ticks).status_code == 200


def by_lead(house: House, form: Form, said: dict[str, str], agrees: bool = True) -> None:
    source = house.sailing.lead_sources.filter(name="Advert").first() or leads.make(house.sailing, "Advert")
    leads.address_anew(source)
    fields = [{"path": name, "fills": "field:Boat" if name == "Boat" else name} for name in ("Boat", *ANA)]
    source.matching = {"fields": fields, "consent": "text" if agrees else "", "duplicates": "overwrite"}
    source.save()
    assert lead_of(f"/in/{source.secret}", said).status_code == 202


WAYS = pytest.mark.parametrize("send", [by_form, by_lead], ids=["form", "lead"])


def state_of(contact: Contact) -> Any:
    row = Contact.objects.get(id=contact.id)
    consents = row.consents.order_by("channel", "purpose").values_list("channel", "purpose", "state")
    return [getattr(row, name) for name in ANA], row.fields, list(consents)


@WAYS
@pytest.mark.parametrize(
    "said",
    [
        {"email": "stranger@example.com", "mobile": ANA["mobile"], "first_name": "Eve"},
        {"email": ANA["email"], "mobile": "+447700900099", "Boat": "Barge"},
    ],
    ids=["knows the mobile", "knows the email"],
)
def test_a_stranger_who_knows_one_address_changes_nothing_and_reads_nothing(
    house: House, form: Form, send: Send, said: dict[str, str]
) -> None:
    ana = add_contact(house.sailing, ANA)
    Contact.objects.filter(id=ana.id).update(fields={"Boat": "Dinghy"})
    set_consent(house.sailing, [ana.id], "text", False, "texted STOP")
    before = state_of(ana)
    send(house, form, {name: value for name, value in said.items() if name != "Boat"})
    send(house, form, said)
    after = state_of(ana)
    assert after[:2] == before[:2] and set(before[2]) <= set(after[2])  # who names an email may agree for it, no more
    assert Contact.objects.count() == 1
    theirs = next(value for value in said.values() if value in ("stranger@example.com", "+447700900099"))
    until_quiet()
    assert not Message.objects.filter(address=theirs).exists()
    assert contact_at(house.sailing, "email" if "@" in theirs else "text", theirs) is None
    take_reply(house.sailing, "text", "+447700900099", "help", "k")  # no page is opened for the stranger's mobile
    until_quiet()
    assert not Message.objects.filter(
        address="+447700900099", body__contains=preferences_link(house.sailing.id, ana.id)
    )
    assert {one.what for one in Proposal.objects.filter(contact=ana)} >= {"email" if "@" in theirs else "mobile"}


SAID = st.fixed_dictionaries(
    {"email": st.sampled_from(["a@example.com", "b@example.com"])},
    optional={
        "mobile": st.sampled_from(["+447700900001", "+447700900002"]),
        "first_name": st.sampled_from(["Ana", "Ben"]),
        "Boat": st.sampled_from(["Dinghy", "Kayak"]),
    },
)


@WAYS
@settings(max_examples=12, suppress_health_check=list(HealthCheck), deadline=None)
@given(st.lists(SAID, min_size=2, max_size=6))
def test_two_unrelated_senders_never_change_what_is_filled(
    house: House, form: Form, send: Send, sent: list[Any]
) -> None:
    Contact.objects.all().delete()
    seen: dict[int, dict[str, Any]] = {}
    for said in sent:
        send(house, form, said)
        for row in Contact.objects.all():
            now = {name: getattr(row, name) for name in ANA} | row.fields
            now |= {f"{one.channel} {one.purpose}": one.state for one in row.consents.all()}
            kept = seen.setdefault(row.id, {})
            assert kept == {name: now[name] for name in kept}
            kept |= {name: value for name, value in now.items() if value}


@WAYS
def test_what_is_empty_is_filled_and_a_trusted_source_changes_what_is_known(
    house: House, form: Form, send: Send
) -> None:
    nameless = add_contact(house.sailing, {"email": ANA["email"]})
    send(house, form, ANA | {"Boat": "Dinghy"})
    nameless.refresh_from_db()
    assert (nameless.name, nameless.mobile, nameless.fields) == ("Ana Reyes", "", {"Boat": "Dinghy"})
    source = leads.make(house.sailing, "Own shop")
    fields = [{"path": name, "fills": name} for name in ANA]
    source.matching = {"fields": fields, "duplicates": "overwrite", "trusted": True}
    source.save()
    lead_of(f"/in/{source.secret}", ANA | {"first_name": "Anna"})
    nameless.refresh_from_db()
    assert (nameless.first_name, nameless.mobile) == ("Anna", ANA["mobile"])


def test_the_team_decides_what_is_taken_up(house: House, form: Form, api: Any) -> None:
    ana = add_contact(house.sailing, {"first_name": "Ana", "email": ANA["email"]})
    by_form(house, form, {"email": ANA["email"], "mobile": ANA["mobile"], "first_name": "Anna"})
    _, rows = api("GET", "proposals")
    assert [(one["what"], one["value"], one["now"]) for one in rows] == [
        ("first name", "Anna", "Ana"), ("mobile number", ANA["mobile"], ""), ("consent to texts for marketing", "agrees", ""),
    ]  # fmt: skip
    assert not Consent.objects.filter(channel="text").exists()
    assert (
        api("POST", f"proposals/{rows[1]['id']}/take")[0] == api("POST", f"proposals/{rows[0]['id']}/leave")[0] == 204
    )
    assert api("POST", f"proposals/{rows[2]['id']}/take")[0] == 204
    ana.refresh_from_db()
    said = Consent.objects.get(channel="text")
    assert (ana.mobile, ana.first_name, said.state, said.wording) == (ANA["mobile"], "Ana", "given", WORDS)
    assert "taken up by" in said.evidence
    assert api("GET", f"proposals?contact={ana.id}")[1] == []


def test_who_has_opted_out_is_in_again_by_their_own_word_alone(house: House, form: Form, api: Any) -> None:
    ana = add_contact(house.sailing, ANA)
    opt_out(ana, "text", "texted STOP")
    by_form(house, form, {"email": ANA["email"], "mobile": ANA["mobile"]})
    [row] = [one for one in api("GET", "proposals")[1] if "texts" in one["what"]]
    assert row["alone"] and api("POST", f"proposals/{row['id']}/take")[0] == 409
    assert Consent.objects.get(channel="text", purpose="marketing").state == "withdrawn"
    path = preferences_link(house.sailing.id, ana.id).removeprefix("http://127.0.0.1:8000")
    page = outside(path).content.decode()
    assert "Is this right?" in page and WORDS in page
    [shown] = re.findall(r'name="shown" value="(\w+)"', page)
    assert outside(path, {"shown": shown, "do": f"right-{row['id']}"}).status_code == 200
    assert Consent.objects.get(channel="text", purpose="marketing").state == "given"


# ---- links that were sent


def test_a_page_that_was_opened_before_a_stop_never_undoes_it(house: House) -> None:
    ana = add_contact(house.sailing, ANA)
    path = preferences_link(house.sailing.id, ana.id).removeprefix("http://127.0.0.1:8000")
    [shown] = re.findall(r'name="shown" value="(\w+)"', outside(path).content.decode())
    take_reply(house.sailing, "text", ANA["mobile"], "STOP", "stop")
    ticked = {f"{channel}-{purpose}": "yes" for channel in ("email", "text") for purpose in ("marketing", "service")}
    late = outside(path, {"shown": shown, "do": "save", **ANA, **ticked, "first_name": "Anna"})
    assert (late.status_code, "changed since you opened" in late.content.decode()) == (409, True)
    assert late.headers["Cache-Control"] == "no-store"
    assert set(Consent.objects.filter(channel="text").values_list("state", flat=True)) == {"withdrawn"}
    assert Contact.objects.get().first_name == "Ana"


def test_links_of_somebody_who_was_merged_work_and_a_link_to_nobody_says_whose_it_was(house: House) -> None:
    first, second, third = (house.contact(number) for number in (1, 2, 3))
    path = preferences_link(house.sailing.id, first.id).removeprefix("http://127.0.0.1:8000")
    leave = f"/u/{unsubscribe_token(house.sailing.id, first.id)}"
    gone = first.id
    merge(house.sailing, second.id, gone, [], WORLD)
    merge(house.sailing, third.id, second.id, [], WORLD)
    assert outside(path).status_code == 200
    assert outside(leave, {"List-Unsubscribe": "One-Click"}).status_code == 200  # RFC 8058, section 3.1
    assert {one.contact_id for one in Consent.objects.filter(channel="email", state="withdrawn")} == {third.id}
    Contact.objects.all().delete()
    for link in (path, leave):
        answer = outside(link)
        assert answer.status_code == 410 and house.sailing.name in answer.content.decode()


# ---- every sending is kept


def test_going_back_and_saying_something_else_is_another_answer(house: House, form: Form) -> None:
    stamp = forms.stamp(form)
    for email in ("a@example.com", "a@example.com", "b@example.com"):
        assert fill(form, page=stamp, email=email).status_code == 200
    assert sorted(Contact.objects.values_list("email", flat=True)) == ["a@example.com", "b@example.com"]
    assert FormAnswer.objects.count() == 2


def test_a_form_on_one_device_takes_many_quickly(house: House, form: Form, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(forms, "QUICKEST", 60.0)
    monkeypatch.setattr(forms, "AN_HOUR", 2)
    fill(form, email="spam@example.com")
    assert FormAnswer.objects.get().state == "spam"  # kept, and shown on Today
    forms.change(form, forms.design_of(form).model_copy(update={"one_device": True}), True)
    for number in range(5):
        fill(form, email=f"p{number}@example.com")
    assert FormAnswer.objects.filter(state="taken").count() == 5 == Contact.objects.count()


def test_json_of_a_proposal_survives_whatever_was_said(house: House, form: Form) -> None:
    ana = add_contact(house.sailing, ANA)
    Contact.objects.filter(id=ana.id).update(fields={"Boat": "Dinghy"})
    by_lead(house, form, {"email": ANA["email"], "Boat": json.loads('"\\u0001\\ud7ff {{ x }} <b>"')}, agrees=False)
    assert Proposal.objects.get().value.endswith("<b>")


# ---- from inside


def test_who_may_not_change_people_does_not_by_a_contacts_own_page_and_who_may_is_named(
    house: House, signed_in: Any
) -> None:
    ana = add_contact(house.sailing, ANA)
    path = preferences_link(house.sailing.id, ana.id).removeprefix("http://127.0.0.1:8000")
    viewer = Person.objects.create_user("viewer@example.com", "long-enough-7", name="Vi", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=viewer, role="viewer")
    assert signed_in(viewer).post(path, {"do": "leave"}).status_code == 403
    assert not Contact.objects.get().do_not_contact
    assert signed_in(house.consultant).post(path, {"do": "leave"}).status_code == 200
    assert {one.actor_id for one in Event.objects.filter(kind="consent.withdrawn")} == {house.consultant.id}


def test_who_may_not_change_people_reads_no_link_to_their_own_page(house: House, signed_in: Any) -> None:
    ana = add_contact(house.sailing, ANA)
    token = preferences_link(house.sailing.id, ana.id).rpartition("/p/")[2]
    add_note(ana, f"We sent: http://127.0.0.1:8000/p/{token} and more", Cause(actor=house.consultant))
    viewer = Person.objects.create_user("viewer@example.com", "long-enough-7", name="Vi", practice=house.practice)
    Membership.objects.create(account=house.sailing, person=viewer, role="viewer")
    read = {
        who.email: signed_in(who).get(f"/api/accounts/sailing/contacts/{ana.id}/story").content.decode()
        for who in (viewer, house.consultant)
    }
    assert token not in read["viewer@example.com"] and "and more" in read["viewer@example.com"]
    assert token in read[house.consultant.email]


def test_proof_of_consent_says_years_local_times_and_words(house: House) -> None:
    with clock.at(datetime(2026, 7, 1, 8, 30, tzinfo=UTC)):
        ana = add_contact(house.sailing, ANA)
        set_consent(house.sailing, [ana.id], "text", True, "signed it", how="form", wording="May we text you?")
        set_consent(house.sailing, [ana.id], "text", False, "", purposes=["marketing"], text="no more texts")
        ask_for_quiet(ana, 27)
        said = list(proof.text(ana))
    agreed = "How: form. In answer to: “May we text you?”. Evidence: signed it."
    assert said[3:5] == [
        "Opted out of texts about news and offers on Wed 1 Jul 2026, 09:30.",
        f"Agreed to texts about what was booked on Wed 1 Jul 2026, 09:30. {agreed}",
    ]
    assert said[-3:] == [
        f"Wed 1 Jul 2026, 09:30: agreed to texts. {agreed}",
        "Wed 1 Jul 2026, 09:30: opted out of texts about news and offers. In their words: “no more texts”.",
        "Wed 1 Jul 2026, 09:30: asked for quiet until Wed 6 Jan 2027, 08:30.",
    ]
    assert not re.search(r"[0-9]{4}-[0-9]{2}", " ".join(said)) and proof.as_pdf(ana).startswith(b"%PDF")


def test_a_form_is_bounded_before_it_is_read_and_pages_of_people_are_kept_by_no_cache(
    house: House, api: Any, signed_in: Any
) -> None:
    form = forms.make(house.sailing, "Open day")
    assert outside(f"/f/{form.token}", {"q1": "x" * 1_000_001}).status_code == 413
    assert signed_in(house.consultant).get("/api/accounts/sailing/today").headers["Cache-Control"] == "no-store"


def test_whom_is_never_everybody_by_a_slip(house: House, api: Any) -> None:
    house.contact()
    status, answer = api("POST", "contacts/find", {"who": {"who": {"tag": "x"}}})
    assert status == 422 and "who" in answer["detail"]


def test_a_name_that_is_a_link_is_no_name() -> None:
    for name in ("https://evil.example/x", "www.evil.example"):
        said = render('Hi {{ contact.first_name | default: "there" }}', Facts(FactsContact(first_name=name)))
        assert said == "Hi there"


@pytest.mark.parametrize("cell", ["x;=1+1", "＝1+1", "a|@SUM(A1)", " =1", "+44 7700 900123; -x", "plain; words", "'=1"])
def test_no_part_of_a_cell_is_a_formula_in_any_program_and_it_comes_back_as_it_was(cell: str) -> None:
    made = harmless(cell)
    for part in re.split("[;,|\t\r\n]", made):
        assert unicodedata.normalize("NFKC", part.strip())[:1] not in tuple("=-@")
    assert as_it_was(made) == cell


# ---- who is erased is gone everywhere, and who asks gets everything


def columns_of_words() -> list[tuple[str, str]]:
    """Every column of every table that can hold words: text, JSON, bytes, and lists of them."""
    return sql.rows(
        "SELECT c.relname, a.attname FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid"
        " JOIN pg_type t ON t.oid = a.atttypid WHERE c.relnamespace = 'public'::regnamespace AND c.relkind IN ('r', 'p')"
        " AND NOT c.relispartition AND a.attnum > 0 AND NOT a.attisdropped AND has_table_privilege(c.oid, 'SELECT')"
        " AND (t.typname IN ('text', 'varchar', 'json', 'jsonb', 'bytea') OR t.typcategory = 'A')"
    )


def where(word: str) -> set[str]:
    return {
        f"{table}.{column}"
        for table, column in columns_of_words()
        if sql.rows(f'SELECT 1 FROM "{table}" WHERE strpos("{column}"::text, %s) > 0 LIMIT 1', [word])
    }


def everywhere(house: House, form: Form) -> Contact:
    """Somebody who has left something by every way in."""
    zia = add_contact(house.sailing, {"first_name": "Zyxwina", "email": "zyxw@example.com", "mobile": "+447700900987"})
    stamp_less = {"page": "x", "email": "zyxw@example.com", "firstname": "Zyxwina"}
    outside(f"/f/{form.token}", stamp_less)  # kept apart as spam
    by_form(house, form, {"email": "zyxw@example.com", "first_name": "Zyxwina B"})
    by_lead(house, form, {"email": "zyxw@example.com", "Boat": "Zyxwina’s boat"})
    source = leads.address_anew(house.sailing.lead_sources.get(name="Advert"))
    source.on = False
    source.save()
    lead_of(f"/in/{source.secret}", {"email": "zyxw@example.com", "note": "Zyxwina"})
    imports.read_file(
        house.sailing, house.consultant, "f.csv", b"Name,Email\nZyxwina,zyxw@example.com\nBo,bo@example.com\n"
    )
    enrolling.enrol(house.workflow(), [zia.id], "test", WORLD)
    until_quiet()
    take_reply(house.sailing, "text", zia.mobile, "Zyxwina here", "in:1")
    until_quiet()
    return zia


def test_erasing_leaves_no_word_in_any_column_of_any_table(house: House, form: Form) -> None:
    zia = everywhere(house, form)
    words = ("zyxw@example.com", "Zyxwina", "7700900987")
    assert len(set().union(*map(where, words))) > 10
    erase(zia, house.consultant, "asked")
    assert set().union(*map(where, words)) == set()
    assert where("bo@example.com")  # who stands beside them in a file stays


def test_everything_about_one_person_is_one_file(house: House, form: Form, api: Any) -> None:
    zia = everywhere(house, form)
    other = house.contact(3)
    _, about = api("GET", f"contacts/{zia.id}/everything.json")
    assert {"contact", "message", "reply", "enrolment", "event", "formanswer", "lead", "proposal"} <= set(about)
    assert "Zyxwina here" in json.dumps(about) and other.email not in json.dumps(about)
    _, text = api("GET", f"contacts/{zia.id}/everything.txt")
    assert text.startswith("What Sailing keeps about Zyxwina") and "email: zyxw@example.com" in text
