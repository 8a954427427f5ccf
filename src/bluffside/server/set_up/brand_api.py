"""The brand: logo and picture, two colours with what can be read on them, the line under the name, and the closing lines."""

from typing import Literal

from ninja import File, Path, Router, Schema, UploadedFile
from pydantic import Field

from bluffside.core.contrast import contrast
from bluffside.server.practice import audit, pictures
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.brand import READABLE, SHEET, USUAL, brand_of, is_colour, usable
from bluffside.server.practice.refusals import BadFields

router = Router(tags=["set-up"], auth=InAccount())
Kind = Literal["logo", "picture"]


class BrandIn(Schema):
    """Colours as #1d5b66; empty for the usual one, and for the brand's own."""

    colour: str = Field(default="", max_length=7)
    link: str = Field(default="", max_length=7)
    line: str = Field(default="", max_length=120)
    closing: str = Field(default="", max_length=300)


class ColourOut(Schema):
    """How a colour reads: `ratio` of contrast to what it stands with (WCAG 2.2), whether that is enough, and the nearest of its
    kind that is."""

    ratio: float
    enough: bool
    instead: str


class BrandOut(BrandIn):
    """`shown` and `shown_link`: the colours as pages have them; `on`: that of words on it; `as_ground`: the name on the
    brand's colour; `as_words`: links on the pages' paper. `logo` and `picture`: addresses, or empty."""

    shown: str
    on: str
    shown_link: str
    as_ground: ColourOut
    as_words: ColourOut
    logo: str
    picture: str


def _reads(colour: str, ground: str) -> ColourOut:
    ratio = contrast(colour, ground)
    return ColourOut(ratio=round(ratio, 2), enough=ratio >= READABLE, instead=usable(colour, ground))


def _brand(request: AccountRequest) -> BrandOut:
    own = request.account
    brand = brand_of(own)
    return BrandOut(
        colour=own.brand_colour,
        link=own.link_colour,
        line=own.brand_line,
        closing=own.closing_lines,
        shown=brand.colour,
        on=brand.on,
        shown_link=brand.link,
        as_ground=_reads(brand.colour, brand.on),
        as_words=_reads(own.link_colour or own.brand_colour or USUAL, SHEET),
        logo=brand.logo,
        picture=brand.picture,
    )


@router.get("brand", response=BrandOut)
def get_brand(request: AccountRequest, account: Path[str]) -> BrandOut:
    return _brand(request)


@router.put("brand", response=BrandOut)
def put_brand(request: AccountRequest, account: Path[str], given: BrandIn) -> BrandOut:
    """Pages have it at once; what is out stays as it was."""
    require(request, "set-up")
    faults = {
        name: "A colour is written like #1d5b66."
        for name, value in (("colour", given.colour), ("link", given.link))
        if value and not is_colour(value)
    }
    if faults:
        raise BadFields(faults)
    own = request.account
    closing = "\n".join(filter(None, (" ".join(line.split()) for line in given.closing.replace("\0", "").splitlines())))
    wanted = {
        "brand_colour": ("the colour", given.colour.lower()),
        "link_colour": ("the colour of links", given.link.lower()),
        "brand_line": ("the line under the name", " ".join(given.line.replace("\0", "").split())),
        "closing_lines": ("the closing lines", closing),
    }
    noted = [
        audit.Noted(words, getattr(own, field), value)
        for field, (words, value) in wanted.items()
        if getattr(own, field) != value
    ]
    for field, (_, value) in wanted.items():
        setattr(own, field, value)
    own.save(update_fields=[*wanted])
    audit.note(own, request.person, "brand", noted)
    return _brand(request)


@router.post("brand/{kind}", response=BrandOut)
def put_picture(request: AccountRequest, account: Path[str], kind: Kind, file: File[UploadedFile]) -> BrandOut:
    """PNG, JPEG, WebP or GIF, 5 MB at most; it is sized and written anew, without anything else that was in the file."""
    require(request, "set-up")
    if (file.size or 0) > pictures.LARGEST:
        raise BadFields({kind: "The file is larger than 5 MB. Nothing was changed."})
    try:
        made = pictures.keep(request.account, kind, file.read())
    except pictures.NoPicture as error:
        raise BadFields({kind: f"{error} Nothing was changed."}) from None
    noted = audit.Noted(f"the {kind}", "", f"another, {made.width} × {made.height}")
    audit.note(request.account, request.person, "brand", [noted])
    return _brand(request)


@router.delete("brand/{kind}", response=BrandOut)
def drop_picture(request: AccountRequest, account: Path[str], kind: Kind) -> BrandOut:
    require(request, "set-up")
    if request.account.pictures.filter(kind=kind).delete()[0]:
        audit.note(request.account, request.person, "brand", [audit.Noted(f"the {kind}", "there", "taken away")])
    return _brand(request)
