"""A form's QR code (ISO/IEC 18004, by segno) as SVG and PNG, and a flyer to print with it."""

import io

import segno
from django.conf import settings

from bluffside.server.capture.forms import design_of
from bluffside.server.capture.models import Form
from bluffside.server.pdf import Sheet
from bluffside.server.practice.brand import brand_of

SIDE = 92  # mm, of the code on a flyer


def link(form: Form, **hidden: str) -> str:
    query = "&".join(f"{name}={value}" for name, value in hidden.items())
    return f"{settings.ADDRESS}/f/{form.token}{f'?{query}' if query else ''}"


def code(form: Form, format: str) -> bytes:
    """SVG, or PNG with 12 pixels a module; with the quiet zone of four modules that the standard asks for."""
    out = io.BytesIO()
    made = segno.make(link(form, source="code"), error="m")
    if format == "svg":
        made.save(out, kind="svg", scale=8, border=4, xmldecl=False)
    else:
        made.save(out, kind="png", scale=12, border=4)
    return out.getvalue()


def flyer(form: Form) -> bytes:
    """One page A4: the account, what it is about, the code, and the address for who has no camera at hand."""
    account, design = form.account, design_of(form)
    page = Sheet(account.name, form.name)
    red, green, blue = (int(brand_of(account).colour[at : at + 2], 16) for at in (1, 3, 5))
    page.set_fill_color(red, green, blue)
    page.rect(0, 0, page.w, 12, style="F")
    page.set_y(26)
    page.words(account.name, 26, "B")
    if account.brand_line:
        page.words(account.brand_line, 14, soft=True)
    page.ln(10)
    page.words(design.title or form.name, 30, "B")
    page.ln(2)
    if design.intro:
        page.words(design.intro[:600], 15)
    page.ln(6)
    top = max(page.get_y(), 120)
    page.code(link(form, source="flyer"), (page.w - SIDE) / 2, top, SIDE)
    page.set_y(top + SIDE + 4)
    page.style(12, soft=True)
    page.cell(0, 6, "Point your phone’s camera here", align="C", new_x="LMARGIN", new_y="NEXT")
    page.cell(0, 6, page.known(link(form)), align="C")
    return bytes(page.output())
