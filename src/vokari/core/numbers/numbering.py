"""Phone numbers: reading what people type, E.164, and the forms they are shown in.

Sources: ITU-T E.164; the metadata of the phonenumbers package; the ranges set aside for fiction are those of the
North American plan (555-0100 to 0199) and of the UK regulator's numbers for drama.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

import phonenumbers
from phonenumbers import NumberParseException, PhoneNumberFormat

FICTION = re.compile(r"^(?:\+1[2-9]\d{2}55501\d{2}|\+44207946\d{4}|\+44808157\d{4}|\+447700900\d{3}|\+441632960\d{3})$")
"""Numbers set aside for fiction, in E.164. From memory: +44 20 7946 0xxx and +44 808 157 0xxx end in 0000 to 0999."""

LONGEST = 80
"""Letters of the longest number that is read, with all that people write around it."""
_REGIONS = {"US": "US", "GB": "GB", "CA": "CA", "IE": "IE"}


@dataclass(frozen=True, slots=True)
class Wrong:
    """Why what was typed is no phone number, as a sentence."""

    sentence: str


def is_fiction(e164: str) -> bool:
    """Whether a number lies in a range set aside for fiction."""
    if not FICTION.match(e164):
        return False
    return not e164.startswith(("+44207946", "+44808157")) or e164[-4] == "0"


_BEHIND = re.compile(
    r"(?ix)^(?P<number>[^;,\#x]*?[0-9)])\s* (?:;\s*(?:ext|postd)\s*= | ;+ | ,+ | \# | (?:[;,]\s*)? (?:extension|extn|ext|x)\s*[.:=]?)"
    r"\s*(?P<digits>[0-9*\#,pw\s.-]*)$"
)
"""Digits behind a number, in their usual spellings: ;ext=24 (RFC 3966), ;postd=24# (RFC 2806, from memory), x24, ext. 24, #24, ,24."""
_POST_DIAL = re.compile(r"^[0-9*#pw]{1,20}$")
_DIALED = re.compile(r"^(?P<number>\+[0-9]+);(?P<how>ext|postd)=(?P<digits>[0-9*#pw]{1,20})$")


def parse_dialed(typed: str, country: str) -> str | Wrong:
    """A number that is to be dialed, in E.164 form, with the digits that are dialed once it picks up behind `;ext=`, or behind
    `;postd=` where they are more than digits."""
    match = _BEHIND.match(typed.strip())
    if match is None:
        return parse(typed, country)
    number, digits = parse(match["number"], country), re.sub(r"[\s.-]", "", match["digits"]).replace(",", "p").lower()
    if isinstance(number, Wrong):
        return number
    if not _POST_DIAL.match(digits):
        return Wrong("Write the digits to dial after it picks up, at most 20: 410-555-0160 ext. 24.")
    return joined(number, digits)


def joined(number: str, digits: str) -> str:
    """A number with the digits that are dialed once it picks up, as `parse_dialed` gives it."""
    return f"{number};{'ext' if digits.isdigit() else 'postd'}={digits}" if digits else number


def parted(dialed: str) -> tuple[str, str]:
    """A number as `parse_dialed` gives it, in two: the number, and the digits to dial once it picks up (empty for none)."""
    match = _DIALED.match(dialed)
    return (match["number"], match["digits"]) if match else (dialed, "")


@lru_cache(maxsize=65536)
def calling_code(dialed: str) -> str:
    """The country's calling code of a number in E.164 form, with or without digits behind it; empty for anything else."""
    try:
        return str(phonenumbers.parse(parted(dialed)[0]).country_code)
    except NumberParseException:
        return ""


def parse(typed: str, country: str) -> str | Wrong:
    """The E.164 form of a number typed in any usual form, read as one of `country` (ISO 3166) where it has no prefix. An
    extension is refused, not dropped: see `parse_dialed`."""
    text = typed.strip()
    if not text:
        return Wrong("Type a phone number.")
    if len(text) > LONGEST:
        return Wrong("This is not a phone number: it is too long.")
    if re.search(r"[A-Za-z]", re.sub(r"(?i)\b(ext|x|tel)[.:]?", "", text)) and not re.match(
        r"^[+\d(][\d\s().-]*[A-Za-z]+$", text
    ):
        return Wrong("A phone number has digits only.")
    try:
        number = phonenumbers.parse(text, country)
    except NumberParseException:
        return Wrong("This is not a phone number. Type it with its area code.")
    if number.extension:
        return Wrong(f"A number without an extension is needed here: leave out {number.extension}.")
    e164 = phonenumbers.format_number(number, PhoneNumberFormat.E164)
    problem = problem_of(e164)
    return Wrong(problem) if problem else e164


