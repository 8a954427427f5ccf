"""What short answers mean. Source of the refusals: 47 CFR 64.1200(a)(10), any reasonable way of revoking consent; all other
readings are common practice in English, written down before the reader was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bluffside.core.channels.answers import Answer, keyword, read, tell

CASES = {
    "out sure": [
        "stop", "STOP", "Stop.", "stop please", "Please stop", "stop stop stop", "STOPP", "stop!!!", "S.T.O.P", "s t o p", "ＳＴＯＰ",
        "Stop texting me!", "stop messaging me please", "please stop sending me these messages", "stop sending texts", "Stop emailing me",
        "stop the texts", "stop all messages", "no more texts", "No more messages please", "no more emails from you", "remove me",
        "Remove me from your list", "please remove my number", "take me off your list", "Take me off the mailing list please", "unsubscribe",
        "please unsubscribe me", "Unsubscribe me from this list", "unsubcribe", "opt out", "OPT-OUT", "opt me out please", "cancel", "Quit", "end",
        "revoke", "stop\nSent from my phone", "Stop\n\nSent from my iPad", "yes stop", "Yes, stop", "don't text me again", "Do not contact me",
        "dont message me anymore", "never contact me again", "leave me alone", "I want to unsubscribe", "delete my number please",
        "stop contacting me or I will complain", "No. Stop.", "🛑", "stop thanks", "Hi, please stop texting this number",
        "stop\n\nOn Mon, 2 Mar 2026 at 10:00, Tern Harbour <hello@example.com> wrote:\n> Are you coming?", "can you stop texting me please",
        "I said stop", "Thanks but stop", "lose my number", "Stop sending me this rubbish", "Unsubscribe please, I never signed up", "ok stop",
    ],
    "out likely": [
        "why do you keep on, tell them to stop texting me", "How do I unsubscribe?", "wrong number", "This is spam", "who gave you my number",
        "I already told you twice to take me off", "stop, I have moved to Leeds and sold the boat", "go away",
        "Cancel. I can't make Friday", "I'll report you", "I think you have the wrong person", "enough", "I'd rather not be contacted",
    ],
    "no sure": [
        "no", "No.", "nope", "Nah", "no thanks", "No thank you", "no thank you, we have booked elsewhere", "not interested", "Sorry, not interested",
        "not for me", "No, I have moved away", "I don't want one", "never mind", "I'm not keen", "👎", "No, it's too far", "we are not coming", "I'll pass",
        "Not really", "I would rather not", "sorry I meant no", "no longer interested", "I'm afraid not", "sorry can't", "can't make it",
    ],
    "yes sure": [
        "yes", "Yes!", "YES PLEASE", "yeah", "yep", "Yup, thanks", "y", "sure", "Sure thing", "No problem, yes please", "no worries, count me in",
        "count me in", "sounds good", "Sounds great, thank you", "please do", "absolutely", "of course", "I'd love to", "I'm in", "sign me up",
        "Book me in please", "that works for me", "Friday works", "👍", "keen", "I'm interested", "yes\n\nKind regards\nAda", "Hi, yes please",
        "yes what time?", "Why not", "fine by me", "Go ahead", "sorry, I meant yes", "Oops, make that yes",
    ],
    "yes likely": ["ok", "Okay", "no wait, yes"],
    "later sure": [
        "not now", "Not yet", "maybe later", "Maybe next week", "another time", "I'm busy this week", "ask me again in May", "not today thanks", "yes but not now",
        "No, not this month", "I'll let you know", "in a few weeks",
    ],
    "question sure": [
        "Can I stop by on Friday?", "what time?", "How much is it?", "who is this", "is it windy", "Where do I park?", "Could my son come too?",
        "When does it end?", "do you have a stop near the harbour?",
    ],
    "other likely": [
        "hm", "thanks", "I am at the bus stop", "non-stop rain here", "We had a lovely day", "07700 900123", "", "   ", "Ada", "not sure", "let me think about it",
    ],
}  # fmt: skip
NOT_OUT = [
    "Don't stop, please", "please don't stop sending these", "never stop texting me, I love it", "Can I stop by on Friday?", "I'll stop by at the end of the day",
    "No problem, yes please", "don't unsubscribe me", "please cancel my Friday appointment", "at the end of March", "no end in sight", "I quit my job, so yes",
    "Is there a stop near you?", "it won't stop raining", "don't call before nine",
]  # fmt: skip


@pytest.mark.parametrize(("means", "said"), [(means, said) for means, some in CASES.items() for said in some])
def test_a_short_answer_is_read_for_what_it_means(means: str, said: str) -> None:
    reading = read(said)
    assert f"{reading.meaning} {reading.sure}" == means, reading


@pytest.mark.parametrize("said", NOT_OUT)
def test_who_does_not_refuse_is_not_opted_out(said: str) -> None:
    assert read(said).meaning != "out", read(said)


LANES: dict[Answer, tuple[str, ...]] = {"yes": ("yes", "kayak"), "out": ("no",), "other": ()}


@pytest.mark.parametrize(
    ("said", "answer"),
    [("Count me in", "yes"), ("the kayak please", "yes"), ("not the kayak", "other"), ("no thanks", "out"), ("maybe later", "other"),
     ("What time?", "other"), ("stop", "out"), ("yes, kayaks are fine", "yes"), ("kayak? no", "yes")],
)  # fmt: skip
def test_lanes_go_by_what_is_meant_and_by_words_of_their_own(said: str, answer: str) -> None:
    assert tell(said, LANES)[0] == answer


def test_a_lane_with_words_of_its_own_alone_takes_those_alone() -> None:
    assert tell("yes", {"yes": ("book",), "other": ()})[0] == "other"
    assert tell("BOOK", {"yes": ("book",), "other": ()}) == ("yes", "book")


def test_words_for_the_channel() -> None:
    said = {
        "START": "in",
        "unstop": "in",
        "Help": "help",
        "info please": "help",
        "stop": "out",
        "help me choose": "",
        "start on Monday": "",
    }
    assert {text: keyword(text) for text in said} == said


@given(st.one_of(st.text(max_size=300), st.text(alphabet="stop no yes.?!’\n>:,", max_size=300)))
def test_any_text_is_read(said: str) -> None:
    assert read(said) == read(said.upper()) or any(letter.upper().lower() != letter for letter in said.lower())
