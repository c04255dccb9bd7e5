"""Quotes, names and lists within a line: as they are read, and as they are written to be read back."""

import re

_QUOTED = re.compile(r'^(?:"((?:[^"\\]|\\.)*)"?|[“„«]([^”“»]*)[”“»]?)\s*,?\s*(.*)$', re.S)


def unquoted(text: str) -> tuple[str, str] | None:
    """The words that a text begins with in quotes, and what stands behind them; None where it does not begin so."""
    match = _QUOTED.match(text)
    if match is None:
        return None
    plain, curly, rest = match.groups()
    words = re.sub(r"\\(.)", lambda one: "\n" if one[1] == "n" else one[1], plain) if plain is not None else curly
    return words, rest


def parts_listed(text: str) -> list[str]:
    """What stands between commas, "and" and "&"; what is in quotes stays together."""
    found, start = [], 0
    for match in re.finditer(r'"(?:[^"\\]|\\.)*"|\s*,\s*(?!\s*ext)|\s+(?:and|&)\s+', text):
        if match[0][0] != '"':
            found.append(text[start : match.start()])
            start = match.end()
    return [*found, text[start:]]


def without_name(text: str) -> tuple[str, str | None]:
    """What stands before `as NAME` at the end of a text, and the name."""
    match = re.search(r'(?:^|[\s,])as\s+("(?:[^"\\]|\\.)*"|[^",]+)\s*$', text)
    if match is None:
        return text.strip(" ,"), None
    quoted = unquoted(match[1])
    return text[: match.start()].strip(" ,"), " ".join((quoted[0] if quoted else match[1]).split())


def settings_of(text: str) -> list[str]:
    """What stands between commas, in small letters."""
    return [" ".join(one.casefold().split()) for one in text.split(",") if one.strip()]


def quoted(words: str) -> str:
    """Words in quotes as they are read back."""
    return '"' + re.sub(r'(["\\])', r"\\\1", words).replace("\n", "\\n") + '"'


def named(name: str) -> str:
    """A name as it can stand before a colon, and behind `to` and `as`; in quotes where it would be read otherwise."""
    return quoted(name) if re.search(r'[":#,“”„«\\]', name) or name != " ".join(name.split()) else name


def listed(name: str) -> str:
    """A name as it can stand among those who are rung; in quotes where a part of it would be read as something else."""
    plain = re.fullmatch(r"[^\W\d_][\w.’'-]*(?: [^\W\d_][\w.’'-]*)*", name)
    return name if plain and not re.search(r"\b(?:and|then|else|otherwise|as|phone)\b", name, re.I) else quoted(name)
