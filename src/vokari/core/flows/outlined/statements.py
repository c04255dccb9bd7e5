"""What one statement says: `say "…"`, `ring Ada 20 s`, `voicemail Yard`, or only the name of who is rung."""

import re
from collections.abc import Callable
from typing import Any

from ..model.step import first_words
from ..model.steps.come_back import come_back_way
from ..model.steps.keypad_entry import read_entry, spoken_name
from ..model.steps.label import read_labels
from .known import Known, offered
from .nodes import AGAIN, END_, NEW, OPEN, Goto, Led, NewMailbox, Node, Read, Stranger, Wrong
from .quoting import settings_of, unquoted, without_name
from .ringing import Ringing

_VERBS = ("say", "says", "ask", "asks", "menu", "ring", "rings", "call", "hold", "holds", "voicemail", "message", "label", "tell", "tells",
          "look", "notify", "back", "bye", "hang", "type", "types", "sort", "sorts", "continue", "come")  # fmt: skip


_TELLS = re.compile(
    r"\b(?:voicemail|message)\s+([^,\"“„«]+?)\s*,?\s*(?:[\"“„«].*?[\"”»],?\s*)?\b(?:tell|told to|tells)\s+\S+@", re.I
)


def is_statement(text: str, known: Known) -> bool:
    """Whether a text begins as a statement does: a verb, quotes, a way to go, or somebody known."""
    first = re.split(r"[\s,:]", text.strip().casefold(), maxsplit=1)[0]
    if (
        first in _VERBS
        or text.lstrip()[:1] in '"“„«'
        or re.match(r"(?:to|back|again|end|hear again|nowhere)\b", text.strip(), re.I)
    ):
        return True
    return known.stands_alone(text.strip()) is not None


def parts_of(text: str) -> list[tuple[str, str]]:
    """The statements of a line: the first, and those behind "then" and "else", each with that word ("" for the first). Words in
    quotes are not taken apart; nor are words behind a bare `say` or `ask`."""
    if re.match(r"(?:say|says|ask|asks|bye)\s+[^\"“„«\s]", text, re.I):
        return [("", text)]
    found, word, start, at = [], "", 0, 0
    while at < len(text):
        if text[at] in '"“„«':
            quoted = unquoted(text[at:])
            at = len(text) - len(quoted[1]) if quoted else at + 1
            continue
        match = re.compile(r"\s*[,;]?\s*\b(then|else|otherwise)\b\s*[:,]?\s*", re.I).match(text, at)
        if match and (at == 0 or not text[at - 1].isalnum()) and match.end() > at:
            found.append((word, text[start:at].strip(" ,;")))
            word, start, at = "else" if match[1].lower() != "then" else "then", match.end(), match.end()
            continue
        at += 1
    found.append((word, text[start:].strip(" ,;")))
    return [(one, words) for one, words in found if words or not one]


