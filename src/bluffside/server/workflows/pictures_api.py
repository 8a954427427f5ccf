"""Pictures for letters: brought in, looked through, taken away while nothing shows them."""

from django.db.models import QuerySet
from django.db.models.functions import Length
from django.shortcuts import get_object_or_404
from ninja import File, Path, Router, Schema, UploadedFile
from ninja.errors import HttpError

from bluffside.server.messaging.models import LetterWords
from bluffside.server.practice import pictures
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.models import Picture
from bluffside.server.practice.refusals import BadFields
from bluffside.server.workflows.carried import holds, is_written

router = Router(tags=["pictures"], auth=InAccount())


class PictureOut(Schema):
    """`address`: as letters say it; `width` and `height` in pixels; `bytes`: how large it is."""

    id: int
    address: str
    name: str
    width: int
    height: int
    bytes: int


def _of(request: AccountRequest) -> QuerySet[Picture]:
    return request.account.pictures.filter(kind=Picture.Kind.LETTER)


def _out(one: Picture, size: int) -> PictureOut:
    return PictureOut(
        id=one.pk, address=f"/b/{one.token}", name=one.name, width=one.width, height=one.height, bytes=size
    )


@router.get("pictures", response=list[PictureOut])
def list_pictures(request: AccountRequest, account: Path[str]) -> list[PictureOut]:
    """The newest first."""
    rows = _of(request).annotate(size=Length("content")).defer("content").order_by("-id")
    return [_out(one, one.size) for one in rows[: pictures.MOST_OF_LETTERS]]


@router.post("pictures", response={201: PictureOut})
def bring_picture(request: AccountRequest, account: Path[str], file: File[UploadedFile]) -> tuple[int, PictureOut]:
    """PNG, JPEG, WebP or GIF, 5 MB at most; it is sized and written anew, without anything else that was in the file."""
    require(request, "workflows")
    if (file.size or 0) > pictures.LARGEST:
        raise BadFields({"file": "The file is larger than 5 MB. Nothing was changed."})
    try:
        made = pictures.keep_for_letters(request.account, file.name or "", file.read())
    except pictures.NoPicture as error:
        raise BadFields({"file": f"{error} Nothing was changed."}) from None
    return 201, _out(made, len(made.content))


@router.delete("pictures/{int:picture_id}", response={204: None})
def take_picture_away(request: AccountRequest, account: Path[str], picture_id: int) -> tuple[int, None]:
    """409 while a letter shows it, one that was sent included: a mail that somebody opens again asks for it."""
    require(request, "workflows")
    row = get_object_or_404(_of(request), pk=picture_id)
    sent = LetterWords.objects.filter(account=request.account)
    if is_written(request.account, row.token) or holds(sent, "lines", row.token):
        raise HttpError(409, "A letter shows this picture, or was sent with it. It stays.")
    row.delete()
    return 204, None