@lru_cache(maxsize=8192)
def problem_of(e164: str) -> str:
    """Why a number in E.164 form, with or without digits behind it, cannot be rung, as a sentence; empty when it can exist."""
    e164, _ = parted(e164)
    if not e164:
        return "no number is given."
    if not re.fullmatch(r"\+[1-9][0-9]{1,14}", e164):
        return "a number has a + and at most 15 digits, as in +1 410 555 0142."
    if is_fiction(e164):
        return area_code_problem(e164[2:5], "US") if e164.startswith("+1") else ""
    try:
        number = phonenumbers.parse(e164)
    except NumberParseException:
        return "the number has too few digits."
    match phonenumbers.is_possible_number_with_reason(number):
        case phonenumbers.ValidationResult.TOO_SHORT:
            return "the number has too few digits."
        case phonenumbers.ValidationResult.TOO_LONG:
            return "the number has too many digits."
        case phonenumbers.ValidationResult.INVALID_COUNTRY_CODE:
            return "no country has this calling code."
    if not phonenumbers.is_valid_number(number):
        return "no such number can exist in its country."
    return ""


@lru_cache(maxsize=65536)
def shown(e164: str, country: str = "US") -> str:
    """A number in the form people of a country write it: national at home, international elsewhere; with an extension behind it."""
    e164, digits = parted(e164)
    if digits:
        return f"{shown(e164, country)} {'ext.' if digits.isdigit() else 'then'} {digits}"
    try:
        number = phonenumbers.parse(e164)
    except NumberParseException:
        return e164
    home = phonenumbers.country_code_for_region(country) == number.country_code
    if home and number.country_code == 1:
        digits = str(number.national_number)
        return f"{digits[:3]}-{digits[3:6]}-{digits[6:]}"
    form = PhoneNumberFormat.NATIONAL if home else PhoneNumberFormat.INTERNATIONAL
    return phonenumbers.format_number(number, form)


WITHHELD = "withheld"


def caller_shown(e164: str, country: str = "US", withheld: str = WITHHELD) -> str:
    """A caller's number as `shown`, or what stands for one that was withheld."""
    return shown(e164, country) if e164 else withheld


def caller_in_words(e164: str, country: str = "US") -> str:
    """A caller's number within a sentence."""
    return caller_shown(e164, country, f"a {WITHHELD} number")


def area_code_problem(code: str, country: str) -> str:
    """Why an area code cannot be looked for, as a sentence; empty when it can exist.

    North American codes are 2 to 9, then two digits, not N11 (ITU-T E.164, the North American plan), and must be known
    to the metadata of phonenumbers; elsewhere 2 to 5 digits, with or without the leading 0.
    """
    digits = code.lstrip("0") if country != "US" else code
    if not code.isascii() or not code.isdigit() or not 2 <= len(digits) <= 5:
        return f"“{code}” is no area code: write 2 to 5 digits."
    if country != "US":
        return ""
    if not re.fullmatch(r"[2-9]\d{2}", code) or code.endswith("11"):
        return f"{code} is no area code: it has three digits, the first from 2 to 9, and does not end in 11."
    if not phonenumbers.is_valid_number(phonenumbers.parse(f"+1{code}2345678")):
        return f"No place in North America has the area code {code}."
    return ""


@lru_cache(maxsize=65536)
def national_digits(e164: str) -> str:
    """The digits of a number without its country's calling code."""
    try:
        return str(phonenumbers.parse(e164).national_number)
    except NumberParseException:
        return e164.lstrip("+")


def matches(e164: str, typed: str) -> bool:
    """Whether any part of a number, typed in any form, is in it: 555-01, (410) 555, +44 20, 020 7946."""
    digits = "".join(one for one in typed if one.isdigit())
    return bool(digits) and (digits in e164 or digits.lstrip("0") in national_digits(e164))