class Statements:
    """Reads statements for one text; what is made on the spot is noted in `read`."""

    def __init__(self, known: Known, read: Read) -> None:
        self.known, self.read = known, read
        self.ringing = Ringing(known, read)
        self.told: set[str] = set()

    def tells(self, words: str) -> None:
        """Notes the mailboxes for which a line, read later, says who is told."""
        self.told |= {match[1].casefold() for match in _TELLS.finditer(words)}

    def statement(self, text: str, at: int, *, leaf: bool = False) -> Led:
        """What a statement says. Raises Wrong."""
        text = text.strip()
        low = text.casefold().rstrip(".")
        if low in ("end", "the call ends", "ends"):
            return END_
        if low in ("again", "hear again", "repeat"):
            return AGAIN
        if low in ("nowhere", "nowhere yet", ""):
            return OPEN
        if match := re.match(r"to\s+(.+)$", text, re.I):
            return self.goto(match[1], at)
        name = None
        quoted = unquoted(text)
        if quoted is not None:
            rest, name = without_name(quoted[1])
            return self._say(at, quoted[0], rest, name, leaf=leaf)
        if self.known.stands_alone(text):
            return self._bare(text, at)
        verb, _, rest = text.partition(" ")
        reader = self._readers().get(verb.casefold().rstrip(":,"))
        if reader is not None:
            return reader(f"{',' if verb.endswith(',') else ''}{rest.strip()}", at)
        return self._bare(text, at)

    def _readers(self) -> dict[str, Callable[[str, int], Led]]:
        words = {
            ("say", "says"): self._says, ("ask", "asks", "menu"): self._asks, ("ring", "rings", "call"): self.ringing.rings,
            ("hold", "holds"): self._holds, ("voicemail", "message"): self._voicemail, ("label",): self._label, ("back",): self._back,
            ("bye",): self._bye, ("hang",): lambda rest, at: self._bye(re.sub(r"^up\b\s*", "", rest), at),
            ("notify",): lambda rest, at: Node(at, "notify", {}, without_name(rest)[1]),
            ("look",): lambda rest, at: Node(at, "look_up", {}, without_name(re.sub(r"^up\b\s*", "", rest))[1]),
            ("type", "types"): self._types, ("continue",): self._continues, ("come",): self._comes,
            ("sort", "sorts"): lambda rest, at: Node(at, "junction", {}, without_name(rest)[1]),
        }  # fmt: skip
        return {verb: reader for verbs, reader in words.items() for verb in verbs}

    def goto(self, text: str, at: int) -> Goto:
        """A step by its name; a number behind # tells those of one name apart."""
        quoted = unquoted(text)
        name, rest = quoted if quoted is not None and text[:1] == '"' else (text, "")
        match = re.match(r"^(.*?)(?:\s*#(\d{1,4}))?$", (rest or name).strip().rstrip("."))
        assert match is not None
        return Goto(name.strip() if rest else match[1].strip(), at, int(match[2] or 0))

    # each kind

    def _says(self, rest: str, at: int) -> Node:
        quoted = unquoted(rest)
        if quoted is None:
            return self._say(at, rest, "", None)
        settings, name = without_name(quoted[1])
        return self._say(at, quoted[0], settings, name)

    def _say(self, at: int, words: str, settings: str, name: str | None, *, leaf: bool = False) -> Node:
        fill: dict[str, Any] = {"prompt": {"say": words}, "times": 1, "notice": False, "counts_as": "nothing"}
        for one in settings_of(settings):
            if match := re.fullmatch(r"(\d{1,2}) times", one):
                fill["times"] = int(match[1])
            elif one in ("notice", "a notice"):
                fill["notice"] = True
            elif one in ("served", "turned away"):
                fill["counts_as"] = one.replace(" ", "_")
            else:
                raise Wrong(f"“{one}” is no setting of an announcement: notice, 2 times, served, turned away.")
        return Node(at, "announcement", fill, name, leaf=leaf)

    def _asks(self, rest: str, at: int) -> Node:
        quoted = unquoted(rest)
        words, settings = quoted or (("", rest) if rest.startswith(",") else (rest, ""))
        settings, name = without_name(settings)
        fill: dict[str, Any] = {"prompt": {"say": words}, "tries": 2, "wait": None}
        for one in settings_of(settings):
            if match := re.fullmatch(r"(\d) (?:tries|try)", one):
                fill["tries"] = int(match[1])
            elif match := re.fullmatch(r"wait (\d{1,2})(?: s)?", one):
                fill["wait"] = int(match[1])
            elif one in ("extensions", "or an extension"):
                fill["dial_extensions"] = True
            else:
                raise Wrong(f"“{one}” is no setting of a menu: 3 tries, wait 6 s, extensions.")
        return Node(at, "menu", fill, name)

    def _types(self, rest: str, at: int) -> Node:
        """`type 5 digits for postal code "…", 3 tries, wait 8 s`."""
        start = re.search(r'["“„«]', rest)
        quoted = unquoted(rest[start.start() :]) if start else None
        head, words, settings = (rest[: start.start()], *quoted) if start and quoted else (rest, "", "")
        if quoted is None:
            head, _, settings = rest.partition(",")
        settings, name = without_name(settings)
        entry = read_entry(head.strip(" ,"))
        if isinstance(entry, str):
            raise Wrong(entry)
        fields, left = entry
        if left:
            raise Wrong(
                f"“{left[:40]}” is not understood: type 5 digits for postal code, then what the caller hears in quotes."
            )
        fill: dict[str, Any] = {"prompt": {"say": words}, "tries": 2, "wait": 5, "inter_digit": 3, **fields}
        for one in settings_of(settings):
            if match := re.fullmatch(r"(\d) (?:tries|try)", one):
                fill["tries"] = int(match[1])
            elif match := re.fullmatch(r"(wait|pause) (\d{1,2})(?: s)?", one):
                fill["wait" if match[1] == "wait" else "inter_digit"] = int(match[2])
            else:
                raise Wrong(f"“{one}” is no setting of a keypad entry: 3 tries, wait 8 s, pause 4 s.")
        return Node(
            at,
            "keypad_entry",
            fill,
            name,
            usual=first_words(words) or spoken_name(str(fields.get("store_as", "entry"))),
        )

    def _continues(self, rest: str, at: int) -> Node:
        called, name = without_name(re.sub(r"^in\b\s*", "", rest, flags=re.I))
        quoted = unquoted(called)
        called = quoted[0] if quoted else called
        key = self.known.flow(called)
        if called and not key:
            near = offered(called, [one.name for one in self.known.flows.values()])
            raise Wrong(f"There is no other flow “{called}” of this client.{near}")
        return Node(at, "continue_in", {"flow": key}, name)

    def _comes(self, rest: str, at: int) -> Node:
        rest, name = without_name(rest)
        quoted = unquoted(re.sub(r"^(?:back\b)?\s*(?:with|by)?\s*", "", rest, flags=re.I))
        way = quoted[0] if quoted else come_back_way(rest)
        return Node(at, "come_back", {"way": way[:60]}, name)

    def _voicemail(self, rest: str, at: int) -> Node:
        rest, name = without_name(rest)
        fill: dict[str, Any] = {"mailbox": None}
        told: tuple[str, ...] = ()
        if match := re.search(
            r"(?:,\s*)?\b(?:tell|told to|tells)\s+(\S+@\S+(?:\s*(?:,|and)\s*\S+@\S+)*)\s*$", rest, re.I
        ):
            told = tuple(one for one in re.split(r"\s*(?:,|\band\b)\s*|\s+", match[1]) if "@" in one)
            rest = rest[: match.start()].strip(" ,")
        if match := re.search(r'["“„«]', rest):
            quoted = unquoted(rest[match.start() :])
            fill["greeting"] = {"say": quoted[0] if quoted else ""}
            rest = rest[: match.start()].strip(" ,")
        called = rest.strip(" ,")
        if not called:
            del fill["mailbox"]
            return Node(at, "voicemail", fill, name)
        found = self.known.begins(called, "mailbox")
        if found is not None and found.name.casefold() == called.casefold():
            fill["mailbox"] = found.key
        else:
            if not told and called.casefold() not in self.told:
                near = (
                    self.known.near(called, "mailbox")
                    or f" Write who is told: voicemail {called}, tell desk@example.com."
                )
                raise Wrong(f"There is no mailbox “{called}”.{near}", Stranger("mailbox", called))
            fill["mailbox"] = NEW + called
            self._make(NewMailbox(called, told, at))
        return Node(at, "voicemail", fill, name, usual=called)

    def _make(self, new: NewMailbox) -> None:
        known = next((one for one in self.read.mailboxes if one.name.casefold() == new.name.casefold()), None)
        if known is None:
            self.read.mailboxes.append(new)
        elif new.tell and not known.tell:
            self.read.mailboxes[self.read.mailboxes.index(known)] = new

    def _label(self, rest: str, at: int) -> Node:
        rest, name = without_name(rest)
        labels, status = read_labels(rest)
        if not labels and not status:
            raise Wrong("Say which label is put on the call: label boat lifts, lead status qualified.")
        return Node(at, "label", {"labels": labels, "lead_status": status}, name)

    def _back(self, rest: str, at: int) -> Node:
        rest, name = without_name(rest)
        match = re.match(r"to\s+(.+)$", rest, re.I)
        node = Node(at, "back_to", {}, name)
        if rest.casefold().startswith("to nowhere"):
            node.ways["to"] = OPEN
        elif match and match[1].strip(" .").casefold() in ("the start", "start", "the beginning"):
            node.ways["to"] = Goto("", at)
        elif match:
            node.ways["to"] = self.goto(match[1], at)
        else:
            node.ways["to"] = Goto("", at, -1)
        return node

    def _bye(self, rest: str, at: int) -> Node:
        quoted = unquoted(rest)
        words, settings = quoted if quoted else (rest, "")
        settings, name = without_name(settings)
        return Node(at, "hang_up", {"prompt": {"say": words}, "refusal": "refusal" in settings.casefold()}, name)

    def _holds(self, rest: str, at: int) -> Node:
        rest, name = without_name(re.sub(r"^(?:for|line for|line)\s+", "", rest, flags=re.I))
        found = self.known.begins(rest, "team")
        if found is None:
            name = rest.split(",")[0].strip()
            near = self.known.near(name, "team")
            raise Wrong(
                f"A hold line is for a team: hold Service desk.{near}", Stranger("team", name) if name else None
            )
        fill: dict[str, Any] = {"team": found.key, "longest_wait": 300, "leave_key": None}
        for one in settings_of(rest[len(found.name) :]):
            if match := re.fullmatch(r"at most (\d{1,3}) min", one):
                fill["longest_wait"] = 60 * int(match[1])
            elif match := re.fullmatch(r"at most (\d{1,4}) s", one):
                fill["longest_wait"] = int(match[1])
            elif match := re.fullmatch(r"([0-9*#]) leaves", one):
                fill["leave_key"] = match[1]
            else:
                raise Wrong(f"“{one}” is no setting of a hold line: at most 4 min, 2 leaves.")
        return Node(at, "hold_line", fill, name)

    def _bare(self, text: str, at: int) -> Led:
        """Only a name: whoever or whatever is called so."""
        plain, name = without_name(text)
        found = self.known.begins(plain, "team", "person", "mailbox")
        if found is not None and found.kind == "mailbox" and found.name.casefold() == plain.strip(" ,").casefold():
            return self._voicemail(found.name, at)
        if (found is not None and found.kind != "mailbox") or self.ringing.stands_alone(plain):
            return self.ringing.ring(plain, at, name)
        new = next((one for one in self.read.mailboxes if one.name.casefold() == plain.strip(" ,").casefold()), None)
        if new is not None:
            return self._voicemail(new.name, at)
        return self.goto(plain, at)


def usual_name(kind: str, fill: dict[str, Any], branch: str = "", called: str = "") -> str:
    """The name that a step has where the text gives it none: of the key that leads to it, of whom it rings or where it keeps words, else
    the first of its words."""
    if kind == "back_to":
        return "Back"
    if branch or called:
        return branch or called
    match kind:
        case "announcement" | "menu" | "hang_up" | "keypad_entry":
            return first_words(fill["prompt"]["say"])
        case "label":
            return first_words(", ".join(fill["labels"]))
    return ""
