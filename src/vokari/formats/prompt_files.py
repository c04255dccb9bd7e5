"""A client's prompts as one file: a ZIP with a list as CSV (RFC 4180), and a sound file for each recording."""

import csv
import io
import re
import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import IO

from .tables import to_csv

LIST = "prompts.csv"
COLUMNS = (
    "prompt", "kind", "language", "words", "words are", "file", "voice", "rate", "pause", "true until", "then", "note",
)  # fmt: skip
MOST_LINES, MOST_FILES = 2000, 2000
LARGEST_LIST, LARGEST_FILE, LARGEST = 5_000_000, 20_000_000, 400_000_000
"""Bytes that are read of the list, of one sound, and of all of them, whatever the file says of itself."""


@dataclass(frozen=True, slots=True)
class PromptLine:
    """A line of the list: a prompt in one language. `file` is the name of its recording within the ZIP, empty for words that a voice
    reads; `content` that recording."""

    prompt: str
    kind: str = "greeting"
    language: str = "en-US"
    words: str = ""
    words_are: str = "typed"
    file: str = ""
    voice: str = ""
    rate: str = ""
    pause: str = ""
    true_until: str = ""
    then: str = ""
    note: str = ""
    content: bytes = b""

    def cells(self) -> list[str]:
        """Its cells, in the order of the columns."""
        return [
            self.prompt, self.kind, self.language, self.words, self.words_are, self.file, self.voice, self.rate, self.pause,
            self.true_until, self.then, self.note,
        ]  # fmt: skip


def write(lines: Iterable[PromptLine]) -> bytes:
    """The ZIP of some prompts."""
    kept = list(lines)
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr(LIST, to_csv(COLUMNS, (one.cells() for one in kept)))
        for one in kept:
            if one.file:
                made.writestr(zipfile.ZipInfo(one.file, (2026, 1, 1, 0, 0, 0)), one.content)
    return file.getvalue()


def file_name(prompt: str, language: str, ending: str, taken: set[str]) -> str:
    """A name for a recording within the ZIP: that of its prompt, so that it is found again by a person."""
    stem = re.sub(r"[^\w -]+", "", prompt).strip() or "prompt"
    name, number = f"{stem} ({language}){ending}", 2
    while name.casefold() in taken:
        name, number = f"{stem} {number} ({language}){ending}", number + 1
    taken.add(name.casefold())
    return name


def read(file: IO[bytes]) -> list[PromptLine] | str:
    """The prompts of a ZIP; or a sentence that says what is wrong with it."""
    try:
        with zipfile.ZipFile(file) as brought:
            return _read(brought)
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError, UnicodeDecodeError):
        return "This is no ZIP file that can be read."


def _read(brought: zipfile.ZipFile) -> list[PromptLine] | str:
    names = {one.filename: one for one in brought.infolist() if not one.is_dir()}
    if len(names) > MOST_FILES:
        return f"There are more than {MOST_FILES} files in it."
    odd = next((one for one in names if "/" in one or "\\" in one or one.startswith(".")), None)
    if odd is not None:
        return f"“{odd[:60]}” lies in a folder: the list and all recordings stand side by side."
    if LIST not in names:
        return f"There is no {LIST} in it."
    listed = _some(brought, LIST, LARGEST_LIST)
    if listed is None:
        return f"{LIST} is larger than {LARGEST_LIST // 1_000_000} MB."
    rows = list(csv.DictReader(io.StringIO(listed.decode("utf-8-sig"))))
    if len(rows) > MOST_LINES:
        return f"There are more than {MOST_LINES} lines in {LIST}."
    found: list[PromptLine] = []
    left = LARGEST
    for at, row in enumerate(rows, 2):
        cells = {name: (row.get(name) or "").strip().removeprefix("'") for name in COLUMNS}
        if not cells["prompt"]:
            return f"Line {at} of {LIST} names no prompt."
        content = b""
        if cells["file"]:
            if cells["file"] not in names:
                return f"Line {at} of {LIST} names the file “{cells['file'][:60]}”, which is not there."
            part = _some(brought, cells["file"], min(LARGEST_FILE, left))
            if part is None:
                return f"“{cells['file'][:60]}” is larger than 20 MB, or all files are larger than {LARGEST // 1_000_000} MB."
            content, left = part, left - len(part)
        found.append(PromptLine(**{name.replace(" ", "_"): value for name, value in cells.items()}, content=content))
    return found


def _some(brought: zipfile.ZipFile, name: str, most: int) -> bytes | None:
    """A file of the ZIP, read to so many bytes; None for a larger one."""
    with brought.open(name) as file:
        content = file.read(most + 1)
    return content if len(content) <= most else None


def twice(lines: Iterable[PromptLine]) -> Iterator[str]:
    """Prompts that are listed twice in one language."""
    seen: set[tuple[str, str]] = set()
    for one in lines:
        key = (one.prompt.casefold(), one.language)
        if key in seen:
            yield f"{one.prompt} ({one.language})"
        seen.add(key)
