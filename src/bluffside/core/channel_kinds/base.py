"""What every channel declares."""

from dataclasses import dataclass
from typing import Literal

from bluffside.core.channel_kinds.wording import Wording


@dataclass(frozen=True, slots=True)
class ChannelKind:
    """name         as documents write it, and the kind of line that speaks by it
    rank         its place where channels are listed
    label        of its line, in the list of kinds
    finds        the words that find its line
    sentence     of its line, {message} standing for the message
    wording      what a message on it holds
    several      within a sentence: "opted out of texts"
    address      the contact's own field with the address (core/own_fields.py)
    no_address   why somebody cannot be reached who has none
    ours         the account's field from which it goes, and to which answers come
    answered     whether a contact can answer on it
    reads        how it is taken in: a link can be pressed, it is only read, or it is heard
    short        whether each letter costs, so that what stands under a message is short
    keywords     whether words by which somebody opts out, opts in or asks for help are answered there, and a stranger who
                 writes becomes a contact
    own_page     what the contact's own page calls it; empty: no choice there
    """

    name: str
    rank: int
    label: str
    finds: tuple[str, ...]
    sentence: str
    wording: type[Wording]
    several: str
    address: str
    no_address: str
    ours: Literal["text_number", "sender_email"] = "text_number"
    answered: bool = False
    reads: Literal["pressed", "read", "heard"] = "pressed"
    short: bool = False
    keywords: bool = False
    own_page: str = ""

    @property
    def one(self) -> str:
        """One message, within a sentence: "3 push notices" are several of it."""
        return self.label.lower()

    @property
    def headed(self) -> bool:
        """Whether a message has a subject."""
        return "subject" in self.wording.model_fields
