"""The conversation that books: three messages from an old lead to the diary; and whatever is written, nothing is booked that was not offered."""

import random
from collections.abc import Sequence
from datetime import datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.assistant.script import AssistantScript, KnownAnswer
from bluffside.core.assistant.talking import Next, Talk, free_among, hear, summary, taken
from bluffside.core.assistant.windows import Window
from tests.core.test_booking_utterances import ROWS

NOW = datetime(2026, 3, 4, 10)
SCRIPT = AssistantScript(
    questions=("Have you sailed before?",),
    confirms="The slip, by the harbour office.",
    answers=(KnownAnswer(about="price", says="A visit costs nothing."), KnownAnswer(words=("dog",), says="Dogs wait ashore.")),
    never=("refund",),
)  # fmt: skip
SLOTS = [
    datetime(2026, 3, 5 + day, hour, minute) for day in range(10) for hour, minute in ((10, 0), (13, 30), (17, 30))
]


def talked(*texts: str, slots: Sequence[datetime] = SLOTS, script: AssistantScript = SCRIPT) -> list[Next]:
    talk, steps = Talk(), []
    for text in texts:
        steps.append(hear(talk, text, NOW, free_among(slots), script))
        talk = steps[-1].talk
    return steps


def test_an_old_lead_who_says_yes_is_in_the_diary_three_messages_later() -> None:
    steps = talked("Yes but only weekends", "once on holiday", "saturday half one please")
    assert [one.says for one in steps] == [
        "Have you sailed before?",
        "Sat 7 Mar at 10:00, Sat 7 Mar at 13:30 or Sat 7 Mar at 17:30. Which one?",
        "Booked: Sat 7 Mar at 13:30. The slip, by the harbour office.",
    ]
    assert steps[-1].books == datetime(2026, 3, 7, 13, 30)
    assert summary(steps[-1].talk).startswith("Have you sailed before? once on holiday Would come: sat+sun.")


@pytest.mark.parametrize(
    ("texts", "person"),
    [
        (("maybe", "possibly"), "twice not understood"),
        (("yes", "no", "call me instead"), "they would rather be rung"),
        (("this is ridiculous",), "they are angry"),
        (("do you have gift vouchers",), "they ask what the assistant has no answer to"),
        (("yes", "no", "I want a refund"), "they write of what the assistant never answers"),
        (("yes", "no", "none", "none", "none"), "offered times 3 times"),
    ],
)
def test_a_person_goes_on_where_the_assistant_does_not(texts: tuple[str, ...], person: str) -> None:
    last = talked(*texts)[-1]
    assert (last.person, last.books, last.talk.stage) == (person, None, "over")
    assert last.says == SCRIPT.handed_over


def test_a_question_is_answered_and_what_was_asked_still_stands() -> None:
    steps = talked("yes", "no", "how much is it?", "can i bring my dog", "the first one")
    assert steps[2].says.startswith("A visit costs nothing. Thu 5 Mar at 10:00")
    assert steps[3].says.startswith("Dogs wait ashore. Thu 5 Mar at 10:00")
    assert steps[4].books == datetime(2026, 3, 5, 10)


def test_it_moves_and_cancels_what_it_booked_and_says_so() -> None:
    steps = talked("yes", "no", "the first", "can I come on sunday instead", "sunday 17:30", "please cancel my booking")
    assert [one.books for one in steps if one.books] == [datetime(2026, 3, 5, 10), datetime(2026, 3, 8, 17, 30)]
    assert steps[4].says.startswith("Moved: Sun 8 Mar at 17:30.")
    assert steps[5].cancels and "Sun 8 Mar at 17:30 is cancelled" in steps[5].says


def test_what_has_gone_meanwhile_is_not_booked_and_others_are_offered() -> None:
    talk = talked("yes", "no")[-1].talk
    gone = hear(talk, "the first", NOW, free_among(SLOTS[1:]), SCRIPT)
    assert gone.books is None and gone.says.startswith("That time has just gone. ")
    assert talk.offered[0] not in gone.talk.offered
    assert taken(talk, free_among([]), SCRIPT).person == "nothing is free that was not offered"


