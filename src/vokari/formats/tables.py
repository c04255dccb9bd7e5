"""Tables out as CSV (RFC 4180), with formulas neutralized so that a spreadsheet runs nothing."""

import csv
import io
from collections.abc import Iterable, Sequence


def to_csv(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """The rows as CSV with CRLF line ends."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    for row in rows:
        writer.writerow([_safe(cell) for cell in row])
    return out.getvalue()


def _safe(cell: object) -> object:
    """A text that a spreadsheet would read as a formula gets an apostrophe; phone numbers in E.164 stay as they are."""
    if isinstance(cell, str) and cell.startswith(("=", "+", "-", "@", "\t", "\r")) and not cell[1:].isdigit():
        return "'" + cell
    return cell
