"""Files that emails carry: brought in, looked at, taken away while nothing carries them."""

from django.db.models import QuerySet
from django.db.models.functions import Length
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import File, Path, Router, UploadedFile
from ninja.errors import HttpError

from bluffside.core.channel_kinds.mail_head import LARGEST, AttachedFile
from bluffside.server.messaging import heads
from bluffside.server.messaging.models import MailFile
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows.carried import is_written

router = Router(tags=["files"], auth=InAccount())
MOST_SHOWN = 200


def _of(request: AccountRequest) -> QuerySet[MailFile]:
    return MailFile.objects.filter(account=request.account)


@router.get("files", response=list[AttachedFile])
def list_files(request: AccountRequest, account: Path[str]) -> list[AttachedFile]:
    """The newest first."""
    rows = _of(request).annotate(size=Length("content")).defer("content").order_by("-id")[:MOST_SHOWN]
    return [AttachedFile(digest=one.digest, name=one.name, size=one.size) for one in rows]


@router.post("files", response={201: AttachedFile})
def bring_file(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> tuple[int, AttachedFile]:
    """5 MB at most; looked at for what it is. One that is there already is answered as it is."""
    require(request, "workflows")
    if (file.size or 0) > LARGEST:
        raise BadFields({"file": "The file is larger than 5 MB. Nothing was changed."})
    try:
        made = heads.bring(request.account, file.name or "", file.read())
    except heads.NotKept as error:
        raise BadFields({"file": f"{error} Nothing was changed."}) from None
    return 201, AttachedFile(digest=made.digest, name=made.name, size=len(made.content))


@router.get("files/{digest}", response={200: bytes})
def one_file(request: AccountRequest, account: Path[str], digest: str) -> HttpResponse:
    row = get_object_or_404(_of(request), digest=digest)
    response = HttpResponse(bytes(row.content), content_type=row.sort)
    response["Content-Disposition"] = content_disposition_header(True, row.name)
    response["X-Content-Type-Options"] = "nosniff"
    return response


@router.delete("files/{digest}", response={204: None})
def take_file_away(request: AccountRequest, account: Path[str], digest: str) -> tuple[int, None]:
    """409 while a message carries it, or went with it."""
    require(request, "workflows")
    row = get_object_or_404(_of(request), digest=digest)
    if is_written(request.account, row.digest) or heads.is_carried(request.account, row.digest):
        raise HttpError(409, "A message carries this file, or went with it. It stays.")
    row.delete()
    return 204, None
