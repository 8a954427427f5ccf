"""Times that are offered elsewhere than on the page one books on: as a question of a form, as links in a message, and as an entry in the
calendar beside a mailbox, which answers."""

import re
from datetime import timedelta

import pytest

from bluffside.core.messages.merge import BadTemplate, render, times_path
from bluffside.server.appointments import booking, offering, waiting
from bluffside.server.appointments.models import AppointmentType, Sitting
from bluffside.server.capture import forms, usages
from bluffside.server.capture.answers import BadAnswers
from bluffside.server.capture.design import FormDesign, Question
from bluffside.server.capture.models import Form, FormAnswer
from bluffside.server.diary import services as diary
from bluffside.server.diary.models import Appointment, Notice
from bluffside.server.events.models import Event
from bluffside.server.outside.models import Item
from bluffside.server.people.models import Contact
from bluffside.server.people.usages import uses
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from bluffside.server.workflows.facts import load_facts
from tests.server.conftest import House
from tests.server.test_booked import states
from tests.server.test_booking import NOW, at, offers
from tests.server.visiting import fill, outside

ELEVEN = "2026-03-03T11:00:00Z"
ANA = {"name": "Ana Reyes", "mail": "ana@example.com"}


def asks_for_a_time(house: House, one: AppointmentType) -> Form:
    made = forms.make(house.sailing, "Come and try")
    asked = [
        Question(id="name", label="Your name", fills="full_name", required=True),
        Question(id="mail", label="Your email", fills="email", kind="email", required=True),
        Question(id="when", label="When would suit?", fills=f"appointment:{one.name}", required=True),
    ]
    forms.change(made, FormDesign(questions=asked), True)
    return made


