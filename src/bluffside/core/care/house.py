"""An account's care as one model: its house rules for every workflow."""

from typing import Literal

from pydantic import ConfigDict, Field

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.care.limits import MessageLimit
from bluffside.core.care.pace import Pace
from bluffside.core.care.pause import HumanPause
from bluffside.core.care.quiet import OpeningHours, QuietHours
from bluffside.core.document_part import DocumentPart
from bluffside.core.terms import Purpose

ConsentPolicy = Literal["ask_first", "until_they_object"]
InTexts = Literal["every", "automatic", "named"]
"""Which texts carry the link to the contact's own page: every one, those that go out by themselves, or only those whose
words name it."""


class Care(DocumentPart):
    """
    quiet        nothing goes out then, in the contact's own time
    opening      when the team is there: calls and to-dos fall due then, in the account's time
    holidays     days that steps may skip, and on which the team is not there
    limits       across all workflows
    pause        before each message that goes out by itself
    pace         per sender, by its name or number; "" stands for every other, on each channel by itself
    policy       per purpose: write only to who agreed, or until they object
    own_page_in_texts   which texts carry the link to the contact's own page
    own_page_words      what stands before that link; empty: the usual words of each channel
    longest, most_touches   what a workflow of this account should not exceed; the checks warn
    """

    model_config = ConfigDict(title="Care")

    quiet: tuple[QuietHours, ...] = ()
    opening: OpeningHours = OpeningHours()
    holidays: HolidayCalendar = HolidayCalendar()
    limits: tuple[MessageLimit, ...] = ()
    pause: HumanPause = HumanPause()
    pace: dict[str, Pace] = {}
    policy: dict[Purpose, ConsentPolicy] = {}
    own_page_in_texts: InTexts = "every"
    own_page_words: str = Field(default="", max_length=60, pattern=r"^[^\r\n]*$")
    longest_days: int | None = Field(default=None, ge=1)
    most_touches: int | None = Field(default=None, ge=1)

    def policy_for(self, purpose: Purpose) -> ConsentPolicy:
        return self.policy.get(purpose, "until_they_object")
