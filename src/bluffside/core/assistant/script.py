"""What the booking assistant of an account says, and when it stops and a person goes on."""

from typing import Annotated

from pydantic import Field

from bluffside.core.assistant.topics import Topic
from bluffside.core.document_part import DocumentPart

Words = Annotated[str, Field(max_length=300)]


class KnownAnswer(DocumentPart):
    """To a question that people ask: about a topic, or one in which any of these words stands."""

    about: Topic | None = None
    words: tuple[Words, ...] = Field(default=(), max_length=20)
    says: str = Field(max_length=300)


class AssistantScript(DocumentPart):
    """`questions`: asked before times are offered, answered in any words. `pause`: seconds before an answer goes, in which the team can
    see it. `offers`: how often it offers times; `at_once`: how many of
    them. `never`: words for a person, whatever else is said. The rest is said as it stands here."""

    opening: str = Field(default="Is it still on your mind? Yes or no is plenty.", max_length=300)
    questions: tuple[Words, ...] = Field(default=(), max_length=3)
    pause: int = Field(default=30, ge=0, le=600)
    offers: int = Field(default=3, ge=1, le=6)
    at_once: int = Field(default=3, ge=1, le=5)
    confirms: str = Field(default="", max_length=300)
    declined: str = Field(default="No problem. All the best!", max_length=300)
    put_off: str = Field(default="No hurry. Write here whenever you like.", max_length=300)
    handed_over: str = Field(default="I will have somebody answer you.", max_length=300)
    who: str = Field(default="This is an assistant that finds times; people of the team read along.", max_length=300)
    answers: tuple[KnownAnswer, ...] = Field(default=(), max_length=40)
    never: tuple[Words, ...] = Field(default=(), max_length=40)
