"""What happens in a kept rehearsal, as people read and type it: keys, phones, and the answers of the client's system."""

import re
from collections.abc import Mapping, Sequence

from ..flows.model.kept import KeptRehearsal, PhoneDoes, PhoneScript, Pressed, SystemSays

DOES: Mapping[PhoneDoes, str] = {
    "answers": "answers", "no_key": "answers without the key", "busy": "is busy", "declines": "declines", "rings_out": "does not answer",
    "unreachable": "is unreachable", "mailbox": "voicemail answers", "on_call": "is on a call",
}  # fmt: skip
"""What a phone does, in words."""
NOTHING, OTHERS, EVERYONE = "nothing", "everyone else", "everyone"
_BY_WORDS = {words: does for does, words in DOES.items()}
_AFTER = re.compile(r"([0-9*#]{1,40})(?:\s+at\s+(.+?))?\s+after\s+(\d{1,4})\s*s(?:econds?)?", re.I)
_SYSTEM = {"finds nothing": "not_found", "fails": "failed"}


def written_presses(presses: Sequence[Pressed], steps: Mapping[str, str]) -> str:
    """“2, nothing, 21401#, 1 at Tide times after 3 s”. `steps` are names by id."""
    return ", ".join(
        f"{one.keys}{f' at {_plain(steps.get(one.at, one.at))}' if one.at else ''} after {one.after} s" if one.after is not None else one.keys or NOTHING
        for one in presses
    )  # fmt: skip


def _plain(name: str) -> str:
    """A name without what parts one answer from the next."""
    return " ".join(re.sub(r"[,;]", " ", name).split())


def read_presses(text: str, steps: Mapping[str, str]) -> tuple[Pressed, ...] | str:
    """The same read; or a sentence about what it is not."""
    found: list[Pressed] = []
    ids = {id_.casefold(): id_ for id_ in steps} | {
        _plain(name).casefold(): id_ for id_, name in reversed(list(steps.items()))
    }
    for part in (one.strip() for one in re.split(r"[,;\n]", text)):
        if not part:
            continue
        if match := _AFTER.fullmatch(part):
            if int(match[3]) > 7200:
                return "A key comes at most 7200 s after the call."
            at = ids.get(_plain(match[2]).casefold()) if match[2] else None
            if match[2] and at is None:
                return f"There is no step “{match[2][:40]}”."
            found.append(Pressed(keys=match[1], at=at, after=int(match[3])))
        elif part.casefold() == NOTHING:
            found.append(Pressed())
        elif re.fullmatch(r"[0-9*#]{1,40}", part):
            found.append(Pressed(keys=part))
        else:
            return f"“{part[:40]}” are no keys: write 2, nothing, 21401#, 1 at Tide times after 3 s."
    return tuple(found) if len(found) <= 60 else "At most 60 answers."


def written_phones(phones: Sequence[PhoneScript], names: Mapping[str, str]) -> str:
    """A line for each: “Ada: does not answer, answers”. `names` are people by key."""
    others = OTHERS if len(phones) > 1 else EVERYONE
    return "\n".join(
        f"{names.get(one.who, one.who) or others}: {', '.join(DOES[does] for does in one.does)}" for one in phones
    )


def read_phones(text: str, names: Mapping[str, str]) -> tuple[PhoneScript, ...] | str:
    """The same read; or a sentence about what it is not."""
    keys = {name.casefold(): key for key, name in names.items()}
    found: list[PhoneScript] = []
    for line in (one.strip() for one in text.splitlines()):
        if not line:
            continue
        who, colon, what = line.rpartition(":")
        does = [_BY_WORDS.get(" ".join(one.casefold().split())) for one in what.split(",") if one.strip()]
        if not colon or not does or None in does:
            return f"“{line[:60]}” is not understood: write Ada: {DOES['rings_out']}, {DOES['answers']}. A phone {', '.join(DOES.values())}."
        who = who.strip()
        who = "" if who.casefold() in (OTHERS, EVERYONE) else keys.get(who.casefold(), who)
        if any(one.who.casefold() == who.casefold() for one in found):
            return f"{line.rpartition(':')[0].strip()} stands there twice."
        if len(who) > 120 or len(does) > 20:
            return f"“{line[:60]}” is too long."
        found.append(PhoneScript(who=who, does=tuple(one for one in does if one)))
    return tuple(found) if len(found) <= 60 else "At most 60 phones."


def written_system(system: Sequence[SystemSays]) -> str:
    """A line for each look-up: “finds gold”, “finds nothing”, “fails”."""
    words = {what: said for said, what in _SYSTEM.items()}
    return "\n".join(words.get(one.what) or f"finds {one.value}" for one in system)


def read_system(text: str) -> tuple[SystemSays, ...] | str:
    """The same read; or a sentence about what it is not."""
    found: list[SystemSays] = []
    for line in (" ".join(one.split()) for one in text.splitlines()):
        if not line:
            continue
        if line.casefold() in _SYSTEM:
            found.append(SystemSays.model_validate({"what": _SYSTEM[line.casefold()]}))
        elif line.casefold().startswith("finds ") and len(line) <= 206:
            found.append(SystemSays(what="found", value=line[6:]))
        else:
            return f"“{line[:40]}” is not understood: write finds gold, finds nothing, or fails."
    return tuple(found) if len(found) <= 20 else "At most 20 answers."


def read_rings(text: str, names: Mapping[str, str]) -> tuple[str, ...] | str:
    """Names of people, or of phones, parted by commas, people as their keys."""
    keys = {name.casefold(): key for key, name in names.items()}
    found = [keys.get(one.casefold(), one) for part in text.split(",") if (one := part.strip())]
    if len(found) > 20 or any(len(one) > 120 for one in found):
        return "At most 20 names, of 120 letters each."
    return tuple(dict.fromkeys(found))


def in_words(kept: KeptRehearsal, steps: Mapping[str, str], names: Mapping[str, str]) -> list[str]:
    """What happens in a call, in a few words each."""
    found = [f"presses {written_presses(kept.presses, steps)}"] if kept.presses else []
    lines = [line.replace(":", "", 1) for line in written_phones(kept.phones, names).splitlines()]
    found += ["nobody answers" if line == f"{EVERYONE} {DOES['rings_out']}" else line for line in lines]
    found += [f"leaves a message of {kept.message:g} s{' and stays' if kept.stays else ''}"] if kept.message else []
    found += ["leaves no message"] if kept.message == 0 else []
    return [*found, *([f"hangs up after {kept.hangs_up} s"] if kept.hangs_up is not None else [])]
