"""Who is rung, and how: `Ada 20 s, Yard office all at once, press 1`."""

import re
from typing import Any

from ...numbers import numbering
from ..model.steps import Ring
from ..model.values import DialedDestination, NumberDestination, PersonDestination, SipDestination, TeamDestination
from .known import Known
from .nodes import NEW, NewPerson, Node, Read, Stranger, Wrong
from .quoting import listed, parts_listed, unquoted, without_name

_PHONE = re.compile(r"(\+?\(?\d[\d\s().-]{5,}\d(?:\s*(?:;|,|x|ext|#)\s*(?:ext)?\.?=?\s*\d+)?)\s*$")
_SECONDS = re.compile(r"\s*,?\s*\b(\d{1,3})\s*s(?:ec(?:onds)?)?\.?$", re.I)
_STRATEGIES = {
    "in order": "in_order", "all at once": "all_at_once", "round robin": "round_robin", "in random order": "random", "random": "random",
    "longest idle first": "longest_idle", "longest idle": "longest_idle",
}  # fmt: skip
_STRATEGY_WORDS = {
    "all_at_once": "all at once",
    "round_robin": "round robin",
    "random": "in random order",
    "longest_idle": "longest idle first",
}
_RING = {"strategy": "in_order", "rounds": 1, "accept": None, "limit": None}


class Ringing:
    """Reads for one text who is rung; people who are made on the spot are noted in `read`."""

    def __init__(self, known: Known, read: Read) -> None:
        self.known, self.read = known, read

    def rings(self, rest: str, at: int) -> Node:
        """What stands behind the verb; nobody named is the only one there is."""
        rest, name = without_name(rest)
        if not rest.strip():
            only = [*self.known.people] if len(self.known.people) == 1 and not self.known.teams else []
            to = [{"kind": "person", "person": key, "id": "d1", "seconds": None} for key in only]
            return Node(at, "ring", {**_RING, "to": to}, name)
        return self.ring(rest, at, name)

    def ring(self, rest: str, at: int, name: str | None) -> Node:
        """Those who are rung, and the settings among them."""
        fill: dict[str, Any] = {**_RING, "to": []}
        for one in parts_listed(rest):
            low = one.casefold().strip()
            if low in _STRATEGIES:
                fill["strategy"] = _STRATEGIES[low]
            elif match := re.fullmatch(r"(\d{1,2}) rounds?", low):
                fill["rounds"] = int(match[1])
            elif match := re.fullmatch(r"at most (\d{1,3})(?: s)?(?: in all)?", low):
                fill["limit"] = int(match[1])
            elif match := re.fullmatch(r"press ([0-9*#])(?: to take it)?(?: within (\d{1,2}) s)?", low):
                fill["accept"] = {"key": match[1], "seconds": int(match[2] or 8)}
            elif match := re.fullmatch(r"(\d{1,3})\s*s(?: each)?", low):
                fill["to"] = [{**to, "seconds": int(match[1])} if to["kind"] != "team" else to for to in fill["to"]]
            elif low:
                fill["to"].append(self._destination(one.strip(), len(fill["to"]), at))
        only = fill["to"][0] if len(fill["to"]) == 1 else {}
        key = str(only.get("person") or only.get("team") or "")
        called = (
            self.known.people.get(key) or self.known.teams.get(key) or key.removeprefix(NEW) or only.get("name", "")
        )
        return Node(at, "ring", fill, name, usual=called)

    def stands_alone(self, text: str) -> bool:
        """Whether a text without a verb says who is rung, by a phone or by seconds (of the first who is named, or behind all), or by somebody whom a line
        above made."""
        low = text.casefold()
        made = any(low.startswith(one.name.casefold()) for one in self.read.people)
        parts = (text, *parts_listed(text)[:1])
        return made or any(_PHONE.search(_SECONDS.sub("", one)) or _SECONDS.search(one) for one in parts)

    def _destination(self, text: str, index: int, at: int) -> dict[str, Any]:
        seconds = None
        if match := _SECONDS.search(text):
            seconds, text = int(match[1]), text[: match.start()].strip()
            if not 1 <= seconds <= 120:
                raise Wrong("A phone is rung for 1 to 120 seconds.")
        place = {"id": f"d{index + 1}", "seconds": seconds}
        if text.casefold() in ("whose extension was dialed", "extension dialed"):
            return {"kind": "dialed", **place}
        if text[:1] == '"' and (whole := unquoted(text)) and not whole[1]:
            text = whole[0]
        found = self.known.begins(text, "team", "person")
        if found is not None and found.name.casefold() == text.casefold():
            if found.kind == "team":
                return {"kind": "team", "id": place["id"], "team": found.key}
            return {"kind": "person", "person": found.key, **place}
        if address := re.search(r"\bsips?:\S+$", text):
            name = re.sub(r"^phone\b\s*", "", text[: address.start()].strip(), flags=re.I)
            return {"kind": "sip", "name": name[:60], "address": address[0], **place}
        match = _PHONE.search(text)
        name = text[: match.start()].strip(" ,") if match else text
        if plain := re.match(r"phone\b\s*", name, re.I):
            number = self._phone(match[1]) if match else ""
            return {"kind": "number", "name": name[plain.end() :][:60], "number": number, **place}
        if match is None:
            made = next((one for one in self.read.people if one.name.casefold() == name.casefold()), None)
            if made is not None:
                return {"kind": "person", "person": NEW + made.name, **place}
            near = self.known.near(name, "team", "person")
            sentence = f"Nobody here is called “{name[:60]}”: write a phone behind the name.{near}"
            raise Wrong(sentence, Stranger("person", name[:60]))
        phone = self._phone(match[1])
        if not name:
            return {"kind": "number", "number": phone, "name": "", **place}
        if phone in self.known.phones and found is not None and self.known.phones[phone] == found.key:
            return {"kind": "person", "person": found.key, **place}
        if found is not None and found.kind == "person" and found.name.casefold() == name.casefold():
            raise Wrong(f"{found.name} has another phone: leave it out here, or change it under People.")
        known = next((one for one in self.read.people if one.name.casefold() == name.casefold()), None)
        if known is not None and known.phone != phone:
            raise Wrong(f"{name} stands with another phone above.")
        if known is None:
            self.read.people.append(NewPerson(name[:60], phone, at))
        return {"kind": "person", "person": NEW + name[:60], **place}

    def _phone(self, typed: str) -> str:
        digits = re.sub(r"\D", "", typed)
        if (
            len(digits) == 7
            and self.known.country == "US"
            and self.known.area_code
            and not typed.strip().startswith("+")
        ):
            typed = self.known.area_code + digits
        read = numbering.parse_dialed(typed, self.known.country)
        if isinstance(read, numbering.Wrong):
            raise Wrong(read.sentence)
        return read


