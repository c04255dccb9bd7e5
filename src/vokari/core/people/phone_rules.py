"""Phones of people: what can be rung, and why something cannot."""

import re
from collections.abc import Collection
from dataclasses import dataclass

import phonenumbers
from phonenumbers import shortnumberinfo

from ..numbers import numbering

SIP = re.compile(
    r"^sips?:[\w.!~*'()&=+$,;?/%-]+@(?:[A-Za-z0-9](?:[A-Za-z0-9-]*[A-Za-z0-9])?\.)*[A-Za-z0-9-]+(?::\d{1,5})?$"
)
"""A SIP address with a user and a host (RFC 3261, section 19.1), without headers."""
_PREMIUM = (phonenumbers.PhoneNumberType.PREMIUM_RATE, phonenumbers.PhoneNumberType.SHARED_COST)


@dataclass(frozen=True, slots=True)
class Checked:
    """A phone that can be rung, in the form it is stored in; `asks` is what should be asked once, if anything."""

    to: str
    asks: str = ""


def check(typed: str, country: str, tracking: Collection[str]) -> Checked | numbering.Wrong:
    """Whether a typed number or SIP address can be rung for a client of a country; `tracking` are our own numbers."""
    text = typed.strip()
    if text.lower().startswith(("sip:", "sips:")):
        return (
            Checked(text)
            if SIP.match(text)
            else numbering.Wrong("A SIP address looks like sip:dana@phones.example.com.")
        )
    read = numbering.parse_dialed(text, country)
    base = numbering.parted(read)[0] if isinstance(read, str) else ""
    digits = re.sub(r"[\s().-]", "", text)
    if shortnumberinfo.is_emergency_number(digits, country):
        return numbering.Wrong("This is an emergency number: calls must not be sent on to it.")
    if isinstance(read, numbering.Wrong):
        return read
    if base in tracking:
        return numbering.Wrong("This is one of our own tracking numbers: the call would come round again.")
    number = phonenumbers.parse(base)
    if phonenumbers.number_type(number) in _PREMIUM:
        return numbering.Wrong("This is a premium number: every call to it would cost extra.")
    here = phonenumbers.country_code_for_region(country)
    if number.country_code != here:
        region = phonenumbers.region_code_for_number(number) or f"+{number.country_code}"
        return Checked(read, f"This phone is in another country ({region}). Save again if that is right.")
    return Checked(read)
