"""Mail addresses as people type them: whether one can be, and which was likely meant where a domain looks misspelt."""

import re
from collections.abc import Collection
from difflib import SequenceMatcher

EMAIL = re.compile(r"[^@\s,;]+@[^@\s,;]+\.[A-Za-z]{2,}")
ENDINGS = ("com", "org", "net", "co.uk", "org.uk", "edu", "gov")
"""Endings that a near miss is compared with; those of the countries served here and the general ones."""
LIKE = 0.8


def is_address(typed: str) -> bool:
    """Whether this has the form of a mail address."""
    return EMAIL.fullmatch(typed) is not None and ".." not in typed


def meant(typed: str, known: Collection[str]) -> str:
    """The address that was likely meant, when the domain of the typed one is a near miss of one that is in use (`known`), or
    its ending one of a usual ending; empty where nothing seems wrong."""
    name, _, domain = typed.lower().rpartition("@")
    domains = {one.lower() for one in known}
    if domain in domains:
        return ""
    near = max(domains, key=lambda one: (_likeness(domain, one), one), default="")
    if near and _likeness(domain, near) >= LIKE and abs(len(near) - len(domain)) <= 2:
        return f"{name}@{near}"
    for usual in ENDINGS:
        host, ending = _split(domain, usual.count(".") + 1)
        if host and ending != usual and sorted(ending) == sorted(usual):
            return f"{name}@{host}.{usual}"
        if host and usual == "com" and ending in ("con", "cm", "comm", "vom", "xom", "cpm"):
            return f"{name}@{host}.com"
    return ""


def _likeness(one: str, other: str) -> float:
    return SequenceMatcher(None, one, other).ratio()


def _split(domain: str, parts: int) -> tuple[str, str]:
    """The host and the last so many parts of a domain."""
    labels = domain.split(".")
    return ".".join(labels[:-parts]), ".".join(labels[-parts:])
