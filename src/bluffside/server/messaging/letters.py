"""Letters in the outbox: which letter a message is, and what its merge fields said when it was decided upon. What everybody is sent alike is
kept once; the HTML of each is put together when it is handed over."""

import hashlib
from collections.abc import Iterable, Sequence

from django.conf import settings

from bluffside.core.letters import compiling
from bluffside.core.letters.compiling import Addressed
from bluffside.core.letters.document import Letter
from bluffside.core.letters.inline import URL
from bluffside.core.letters.link_tags import LinkTags, tagged
from bluffside.core.letters.sheet import Look
from bluffside.server.messaging.links import link_token, web_token
from bluffside.server.messaging.models import LetterWords, Message, SentLetter
from bluffside.server.practice.brand import brand_of
from bluffside.server.practice.models import Account

NO_TAGS = LinkTags()


def look_of(account: Account) -> Look:
    brand = brand_of(account)
    logo = f"{settings.ADDRESS}{brand.logo}" if brand.logo else ""
    return Look(account.name, account.brand_line, brand.colour, brand.on, brand.link, logo, settings.ADDRESS)


def keep_letters(account: Account, letters: Sequence[tuple[int, Addressed, list[str]]]) -> None:
    """Of messages by id: the letter each is, and its addresses in the order in which they are counted."""
    if not letters:
        return
    texts = {letter: letter.model_dump_json(exclude_defaults=True) for letter in {one.letter for _, one, _ in letters}}
    digests = {letter: hashlib.sha256(text.encode()).hexdigest() for letter, text in texts.items()}
    LetterWords.objects.bulk_create(
        [
            LetterWords(account=account, digest=digests[letter], lines=letter.model_dump(mode="json"))
            for letter in texts
        ],
        ignore_conflicts=True,
    )
    kept = LetterWords.objects.filter(account=account, digest__in=list(digests.values()))
    ids = dict(kept.values_list("digest", "id"))
    SentLetter.objects.bulk_create(
        SentLetter(
            account=account, message_id=id, words_id=ids[digests[one.letter]], values=dict(one.values), urls=urls
        )
        for id, one, urls in letters
    )


def letters_of(messages: Iterable[Message]) -> dict[int, SentLetter]:
    """By message, those that are letters."""
    emails = [one.pk for one in messages if one.channel == "email"]
    return {one.message_id: one for one in SentLetter.objects.filter(message__in=emails).select_related("words")}


def html_of(sent: SentLetter, look: Look, below: dict[str, str]) -> str:
    """`below`: what stands under it, by the names of core.letters.compiling."""
    letter = Letter.model_validate(sent.words.lines)
    counted = {
        url: f"{settings.ADDRESS}/l/{link_token(sent.account_id, sent.message_id, number)}"
        for number, url in reversed(
            list(enumerate(sent.urls, start=1))
        )  # of an address that stands twice, its first link
    }
    return compiling.filled(letter, look, sent.values | below, counted)


def under(business: str, own: str, own_words: str, leave: str, web: str) -> dict[str, str]:
    """What stands under a letter: the business, the address of the contact's own page and the words that lead there, those of leaving and of
    reading it in the web."""
    return {
        compiling.BUSINESS: business,
        compiling.OWN_PAGE: own,
        compiling.OWN_WORDS: own_words,
        compiling.LEAVE: leave,
        compiling.WEB: web,
    }


def web_link(message: Message) -> str:
    return f"{settings.ADDRESS}/r/{web_token(message.account_id, message.pk)}"


def html_for(account: Account, one: Addressed, tags: LinkTags = NO_TAGS) -> str:
    """The HTML as it is read in a preview or a test: its links are tagged and not counted, and nobody leaves by it."""
    below = under(f"{account.name}, {account.postal_address}", "#", "the link to change what they get", "#", "#")
    values = dict(one.values)
    urls = {found[0] for text in one.letter.texts() for found in URL.finditer(text)} | {
        value.strip() for value in values.values()
    }
    return compiling.filled(
        one.letter, look_of(account), values | below, {url: tagged(url, tags) for url in urls} if any(tags) else None
    )