@pytest.fixture
def quick(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(forms, "QUICKEST", 0.0)


def test_a_form_asks_for_a_time_and_whoever_sends_it_is_booked(house: House, quick: None) -> None:
    with clock.at(NOW):
        one = offers(house)
        form = asks_for_a_time(house, one)
        page = outside(f"/f/{form.token}").content.decode()
        assert '<optgroup label="Tuesday 3 March">' in page and f'value="{ELEVEN}">11:00<' in page
        assert "Please answer this" in fill(form, **ANA).content.decode() and not Contact.objects.exists()
        thanked = fill(form, **ANA, when=ELEVEN).content.decode()
        assert "You chose Tuesday 3 March, 11:00" in thanked
        ana, booked = Contact.objects.get(), Appointment.objects.get()
        assert (booked.contact, booked.start, booked.member) == (ana, at(11), house.member)
        order = ("contact.added", "appointment.booked", "form.sent")
        assert tuple(Event.objects.filter(kind__in=order).order_by("id").values_list("kind", flat=True)) == order
        assert Event.objects.get(kind="form.sent").data["answers"]["When would suit?"] == "Tuesday 3 March, 11:00"
        for gone in (ELEVEN, "2026-03-03T04:00:00Z", "soon", "<script>"):  # taken; never offered; no time at all
            again = fill(form, name="Ben Osei", mail="ben@example.com", when=gone).content.decode()
            assert "cannot be chosen any more" in again and 'value="Ben Osei"' in again
        assert Contact.objects.count() == 1 and FormAnswer.objects.count() == 1


def test_who_is_a_moment_too_late_chooses_again_and_nothing_half_done_stays(
    house: House, quick: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    with clock.at(NOW):
        one = offers(house)
        form = asks_for_a_time(house, one)

        def taken(*args: object, **more: object) -> None:
            raise booking.NotFree("Somebody was quicker: that time has just been taken.")

        with monkeypatch.context() as late:
            late.setattr(booking, "book", taken)
            assert "Somebody was quicker" in fill(form, **ANA, when=ELEVEN).content.decode()
        assert not FormAnswer.objects.exists() and not Contact.objects.exists()
        fill(form, **ANA, when="2026-03-03T12:00:00Z")
        assert FormAnswer.objects.get().state == "taken" and Appointment.objects.get().start == at(12)


def test_where_nothing_is_free_the_form_is_taken_all_the_same(house: House, quick: None) -> None:
    with clock.at(NOW):
        one = offers(house)
        form = asks_for_a_time(house, one)
        offering.set_open(one, False, house.consultant)
        assert "we find a time together" in outside(f"/f/{form.token}").content.decode()
        fill(form, **ANA)
        assert FormAnswer.objects.get().state == "taken" and not Appointment.objects.exists()


def test_what_was_taken_for_spam_is_let_in_without_the_time_that_is_gone(house: House) -> None:
    with clock.at(NOW):
        one = offers(house)
        form = asks_for_a_time(house, one)
        fill(form, **ANA, when=ELEVEN)  # too quick for a person
        held = FormAnswer.objects.get()
        assert held.state == "spam" and not Appointment.objects.exists()
        booking.book(one, house.contact(), at(11))
        assert forms.let_in(held, house.consultant).first_name == "Ana" and Appointment.objects.count() == 1


def test_a_form_knows_its_type_under_its_new_name_and_keeps_it(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    with clock.at(NOW):
        one = offers(house)
        form = asks_for_a_time(house, one)
        offering.rename(one, "First sail", house.consultant)
        form.refresh_from_db()
        assert forms.design_of(form).questions[2].fills == "appointment:First sail"
        named = [use for use in uses(house.sailing) if use.kind == "appointment"]
        assert [(use.name, use.place, use.sets) for use in named] == [("First sail", usages.FORMS.place, False)]
        client = signed_in(house.consultant)
        listed = client.get("/api/accounts/sailing/forms/can-be-asked").json()
        assert listed == [{"fills": "appointment:First sail", "label": "a time for “First sail”"}]
        refused = client.delete(f"/api/accounts/sailing/set-up/appointments/{one.pk}")
        assert refused.status_code == 409 and "Come and try" in refused.json()["detail"]
        assert not forms.can_be_asked_with_a_time(form)  # a time is chosen there already
        with pytest.raises(forms.BadForm):
            forms.change(forms.make(house.sailing, "Notes", for_team=True), forms.design_of(form), True)
        with pytest.raises(BadAnswers):
            forms.try_out(form, {"name": ["A"], "mail": ["a@example.com"], "when": ["later"]})


# ---- links in a message


def test_a_message_names_the_next_free_times_and_each_link_chooses_one(house: House) -> None:
    with clock.at(NOW):
        one, contact = offers(house, every=30), house.contact()
        booking.book(one, house.contact(2), at(10))
        house.sailing.refresh_from_db()

        def said(words: str = "Come at\n{{ %s | default: 'a time of your own' }}") -> str:
            facts = load_facts(house.sailing, [contact.pk], frozenset(), NOW)[contact.pk]
            return render(words % times_path("Taster sail"), facts)

        lines = said().splitlines()[1:]
        assert [line.split(": http")[0] for line in lines] == [  # some hours apart, so that there is a choice
            "Monday 2 March, 11:00", "Tuesday 3 March, 11:00", "Wednesday 4 March, 10:00",
        ]  # fmt: skip
        assert said("{%% if contact.email %%}{{ %s }}{%% endif %%}").splitlines() == lines  # by Liquid, the same
        link = lines[1].split(": ", 2)[-1]
        page = outside(link[link.index("/book/") :]).content.decode()
        assert "Book Tuesday 3 March, 11:00" in page
        booking.book(one, house.contact(3), at(11))
        assert "not free any more" in outside(link[link.index("/book/") :]).content.decode()
        assert "Tuesday 3 March, 11:00" not in said()
        offering.set_open(one, False, house.consultant)
        house.sailing.refresh_from_db()
        assert said() == "Come at\na time of your own"
        with pytest.raises(BadTemplate):
            render(
                "{% for x in account.times %}{{ x }}{% endfor %}",
                load_facts(house.sailing, [contact.pk], frozenset(), NOW)[contact.pk],
            )


def test_far_ahead_a_link_opens_the_page_at_its_day(house: House) -> None:
    with clock.at(NOW):
        one = offers(house, soonest_hours=24 * 30, ahead_days=60)
        page = outside(f"/book/{one.token}?at=2026-04-09T10:00:00Z").content.decode()
        assert "Book Thursday 9 April, 11:00" in page  # British summer time


# ---- the calendar beside the simulated mailbox, and who waits


def test_the_simulated_mailbox_shows_the_entry_and_answers_it(house: House, signed_in) -> None:  # type: ignore[no-untyped-def]
    house.sailing.simulated = True
    house.sailing.save()
    client = signed_in(house.consultant)
    with clock.at(NOW) as move_to:
        made = booking.book(offers(house, place="The old slip", dates=2, apart=7), house.contact(), at(11))
        until_quiet()
        device = f"/api/accounts/sailing/outside/{made.contact_id}"
        mail = client.get(device).json()["items"][-1]
        assert mail["entry"] == {
            "title": "Taster sail, Sailing", "where": "The old slip", "gone": False, "open": True,
            "dates": ["Tue 3 Mar, 11:00", "Tue 10 Mar, 11:00"],
        }  # fmt: skip
        answer = f"{device}/entries/{mail['id']}"
        assert client.post(answer, {"said": "accepted"}, "application/json").status_code == 200
        assert states()[0] == "confirmed"
        booking.move(made, at(12))
        move_to(NOW + timedelta(minutes=5))
        until_quiet()
        first, second = client.get(device).json()["items"][-2:]
        assert not first["entry"]["open"] and second["entry"]["open"]
        client.post(f"{device}/entries/{second['id']}", {"said": "declined"}, "application/json")
        assert "cannot come" in Notice.objects.get(person=house.member).text and states()[0] == "booked"
        diary.settle(made, Appointment.State.CANCELLED)
        until_quiet()
        assert client.get(device).json()["items"][-1]["entry"]["gone"]
        other = Item.objects.create(
            key="x", channel="email", ours="a@example.com", theirs="b@example.com", text="", at=NOW
        )
        assert client.post(f"{device}/entries/{other.pk}", {"said": "accepted"}, "application/json").status_code == 404


def test_who_joins_a_waiting_list_is_heard_of_once(house: House) -> None:
    with clock.at(NOW):
        one, waits = offers(house, waiting_hours=2), house.contact(2)
        booking.book(one, house.contact(), at(11))
        for _ in range(2):
            waiting.join(one, waits, Sitting.objects.get())
        event = Event.objects.get(kind="appointment.waited_for")
        assert (event.contact_id, event.data["type"]) == (waits.pk, "Taster sail")
        assert re.match("2026-03-03T11:00", str(event.data["start"]))
