"""The head of an email in the outbox, and the files that go with it: kept once, by what is in them."""

import hashlib
import json
import zipfile
from collections.abc import Iterable, Mapping
from io import BytesIO
from typing import Any, NamedTuple

import filetype
from django.db import transaction
from django.db.models import F, Func, IntegerField, Sum

from bluffside.core.channel_kinds.mail_head import LARGEST, AttachedFile, SentHead
from bluffside.core.letters.link_tags import LinkTags
from bluffside.server.messaging.models import MailFile, Message
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account

MOST_KEPT = 100 * 1024 * 1024  # bytes of an account
# What people send each other, and every program opens; nothing that is run on opening it.
SORTS = {
    "application/pdf": "pdf", "image/png": "png", "image/jpeg": "jpg", "image/gif": "gif", "image/webp": "webp", "audio/mpeg": "mp3",
    "application/vnd.openxmlformats-officedocument.wordprocessingml.document": "docx",
    "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet": "xlsx",
    "application/vnd.openxmlformats-officedocument.presentationml.presentation": "pptx",
    "application/vnd.oasis.opendocument.text": "odt", "application/vnd.oasis.opendocument.spreadsheet": "ods",
}  # fmt: skip
TEXTS = {"ics": "text/calendar", "csv": "text/csv", "txt": "text/plain"}


class NotKept(ValueError):
    """In words; nothing was changed."""


class Enclosed(NamedTuple):
    """A file as it goes with a mail."""

    name: str
    sort: str
    content: bytes


def kept(head: SentHead | None) -> str | None:
    """As a message keeps it, in JSON: its links have their tags already."""
    if head is None or not (head.called or head.reply_to or head.files):
        return None
    return json.dumps(plain(head))


def plain(head: SentHead) -> dict[str, Any]:
    return {
        "called": head.called,
        "reply_to": head.reply_to,
        "files": [one.model_dump() for one in head.files],
        "tags": list(head.tags),
    }


def read(head: Mapping[str, Any] | None) -> SentHead:
    if not head:
        return SentHead()
    files = tuple(AttachedFile.model_validate(one) for one in head["files"])
    return SentHead(head["called"], head["reply_to"], LinkTags(*head.get("tags", ())), files)


def enclosed(account: Account, heads: Iterable[SentHead]) -> dict[str, Enclosed]:
    """The files that these carry, by digest."""
    wanted = {one.digest for head in heads for one in head.files}
    if not wanted:
        return {}
    rows = MailFile.objects.filter(account=account, digest__in=wanted)
    return {one.digest: Enclosed(one.name, one.sort, bytes(one.content)) for one in rows}


def carried(head: SentHead, files: Mapping[str, Enclosed]) -> tuple[Enclosed, ...]:
    """Those that are here, called as the message calls them."""
    return tuple(files[one.digest]._replace(name=one.name) for one in head.files if one.digest in files)


def bring(account: Account, name: str, content: bytes) -> MailFile:
    """Keeps a file; one that is there already is answered as it is. Raises NotKept."""
    if not content:
        raise NotKept("The file is empty.")
    if len(content) > LARGEST:
        raise NotKept("The file is larger than 5 MB.")
    sort, ending = _sort_of(name, content)
    digest = hashlib.sha256(content).hexdigest()
    named = (
        " ".join(name.replace("\0", "").replace("\\", "/").rpartition("/")[2].split()).rpartition(".")[0][:100]
        or "file"
    )
    with transaction.atomic():
        Account.objects.select_for_update().get(id=account.id)
        if there := MailFile.objects.filter(account=account, digest=digest).first():
            return there
        size = Func(F("content"), function="octet_length", output_field=IntegerField())
        had = MailFile.objects.filter(account=account).aggregate(sum=Sum(size))["sum"] or 0
        if had + len(content) > MOST_KEPT:
            raise NotKept("There are 100 MB of files already. Take some away that no message carries.")
        return MailFile.objects.create(
            account=account, digest=digest, name=f"{named}.{ending}", sort=sort, content=content, brought_at=clock.now()
        )


def _sort_of(name: str, content: bytes) -> tuple[str, str]:
    """What a file is, by what is in it, and the ending that goes with it. Raises NotKept."""
    found = filetype.guess(content)
    if found is not None:
        if found.mime not in SORTS or _has_macros(content):
            raise NotKept(
                "Mail programs refuse this sort of file, or it can be run. Send it as PDF, or put it in the web and link to it."
            )
        return found.mime, SORTS[found.mime]
    try:
        text = content.decode()
    except UnicodeDecodeError:
        text = "\0"
    if "\0" in text or text.lstrip().startswith(("<", "#!")):
        raise NotKept(
            "Nobody could say what sort of file this is: PDF, pictures, office documents, text, CSV and calendars can go."
        )
    ending = name.rpartition(".")[2].lower()
    ending = "ics" if text.startswith("BEGIN:VCALENDAR") else ending if ending == "csv" else "txt"
    return TEXTS[ending], ending


def _has_macros(content: bytes) -> bool:
    """Whether an office document holds programs."""
    if not zipfile.is_zipfile(BytesIO(content)):
        return False
    try:
        with zipfile.ZipFile(BytesIO(content)) as archive:
            return any(name.lower().endswith(("vbaproject.bin", ".xba")) for name in archive.namelist()[:10_000])
    except zipfile.BadZipFile:
        return True


def is_carried(account: Account, digest: str) -> bool:
    """Whether a message in the outbox carries it, or has."""
    return Message.objects.filter(account=account, head__files__contains=[{"digest": digest}]).exists()
