"""The head of an email besides its subject: how it addresses who gets it, where answers go, how its links are tagged, what is attached."""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from bluffside.core.document_part import DocumentPart, Spoken, part
from bluffside.core.email_addresses import normalised
from bluffside.core.letters.link_tags import LinkTags

Tag = Annotated[str, Field(max_length=120, pattern=r"^[^\r\n]*$")]
MOST_FILES, LARGEST = 5, 5 * 1024 * 1024  # of one email; bytes in all
_DIRECTION = re.compile(
    "[\u2066-\u2069]"
)  # marks that keep a name's direction within a text: none of a name that stands alone
_CALLED = {
    "full": "{{ contact.first_name }} {{ contact.last_name }}",
    "first": "{{ contact.first_name }}",
    "address": "",
}


class AttachedFile(DocumentPart):
    """A file that the account keeps, by its SHA-256 (FIPS 180-4) in hexadecimal; `size` in bytes."""

    digest: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^/\\\r\n]*$")]
    size: Annotated[int, Field(ge=0, le=LARGEST)]

    def describe(self) -> str:
        return self.name


class MailHead(Spoken):
    """`source`, `medium` and `campaign` may hold merge fields; a campaign that is empty is the message’s name."""

    sentence: ClassVar[str] = "Addressed to {called}; answers go to {reply_to}; its links are {tagged}."

    called: Literal["full", "first", "address"] = part(
        "choice",
        "what who gets it is called beside the address",
        words={"full": "their full name", "first": "their first name", "address": "the address alone"},
        default="full",
    )
    reply_to: Annotated[str, Field(max_length=254)] = part(
        "line", "answers go to", empty="whom it comes from", default=""
    )
    tagged: Literal["usual", "own", "not"] = part(
        "choice",
        "how links are tagged",
        words={"usual": "tagged as usual", "own": "tagged", "not": "not tagged"},
        default="usual",
    )
    source: Tag = part("line", "source", clause="source {}", only={"tagged": ["own"]}, default="")
    medium: Tag = part("line", "medium", clause="medium {}", only={"tagged": ["own"]}, default="")
    campaign: Tag = part("line", "campaign", clause="campaign {}", only={"tagged": ["own"]}, default="")
    files: Annotated[tuple[AttachedFile, ...], Field(max_length=MOST_FILES)] = part(
        "files", "files that go with it", clause="with {} attached", default=()
    )

    def for_one(self, render: Callable[[str], str], usual: LinkTags, name: str) -> "SentHead":
        """As it is for one person; `usual`: the account’s tags, `name`: the message’s."""
        tags = {"usual": usual, "own": LinkTags(self.source, self.medium, self.campaign), "not": LinkTags()}[
            self.tagged
        ]
        if any(tags) and not tags.campaign:
            tags = tags._replace(campaign=name)
        reply_to = render(self.reply_to).strip() if self.reply_to else ""
        return SentHead(
            called=" ".join(_DIRECTION.sub("", render(_CALLED[self.called])).split()) if _CALLED[self.called] else "",
            reply_to=reply_to if is_address(reply_to) else "",
            tags=tags.rendered(render),
            files=self.files,
        )

    def texts(self) -> Iterator[str]:
        """All that may hold merge fields."""
        yield from (text for text in (self.reply_to, self.source, self.medium, self.campaign) if text)

    def faults(self) -> Iterator[str]:
        if self.reply_to and "{{" not in self.reply_to and not is_address(self.reply_to):
            yield f"Answers go to “{self.reply_to}”, which is no email address."
        if sum(one.size for one in self.files) > LARGEST:
            yield "What is attached is larger than 5 MB in all."


@dataclass(frozen=True, slots=True)
class SentHead:
    """A head for one person. `called`: beside the address; `reply_to`: an address, or empty; `tags`: of its links."""

    called: str = ""
    reply_to: str = ""
    tags: LinkTags = LinkTags()
    files: tuple[AttachedFile, ...] = ()


def is_address(text: str) -> bool:
    try:
        return bool(normalised(text))
    except ValueError:
        return False
