"""Tables out as CSV (RFC 4180) and as spreadsheets, with formulas neutralized so that a spreadsheet runs nothing."""

import csv
import io
import re
import unicodedata
from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Literal

from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
WIDEST = 60
UNSEEN = ("Cc", "Cf", "Cs", "Zs", "Zl", "Zp")
"""Categories of what nobody sees before a sign: control and format characters, blanks."""
E164 = re.compile(r"\+[1-9][0-9]{1,14}")


def to_csv(header: Sequence[str] | None, rows: Iterable[Sequence[object]]) -> str:
    """The rows as CSV with CRLF line ends; without a header (None) as a further part of a table."""
    out = io.StringIO()
    writer = csv.writer(out)
    for some in ([header] if header else [], rows):
        writer.writerows([_safe(cell) for cell in cells] for cells in some)
    return out.getvalue()


def to_xlsx(title: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """The rows as one sheet of a workbook (ISO/IEC 29500): a heading that stays in sight, columns as wide as they need."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "".join(one for one in title if one not in "[]:*?/\\")[:31] or "Table"
    sheet.append([_cell(words) for words in header])
    widths = [len(words) for words in header]
    for number, row in enumerate(rows, 2):
        cells = [_cell(value) for value in row]
        sheet.append(cells)
        for cell in sheet[number]:
            if isinstance(cell.value, str):
                cell.data_type = "s"
        widths = [max(width, len(str(cell or ""))) for width, cell in zip(widths, cells, strict=True)]
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for index, width in enumerate(widths, 1):
        sheet.column_dimensions[get_column_letter(index)].width = min(width, WIDEST) + 2
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def to_file(
    kind: Literal["csv", "xlsx"], title: str, header: Sequence[str], rows: Iterable[Sequence[object]]
) -> tuple[bytes, str]:
    """The rows as a file of a kind, with its media type."""
    if kind == "xlsx":
        return to_xlsx(title, header, rows), XLSX
    return to_csv(header, rows).encode(), CSV


def _safe(cell: object) -> object:
    """A text without control characters; one that a spreadsheet would read as a formula, also behind blanks and signs that
    nobody sees, gets an apostrophe. Phone numbers in E.164 stay as they are."""
    if not isinstance(cell, str):
        return cell
    text = "".join(one for one in cell if one == "\n" or unicodedata.category(one) not in ("Cc", "Cs"))
    seen = "".join(one for one in unicodedata.normalize("NFKC", text) if unicodedata.category(one) not in UNSEEN)
    return "'" + text if seen.startswith(("=", "+", "-", "@", "'")) and not E164.fullmatch(text) else text


def _cell(value: object) -> object:
    """A value that a workbook can hold: instants without their zone, texts never as formulas."""
    return value.replace(tzinfo=None) if isinstance(value, datetime) else _safe(value)
