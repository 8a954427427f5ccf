"""A sheet of A4 in the application's own face, on which every PDF is written."""

from pathlib import Path

import font_source_serif_pro
import segno
from fpdf import FPDF
from fpdf.enums import XPos, YPos

FONTS = Path(font_source_serif_pro.__file__).parent / "files"
INK, SOFT, RULE = (31, 42, 48), (85, 98, 106), (221, 216, 204)


class Sheet(FPDF):
    """`version` stands in the foot beside the account: a version, a day."""

    def __init__(self, account: str, version: str, first: bool = True) -> None:
        super().__init__(format="A4")
        for style, file in (("", "Regular"), ("B", "Semibold"), ("I", "It")):
            self.add_font("serif", style, FONTS / f"SourceSerifPro-{file}.ttf")
        self.account, self.version = account, version
        self.set_margins(20, 18, 20)
        self.set_auto_page_break(True, 20)
        self.set_text_shaping(False)
        if first:
            self.add_page()

    def footer(self) -> None:
        self.set_y(-14)
        self.style(8, soft=True)
        self.cell(0, 5, f"{self.account} · {self.version} · page {self.page_no()}", align="R")

    def style(self, size: float, bold: str = "", soft: bool = False) -> None:
        self.set_font("serif", bold, size)
        self.set_text_color(*(SOFT if soft else INK))

    def heading(self, name: str, version: str) -> None:
        self.style(9, soft=True)
        self.cell(0, 5, self.known(f"{self.account} · {version}"), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.style(20, "B")
        self.multi_cell(0, 9, self.known(name), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        self.ln(1)

    def words(self, words: str, size: float, bold: str = "", soft: bool = False, left: float = 0) -> None:
        self.style(size, bold, soft)
        self.set_x(self.l_margin + left)
        self.multi_cell(0, size * 0.48, self.known(words), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)

    def known(self, words: str) -> str:
        """Letters that the font lacks (emoji, say) are shown as a lozenge, not as nothing."""
        have = self.fonts["serif"].cmap  # type: ignore[union-attr]
        return "".join(one if one == "\n" or ord(one) in have else "◊" for one in words)

    def code(self, link: str, left: float, top: float, side: float) -> None:
        """A QR code (ISO/IEC 18004) with its quiet zone of four modules; places and side in mm."""
        made = segno.make(link, error="m")
        module = side / made.symbol_size(border=4)[0]
        self.set_fill_color(0, 0, 0)
        for y, row in enumerate(made.matrix_iter(border=4)):
            for x, dark in enumerate(row):
                if dark:
                    self.rect(left + x * module, top + y * module, module, module, style="F")

    def rule(self, left: float = 0) -> None:
        self.set_draw_color(*RULE)
        self.line(self.l_margin + left, self.get_y(), self.w - self.r_margin, self.get_y())