def test_what_they_say_of_times_beside_an_answer_is_kept_and_a_time_once_offered_can_be_named_again() -> None:
    assert "Thu 5 Mar at 10:00, Fri 6 Mar at 10:00 or" in talked("yes", "yes mornings are best")[-1].says
    steps = talked("yes", "no", "none", "actually thursday at 10 please", "yes")
    assert steps[3].says == "Thu 5 Mar at 10:00 is free. Shall I book it?" and steps[4].books == SLOTS[0]


def test_what_fits_several_of_those_offered_is_asked_about_those_alone_and_nothing_is_booked_by_it() -> None:
    steps = talked("yes", "no", "thursday", "the second one", slots=[*SLOTS[:2], *SLOTS[3:]])
    assert steps[1].says == "Thu 5 Mar at 10:00, Thu 5 Mar at 13:30 or Fri 6 Mar at 10:00. Which one?"
    assert (steps[2].says, steps[2].books) == ("Thu 5 Mar at 10:00 or Thu 5 Mar at 13:30. Which one?", None)
    assert steps[3].books == SLOTS[1]


def test_once_a_time_is_booked_it_may_offer_as_often_again() -> None:
    steps = talked("yes", "no", "none", "none", "the first one", "can I move it to sunday", "none")
    assert steps[4].books and [one.person for one in steps] == [""] * 7


def test_nothing_free_then_is_said_and_a_single_time_is_asked_about() -> None:
    [step] = talked("yes evenings only", slots=SLOTS[:1], script=AssistantScript())
    assert step.says == "Nothing is free then. Thu 5 Mar at 10:00 is free. Shall I book it?"
    assert talked("yes evenings only", "yes", slots=SLOTS[:1], script=AssistantScript())[-1].books == SLOTS[0]


@given(st.lists(st.sampled_from(ROWS).map(lambda row: row.said), max_size=14), st.randoms(use_true_random=False))
def test_whatever_is_written_only_what_was_offered_is_booked_and_nothing_after_the_end(
    texts: list[str], chance: random.Random
) -> None:
    talk = Talk()
    for text in texts:
        slots = [one for one in SLOTS if chance.random() < 0.8]  # others book meanwhile
        step = hear(talk, text, NOW, free_among(slots), SCRIPT)
        if step.books:
            assert step.books in (*talk.offered, talk.asked) and step.books in slots
        if talk.stage == "over":
            assert (step.says, step.books, step.cancels) == ("", None, False)
        assert step.talk.offers <= SCRIPT.offers and not (step.stops and step.says)
        talk = step.talk


def test_of_an_old_list_of_a_hundred_nobody_is_booked_twice_and_nobody_is_left_without_an_end() -> None:
    """Answers from the table, each for what had been said; three times a message, as a list is woken up."""
    by_context: dict[str, list[str]] = {}
    for row in ROWS:
        by_context.setdefault(row.context, []).append(row.said)
    chance, ends = random.Random(23), {"booked": 0, "over": 0, "open": 0}
    left = [one + timedelta(days=ahead) for ahead in (0, 10) for one in SLOTS]
    for _ in range(100):
        talk = Talk()
        for _ in range(8):
            context = {"question": "opening"}.get(talk.stage, talk.stage)
            if context not in by_context:
                break
            step = hear(talk, chance.choice(by_context[context]), NOW, free_among(left), SCRIPT)
            if talk.booked and (step.cancels or step.books):
                left.append(talk.booked)
            if step.books:
                left.remove(step.books)  # raises where it was not free any more
            talk = step.talk
        ends[{"booked": "booked", "over": "over"}.get(talk.stage, "open")] += 1
    assert ends["over"] + ends["booked"] >= 90 and len(set(left)) == len(left)


def test_windows_hold_what_they_say() -> None:
    window = Window(
        first=datetime(2026, 3, 9).date(), last=datetime(2026, 3, 15).date(), start=datetime(2026, 3, 9, 17).time()
    )
    assert window.holds(datetime(2026, 3, 15, 17)) and not window.holds(datetime(2026, 3, 15, 16, 59))
    assert not window.holds(datetime(2026, 3, 16, 17))
