"""The brand: pictures are read for what they are and written anew, and colours are readable (WCAG 2.2)."""

import io
import struct
import zlib
from typing import Any

import pytest
from django.test import Client
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from bluffside.core.contrast import contrast
from bluffside.server.events.stream import Cause
from bluffside.server.practice import pictures
from bluffside.server.practice.brand import READABLE, SHEET, usable
from bluffside.server.practice.models import AuditEntry
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House

PLACE = b"taken at 50.1 N 5.2 W"


def file(kind: str = "JPEG", size: tuple[int, int] = (800, 200), turned: int = 1) -> bytes:
    out, exif = io.BytesIO(), Image.Exif()
    exif[0x0112], exif[0x010E] = turned, PLACE.decode()  # orientation, description (Exif 2.32)
    Image.new("RGB", size, "#1d5b66").save(out, kind, exif=exif)
    return out.getvalue()


def bomb() -> bytes:
    """A PNG of a few bytes that says it has ten thousand million pixels (PNG, 3rd edition, 11.2.1)."""
    head = struct.pack(">IIBBBBB", 100_000, 100_000, 8, 0, 0, 0, 0)
    chunk = struct.pack(">I", len(head)) + b"IHDR" + head + struct.pack(">I", zlib.crc32(b"IHDR" + head))
    return b"\x89PNG\r\n\x1a\n" + chunk


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "GIF"])
def test_a_picture_is_sized_and_written_anew_without_what_else_was_in_the_file(kind: str) -> None:
    content = file(kind, (1_600, 400))
    png, width, height = pictures.read(content, "logo")
    assert (width, height) == (480, 120) and png.startswith(b"\x89PNG")
    assert PLACE not in png and not Image.open(io.BytesIO(png)).getexif()


def test_a_picture_that_was_taken_turned_stands_upright() -> None:
    assert pictures.read(file(size=(300, 100), turned=6), "picture")[1:] == (100, 300)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "no picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "no picture"),
        (file("BMP"), "no picture"),
        (bomb(), "no picture"),
        (file("PNG")[:200], "broken"),
        (b"x" * (pictures.LARGEST + 1), "larger than 5 MB"),
    ],
)
def test_what_is_none_is_said(content: bytes, words: str) -> None:
    with pytest.raises(pictures.NoPicture, match=words):
        pictures.read(content, "logo")


@given(st.integers(0, 0xFFFFFF).map("#{:06x}".format), st.sampled_from([SHEET, "#ffffff", "#14202a"]))
def test_the_colour_that_is_offered_can_be_read_and_is_the_same_where_it_could(colour: str, ground: str) -> None:
    found = usable(colour, ground)
    assert contrast(found, ground) >= READABLE
    assert (found == colour) == (contrast(colour, ground) >= READABLE)


def test_contrast_is_that_of_the_standard() -> None:
    """WCAG 2.2's own edges, and #767676 on white, the lightest grey that passes (well known from its techniques; from memory)."""
    assert contrast("#000000", "#ffffff") == pytest.approx(21) and contrast("#123456", "#123456") == 1
    assert contrast("#767676", "#ffffff") == pytest.approx(4.54, abs=0.01)
    assert contrast("#767676", "#ffffff") > READABLE > contrast("#777777", "#ffffff")


def test_pages_and_emails_have_the_brand_and_it_is_noted(house: House, api: Any, signed_in: Any) -> None:
    given = {"colour": "#FFD400", "link": "", "line": "On the water", "closing": " Open all year \n\n Dogs welcome"}
    status, brand = api("PUT", "brand", given)
    assert status == 200 and brand["on"] == "#1f2a30" and not brand["as_words"]["enough"]
    assert contrast(brand["shown_link"], SHEET) >= READABLE and brand["as_words"]["instead"] == brand["shown_link"]
    assert api("PUT", "brand", {**given, "link": "red"})[0] == 422
    client, way = signed_in(house.consultant), "/api/accounts/sailing/brand/logo"
    logo = client.post(way, {"file": io.BytesIO(file())}).json()["logo"]
    seen = Client().get(logo)
    assert (
        seen["Content-Type"] == "image/png"
        and PLACE not in seen.content
        and "nosniff" in seen["X-Content-Type-Options"]
    )
    assert Client().get("/b/nothing").status_code == 404
    other = client.post(way, {"file": io.BytesIO(file("PNG"))}).json()["logo"]
    assert other != logo and Client().get(logo).status_code == 404
    refused = client.post(way, {"file": io.BytesIO(b"<svg/>")})
    assert refused.status_code == 422 and Client().get(other).status_code == 200
    noted = AuditEntry.objects.filter(area="brand").values_list("what", flat=True)
    assert {"the colour", "the line under the name", "the closing lines", "the logo"} == set(noted)

    from bluffside.server.outside.models import Item

    contact = house.contact()
    steps = [{"id": "m", "kind": "email", "message": {"subject": "S", "body": "See https://example.com/x"}}]
    enrolling.enrol(house.workflow(name="Mail", steps=steps), [contact.id], "test", Cause())
    until_quiet()
    mail = Item.objects.get(theirs=contact.email)
    assert "Open all year\nDogs welcome\nSailing, 1 Quay" in mail.text
    assert f'{other}" alt=""' in mail.html and "Open all year<br>Dogs welcome" in mail.html
    assert api("DELETE", "brand/logo")[1]["logo"] == ""
    assert (
        signed_in(house.member).put("/api/accounts/sailing/brand", given, content_type="application/json").status_code
        == 403
    )
