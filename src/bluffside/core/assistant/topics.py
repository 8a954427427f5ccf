"""What somebody asks about, and who would rather have a person: told by words that stand for it in everyday English."""

import re
from typing import Literal

Topic = Literal["price", "where", "long", "with", "bring", "level", "other"]
Wish = Literal["call", "person", "angry", "who"]

WISHES: tuple[tuple[Wish, str], ...] = (
    ("angry", r"\bwtf\b|ridiculous|\ba joke\b|complain|rubbish|third time|report you|for gods sake|does anyone read|are you even reading|useless|disgrace"),
    ("call", r"\b(call|ring|phone) (me|us)\b|\bgive (me|us) a (call|ring|bell)\b|(talk|speak) on the phone|(prefer|rather have) a call"
             r"|\b(can|could|would) (you|somebody|someone) (call|ring|phone)\b"),
    ("person", r"\b(speak|talk) to (someone|somebody|a (person|human)|one of you)|a person i can|put me through|\bcan \w+ (answer|reply)\b"
               r"|\b(running|be|am|im|\d+ ?min\w*) late\b"),
    ("who", r"\bwho(s| is)? (this|dis|are you|texting|am i)|\bwhat company\b|real person|\ba (robot|bot)\b|get my number|do i know you|what is this about"),
)  # fmt: skip
TOPICS: tuple[tuple[Topic, str], ...] = (
    (
        "price",
        r"how much|\bprices?\b|\bcosts?\b|\bcharges?\b|expensive|\bis it free\b|discount|(more|less) than £?\d+$|\bif it (is|isnt|costs)\b",
    ),
    ("where", r"^where|\bwheres?\b|address|parking|get there|directions"),
    ("long", r"how long|whole day|what time (does|will) it (end|finish)"),
    ("with", r"\bwho (would|will|teaches|with|is it with)|\bis (it|the \w+ one) (still )?with\b|^(and )?who with"),
    ("bring", r"\b(need|have) to bring|bring anything|\bwear\b|my own \w+"),
    ("level", r"beginners?\b|never (sailed|done)|no experience|too old|too young"),
)
_ASKS = re.compile(r"^(?:and |but |yes |no )*(can|could|do|does|is|are|what|what if|when was|was|will|would|how) \w+")


def wish_in(said: str) -> Wish | None:
    """`said` in plain words (when.plain_words)."""
    return next((wish for wish, pattern in WISHES if re.search(pattern, said)), None)


def topic_in(said: str) -> Topic | None:
    """A topic that is named; what else is asked is no topic of these (`asks`)."""
    return next((topic for topic, pattern in TOPICS if re.search(pattern, said)), None)


def asks(said: str) -> bool:
    return bool(_ASKS.search(said))
