"""Keyword texted: a word texted to the account's number; letter case and punctuation do not matter."""

from typing import Literal

from bluffside.core.channels.keywords import plain
from bluffside.core.conditions import Condition, EventTest
from bluffside.core.document_part import part
from bluffside.core.triggers.base import Trigger


class KeywordTexted(Trigger):
    label = "when a keyword is texted"
    sentence = "when someone texts {keyword}"
    listens_to = ("keyword.texted",)
    subject_field = "keyword"
    must_be_named = True

    kind: Literal["keyword_texted"] = "keyword_texted"
    keyword: str = part("line", "keyword", default="", max_length=40)

    def subjects(self) -> tuple[str, ...]:
        """As keywords are kept: in plain form."""
        word = plain(self.keyword)
        return (word,) if word else ()

    def already(self) -> Condition | None:
        subjects = self.subjects()
        return EventTest(event="keyword.texted", about=subjects[0], within=None) if subjects else None
