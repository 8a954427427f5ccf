"""An account's care as one model: its house rules for every workflow."""

from datetime import date, datetime
from typing import Annotated, Literal

from dateutil.relativedelta import relativedelta
from pydantic import ConfigDict, Field

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.care.limits import MessageLimit
from bluffside.core.care.pace import Pace
from bluffside.core.care.pause import HumanPause
from bluffside.core.care.quiet import Opening, OpeningHours, QuietHours
from bluffside.core.channel_kinds.mail_head import Tag
from bluffside.core.document_part import DocumentPart
from bluffside.core.letters.link_tags import LinkTags
from bluffside.core.terms import Purpose

ConsentPolicy = Literal["ask_first", "until_they_object"]
InTexts = Literal["every", "automatic", "named"]
"""Which texts carry the link to the contact's own page: every one, those that go out by themselves, or only those whose
words name it."""

OwnWord = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\r\n]*$")]

RuleName = Literal["longest_days", "most_touches", "most_text_parts", "first_text_says_who"]
"""What a workflow should not be; workflow/house_rules.py checks each."""


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
    words_out, words_help   what an account's people text besides the usual words (channels.keywords), to hear no more, or for help
    help_says    what who texts for help is told; empty: who writes, and how to reach them
    confirm_forms    what somebody agrees to on a form holds once they have confirmed it by a link that is sent to them
    consent_months   for so long consent is good, from when it was given; None: until it is withdrawn
    longest_days, most_touches, most_text_parts   what a workflow, and a text, of this account should not exceed
    first_text_says_who     the first text of a workflow names the business
    refuses      which of these four stop publishing; the others warn
    link_source, link_medium, link_campaign   how links in emails are tagged, merge fields in it; all empty: not at all
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
    words_out: tuple[OwnWord, ...] = Field(default=(), max_length=20)
    words_help: tuple[OwnWord, ...] = Field(default=(), max_length=20)
    help_says: str = Field(default="", max_length=200, pattern=r"^[^\r\n]*$")
    confirm_forms: bool = False
    consent_months: int | None = Field(default=None, ge=1, le=120)
    longest_days: int | None = Field(default=None, ge=1)
    most_touches: int | None = Field(default=None, ge=1)
    most_text_parts: int | None = Field(default=1, ge=1, le=10)
    first_text_says_who: bool = False
    refuses: tuple[RuleName, ...] = ()
    link_source: Tag = ""
    link_medium: Tag = ""
    link_campaign: Tag = ""

    @property
    def link_tags(self) -> LinkTags:
        return LinkTags(self.link_source, self.link_medium, self.link_campaign)

    def hours_on(self, day: date) -> tuple[Opening, ...]:
        """When the team is there on a day; nothing on a holiday that has no hours of its own. Asked of who has hours."""
        return () if self.closed(day) else self.opening.on(day)

    def closed(self, day: date) -> str:
        """The holiday that keeps the team away on a day; empty when none does."""
        exception = self.opening.exception(day)
        return "" if exception and exception.hours else self.holidays.holiday(day)

    def agreed_since(self, now: datetime) -> datetime | None:
        """Consent that was given before has run out; None: none does."""
        return now - relativedelta(months=self.consent_months) if self.consent_months else None

    def policy_for(self, purpose: Purpose) -> ConsentPolicy:
        return self.policy.get(purpose, "until_they_object")
