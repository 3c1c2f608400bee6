"""Pages for people: a PDF set from pictures and words, and pictures side by side on one.

The face is Source Sans 3; fpdf2 puts only the characters used into the file. What the face has no sign for is left out.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PIL import Image, ImageDraw, ImageFont

if TYPE_CHECKING:
    from fpdf import FPDF

FONTS = Path(__file__).parent / "fonts"
PLAIN, BOLD = FONTS / "source-sans-3-400.ttf", FONTS / "source-sans-3-650.ttf"
FACE = "Source Sans 3"
MARGIN, GAP = 14.0, 5.0
"""Of a page, and between two things on it, in millimetres."""
POINT = 0.3528
"""Millimetres."""
LEADING = 1.28
INK, QUIET, RULE = (29, 29, 29), (90, 90, 90), (189, 189, 189)


@dataclass(frozen=True)
class Shown:
    """A picture as a JPEG, with its words: a title and lines under it."""

    jpeg: bytes
    title: str
    lines: tuple[str, ...] = ()

    @property
    def size(self) -> tuple[int, int]:
        with Image.open(BytesIO(self.jpeg)) as image:
            return image.size


class Page:
    """A PDF of A4 pages, written from top to bottom; `y` is where the next thing goes, in millimetres."""

    def __init__(self, title: str) -> None:
        from fpdf import FPDF  # noqa: PLC0415  (only who prints waits for it)

        self.pdf: FPDF = FPDF(format="A4")
        self.pdf.set_title(title)
        self.pdf.set_creator("Glyptic")
        self.pdf.set_auto_page_break(False)
        self.pdf.add_font(FACE, "", PLAIN)
        self.pdf.add_font(FACE, "B", BOLD)
        self.pdf.add_page()
        self.y = MARGIN

    @property
    def width(self) -> float:
        return float(self.pdf.w) - 2 * MARGIN

    @property
    def bottom(self) -> float:
        return float(self.pdf.h) - MARGIN

    def room(self, height: float) -> None:
        """A new page, where so much does not fit on this one any more."""
        if self.y + height > self.bottom and self.y > MARGIN:
            self.pdf.add_page()
            self.y = MARGIN

    def _lines(self, text: str, width: float, size: float, bold: bool) -> list[str]:
        self.pdf.set_font(FACE, "B" if bold else "", size)
        if not text:
            return []
        lines: Any = self.pdf.multi_cell(width, size, text, dry_run=True, output="LINES")
        return list(lines)

    def height_of(self, text: str, width: float, size: float = 9.5, bold: bool = False) -> float:
        """Of a text that is set as wide as this."""
        return len(self._lines(text, width, size, bold)) * size * POINT * LEADING

    def text_at(
        self, x: float, y: float, text: str, width: float, size: float = 9.5, bold: bool = False, quiet: bool = False
    ) -> float:
        """Set a text at a place of the page; returns where it ends."""
        self.pdf.set_text_color(*(QUIET if quiet else INK))
        step = size * POINT * LEADING
        for line in self._lines(text, width, size, bold):
            y += step
            self.pdf.text(x, y - step * 0.28, line)
        return y

    def text(self, text: str, size: float = 9.5, bold: bool = False, quiet: bool = False, indent: float = 0.0) -> None:
        """Set a text over the whole width, on new pages where it needs them."""
        step = size * POINT * LEADING
        for line in self._lines(text, self.width - indent, size, bold):
            self.room(step)
            self.y = self.text_at(MARGIN + indent, self.y, line, self.width, size, bold, quiet)

    def space(self, height: float = GAP) -> None:
        self.y += height

    def rule(self) -> None:
        self.pdf.set_draw_color(*RULE)
        self.pdf.line(MARGIN, self.y, MARGIN + self.width, self.y)
        self.y += 1.5

    def heading(self, text: str) -> None:
        """A heading, never alone at the foot of a page."""
        self.room(22)
        self.space(3)
        self.text(text, 12, bold=True)
        self.rule()

    def picture_at(self, x: float, y: float, jpeg: bytes, width: float, height: float) -> tuple[float, float]:
        """Lay a picture into a box; returns how wide and high it came out."""
        wide, high = Shown(jpeg, "").size
        scale = min(width / wide, height / high)
        self.pdf.image(BytesIO(jpeg), x, y, wide * scale, high * scale)
        return wide * scale, high * scale

    def row(self, pictures: Sequence[Shown], columns: int, height: float) -> None:
        """Pictures side by side, each with its words under it."""
        width = (self.width - GAP * (columns - 1)) / columns
        words = max(self._under(one, width) for one in pictures)
        self.room(height + words)
        tallest = 0.0
        for i, one in enumerate(pictures):
            x = MARGIN + i * (width + GAP)
            _, high = self.picture_at(x, self.y, one.jpeg, width, height)
            tallest = max(tallest, high)
        for i, one in enumerate(pictures):
            x, y = MARGIN + i * (width + GAP), self.y + tallest + 0.8
            y = self.text_at(x, y, one.title, width, 9.5, bold=True)
            for line in one.lines:
                y = self.text_at(x, y, line, width, 8.5, quiet=True)
        self.y += tallest + words + GAP

    def _under(self, one: Shown, width: float) -> float:
        return 0.8 + self.height_of(one.title, width, 9.5, True) + sum(self.height_of(t, width, 8.5) for t in one.lines)

    def content(self) -> bytes:
        return bytes(self.pdf.output())


def in_rows(items: Sequence[Any], columns: int) -> Iterator[Sequence[Any]]:
    """So many at a time."""
    for start in range(0, len(items), columns):
        yield items[start : start + columns]


SHEET_WIDTH, SHEET_MARGIN, SHEET_GAP = 2400, 80, 50
TITLE_SIZE, NAME_SIZE, LINE_SIZE = 56, 40, 32
PAPER, WORD_INK, WORD_QUIET = (255, 255, 255), (29, 29, 29), (90, 90, 90)
LONGEST_LINES = 3


def columns_for(count: int) -> int:
    """How many pictures stand side by side on a sheet of so many."""
    return 1 if count == 1 else 2 if count <= 4 else 3


def contact_pdf(title: str, subtitle: str, pictures: Sequence[Shown]) -> bytes:
    """A sheet of pictures with their words, as a PDF."""
    page = Page(title)
    page.text(title, 17, bold=True)
    page.text(subtitle, 9.5, quiet=True)
    page.space()
    columns = columns_for(len(pictures))
    for row in in_rows(pictures, columns):
        page.row(row, columns, {1: 180.0, 2: 105.0}.get(columns, 80.0))
    return page.content()


def contact_png(title: str, subtitle: str, pictures: Sequence[Shown]) -> bytes:
    """The same as one picture, an 8-bit PNG."""
    columns = columns_for(len(pictures))
    width = (SHEET_WIDTH - 2 * SHEET_MARGIN - SHEET_GAP * (columns - 1)) // columns
    rows = [[_cell(one, width) for one in row] for row in in_rows(pictures, columns)]
    heights = [max(cell.height for cell in row) for row in rows]
    top = SHEET_MARGIN + TITLE_SIZE + LINE_SIZE + SHEET_GAP
    sheet = Image.new("RGB", (SHEET_WIDTH, top + sum(heights) + SHEET_GAP * (len(rows) - 1) + SHEET_MARGIN), PAPER)
    pen = ImageDraw.Draw(sheet)
    pen.text((SHEET_MARGIN, SHEET_MARGIN), title, WORD_INK, ImageFont.truetype(BOLD, TITLE_SIZE))
    pen.text((SHEET_MARGIN, SHEET_MARGIN + TITLE_SIZE + 12), subtitle, WORD_QUIET, ImageFont.truetype(PLAIN, LINE_SIZE))
    y = top
    for row, height in zip(rows, heights, strict=True):
        for i, cell in enumerate(row):
            sheet.paste(cell, (SHEET_MARGIN + i * (width + SHEET_GAP), y))
        y += height + SHEET_GAP
    out = BytesIO()
    sheet.save(out, "PNG")
    return out.getvalue()


def _cell(one: Shown, width: int) -> Image.Image:
    with Image.open(BytesIO(one.jpeg)) as opened:
        image = opened.convert("RGB")
    height = round(image.height * width / image.width)
    bold, plain = ImageFont.truetype(BOLD, NAME_SIZE), ImageFont.truetype(PLAIN, LINE_SIZE)
    lines = [line for text in one.lines for line in _broken(text, plain, width)[:LONGEST_LINES]]
    cell = Image.new("RGB", (width, height + 16 + NAME_SIZE + 12 + len(lines) * (LINE_SIZE + 8)), PAPER)
    cell.paste(image.resize((width, height), Image.Resampling.LANCZOS), (0, 0))
    pen = ImageDraw.Draw(cell)
    pen.text((0, height + 10), _broken(one.title, bold, width)[0], WORD_INK, bold)
    for i, line in enumerate(lines):
        pen.text((0, height + 22 + NAME_SIZE + i * (LINE_SIZE + 8)), line, WORD_QUIET, plain)
    return cell


def _broken(text: str, font: ImageFont.FreeTypeFont, width: int) -> list[str]:
    """A text in lines no wider than so many pixels."""
    lines = [""]
    for word in text.split():
        longer = f"{lines[-1]} {word}".strip()
        if font.getlength(longer) <= width or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines
