"""Pictures that people bring for their brand and their letters: looked at for what they are, sized, and written anew by Pillow, so that nothing of
the file itself is kept: no place, no camera, nothing hidden behind the picture."""

import io
import secrets
import warnings

from django.http import Http404, HttpRequest, HttpResponse
from PIL import Image, ImageOps, UnidentifiedImageError

from bluffside.server import sql
from bluffside.server.practice.models import Account, Picture

LARGEST = 5 * 1024 * 1024  # bytes of a file
MOST_PIXELS = 40_000_000
FORMATS = ("PNG", "JPEG", "WEBP", "GIF")
# Pixels at most; in a letter, twice the width at which it is shown, for screens that are as fine.
SIZES = {"logo": (480, 160), "picture": (1_200, 600), "letter": (1_120, 2_240)}
MOST_OF_LETTERS = 500  # that an account has at once
PNG = b"\x89PNG"


class NoPicture(ValueError):
    """In words; what was there is there still."""


def read(content: bytes, kind: str) -> tuple[bytes, int, int]:
    """The picture as PNG, with its width and height; one for letters that nothing shows through as JPEG, where that is smaller. Raises
    NoPicture."""
    if len(content) > LARGEST:
        raise NoPicture("The file is larger than 5 MB.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content), formats=FORMATS) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise NoPicture("The picture has too many pixels: 40 million at most.")
                upright = ImageOps.exif_transpose(opened)
                drawn = upright.convert("RGBA")
    except NoPicture:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise NoPicture("That is no picture: PNG, JPEG, WebP or GIF are.") from None
    except Exception:  # a file that is made to break its reader breaks in many ways  # noqa: BLE001
        raise NoPicture("The picture is broken.") from None
    drawn.thumbnail(SIZES[kind])
    out = io.BytesIO()
    drawn.save(out, "PNG", optimize=True)
    made = out.getvalue()
    if kind == "letter" and drawn.getchannel("A").getextrema() == (255, 255):
        photo = io.BytesIO()
        drawn.convert("RGB").save(photo, "JPEG", quality=84, optimize=True, progressive=True)
        made = min(made, photo.getvalue(), key=len)
    return made, drawn.width, drawn.height


def keep(account: Account, kind: str, content: bytes) -> Picture:
    """In the place of the one there was; its address is another, so that nobody sees the old one. Raises NoPicture."""
    png, width, height = read(content, kind)
    kept = {"token": secrets.token_urlsafe(18), "content": png, "width": width, "height": height}
    made, _ = account.pictures.update_or_create(kind=kind, defaults=kept)
    return made


def keep_for_letters(account: Account, name: str, content: bytes) -> Picture:
    """One more, beside those there are. Raises NoPicture."""
    made, width, height = read(content, Picture.Kind.LETTER)
    if account.pictures.filter(kind=Picture.Kind.LETTER).count() >= MOST_OF_LETTERS:
        raise NoPicture(f"There are {MOST_OF_LETTERS} pictures already. Take some away that no letter shows.")
    name = " ".join(name.replace("\0", "").split())[:120]
    token = secrets.token_urlsafe(18)
    return account.pictures.create(
        kind=Picture.Kind.LETTER, token=token, content=made, width=width, height=height, name=name
    )


def picture(request: HttpRequest, token: str) -> HttpResponse:
    """Whoever has its address sees it: it stands in emails and on pages. It never changes under one."""
    [(content,)] = sql.rows("SELECT bluffside_picture(%s)", [token])
    if content is None:
        raise Http404
    content = bytes(content)
    response = HttpResponse(content, content_type="image/png" if content.startswith(PNG) else "image/jpeg")
    response["Cache-Control"] = "public, max-age=31536000, immutable"
    return response