def written(step: Ring, known: Known, *, headed: bool) -> str:
    """Who is rung, as `Ringing` reads it back; behind a head without the verb where it can do without."""
    parts = [_written(one, known) for one in step.to]
    parts += [_STRATEGY_WORDS[step.strategy]] if step.strategy in _STRATEGY_WORDS else []
    parts += [f"{step.rounds} rounds"] if step.rounds > 1 else []
    parts += [f"at most {step.limit} s"] if step.limit else []
    if step.accept:
        parts.append(
            f"press {step.accept.key}" + (f" within {step.accept.seconds} s" if step.accept.seconds != 8 else "")
        )
    plain = headed and step.to and re.match(r"[^\W\d_]", parts[0]) and known.stands_alone(parts[0])
    return ", ".join(parts) if plain else f"ring {', '.join(parts)}"


def _written(one: object, known: Known) -> str:
    match one:
        case DialedDestination():
            return "whose extension was dialed" + (f" {one.seconds}s" if one.seconds else "")
        case TeamDestination():
            return listed(known.teams.get(one.team, one.name))
        case PersonDestination():
            return listed(known.people.get(one.person, one.name)) + (f" {one.seconds}s" if one.seconds else "")
        case SipDestination():
            return f"phone {one.name} {one.address}".replace("  ", " ") + (f" {one.seconds}s" if one.seconds else "")
        case NumberDestination():
            return f"phone {one.name} {one.number}".strip() + (f" {one.seconds}s" if one.seconds else "")
    return str(getattr(one, "name", ""))
