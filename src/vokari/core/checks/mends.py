"""What mends a finding at one press: a change of the step that the finding is at, or of the exits that lead to it. Behind a colon stand the keys it
is about."""

from ..flows.drafting.edits import Connect, Edit, RemoveStep, SetStep
from ..flows.model.document import FlowDocument
from ..flows.model.steps import Announcement, AnyStep, Branch, ComingBack, ContinueIn, HangUp, HoldLine, Menu, Ring
from ..flows.model.steps.come_back import way_named
from ..flows.model.values import END, Accept
from ..flows.model.walks import reached_from
from ..flows.wording.heard import Heard
from ..flows.wording.written import Choice, sentence, words_of
from .copies import joining
from .menus import offered, said_of

_WORDS = {
    "ask_for_key": "Ask for a key", "detect": "Let the carrier detect it", "branches": "Make these branches", "say_keys": "Write the words anew",
    "say": "Say {0}", "unsay": "Take {0} out of the words", "listen": "Listen for {0}", "elsewhere": "It is advertised elsewhere",
    "listen_as": "Listen for {1} instead of {0}", "say_as": "Say {1} instead of {0}", "swap": "Swap {0} and {1}", "again": "Let {0} hear it again",
    "name_way": "Add the exit “{0}”", "everyone": "Send to everyone else", "unsay_stay": "Take that out of the words", "unsay_extension": "Take that out of the words",
    "as_notice": "Mark as a notice", "rescue": "Lead on to the rescue", "rescue_instead": "Lead its callers to the rescue",
    "join": "Make them one",
}  # fmt: skip


def mend_words(mend: str) -> str:
    """A mend as its button reads."""
    name, *keys = mend.split(":")
    return _WORDS[name].format(*([":".join(keys)] if name == "name_way" else keys))


def mending(document: FlowDocument, step: AnyStep, mend: str) -> tuple[Edit, ...]:
    """The edits that carry a mend out; none where it does not fit the step."""
    if mend == "rescue_instead":
        return _led_past(document, step)
    if mend == "join":
        return joining(document, step)
    changed = mended(document, step, mend)
    return (SetStep(step=changed),) if changed else ()


def mended(document: FlowDocument, step: AnyStep, mend: str) -> AnyStep | None:
    """The step with a finding mended; None where the mend does not fit it."""
    name, *keys = mend.split(":")
    if name == "everyone" and document.everyone_else and len(keys) == 1 and (way := step.exit(keys[0])) and way.is_open:
        return step.with_target(way.id, document.everyone_else)
    if name == "rescue":
        return _led_on(document, step)
    if isinstance(step, ContinueIn) and name == "name_way" and keys:
        return _naming(step, ":".join(keys))
    if isinstance(step, Ring | HoldLine):
        if name == "ask_for_key":
            return step.model_copy(update={"accept": Accept()})
        return step.model_copy(update={"machine_detection": True}) if name == "detect" else None
    if isinstance(step, Announcement) and name == "as_notice":
        return step.model_copy(update={"notice": True})
    if isinstance(step, Announcement) and name == "unsay" and len(keys) == 1:
        return _with_words(
            step, _without(step.prompt.say, [one for one in said_of(document, step) if one.keys == keys[0]])
        )
    return _menu_mended(document, step, name, keys) if isinstance(step, Menu) else None


_CHOSEN = ("after", "message_left", "no_message")
"""Exits after which a caller was helped, or had the choice: a call may end there."""


def _led_on(document: FlowDocument, step: AnyStep) -> AnyStep | None:
    """The step with the exits at which a call ends led on to the flow's rescue."""
    ends = [one.id for one in step.exits if one.target == END and one.id not in _CHOSEN]
    if not ends or document.rescue is None or step.id in _rescued(document):
        return None
    led = step
    for one in ends:
        led = led.with_target(one, document.rescue)
    return led


def _led_past(document: FlowDocument, step: AnyStep) -> tuple[Edit, ...]:
    """Edits that lead to the flow's rescue what leads to a Hang up; it goes where nothing leads to it any more."""
    ways = [(one.id, way.id) for one in document.steps for way in one.exits if way.target == step.id]
    led = [(one, way) for one, way in ways if way not in _CHOSEN]
    if not isinstance(step, HangUp) or document.rescue is None or step.id in (document.start, document.rescue):
        return ()
    if not led or not _rescued(document).isdisjoint(one for one, _ in led):
        return ()
    edits: list[Edit] = [Connect(step=one, exit=way, to=document.rescue) for one, way in led]
    if ways == led and document.everyone_else != step.id:
        edits.append(RemoveStep(id=step.id))
    return tuple(edits)


def _rescued(document: FlowDocument) -> set[str]:
    """The rescue and what it leads on to: nothing of it may lead back to the rescue, which ends ways round."""
    return reached_from(document.by_id, [document.rescue]) if document.rescue else set()


def _naming(step: ContinueIn, way: str) -> ContinueIn | None:
    """The step with an exit for a way back that it does not name yet."""
    if step.back(way_named(way)) is not None:
        return None
    ids = {one.id for one in step.returns}
    new = next(f"w{n}" for n in range(1, len(ids) + 2) if f"w{n}" not in ids)
    return step.model_copy(update={"returns": (*step.returns, ComingBack(id=new, name=way[:60]))})


def _menu_mended(document: FlowDocument, menu: Menu, name: str, keys: list[str]) -> AnyStep | None:
    say, language = menu.prompt.say, menu.prompt.language or document.language
    ways = {one.keys: one for one in menu.branches}
    said = said_of(document, menu)
    match name, keys:
        case "branches", []:
            return _with_branches(menu, offered(document, menu))
        case "say_keys", []:
            return _with_words(menu, words_of(menu, document))
        case "say", [key] if key in ways:
            way = ways[key]
            back = getattr(document.step(way.to or ""), "kind", "") == "back_to"
            words = sentence(Choice(way.keys, way.name, back, way.hear_again), language)
            return _with_words(menu, f"{say.strip()} {words}".strip())
        case "unsay", [key]:
            return _with_words(menu, _without(say, [one for one in said if one.keys == key]))
        case "unsay_stay" | "unsay_extension", []:
            return _with_words(menu, _without(say, [one for one in said if one.kind == name.removeprefix("unsay_")]))
        case "listen", [key] if key not in ways:
            return _with_branches(menu, [one for one in offered(document, menu) if one.keys == key])
        case "elsewhere", [key] if key in ways:
            return _with_way(menu, key, {"elsewhere": True})
        case "again", [key] if key in ways:
            return _with_way(menu, key, {"hear_again": True, "to": None})
        case "listen_as", [old, new] if old in ways and new not in ways:
            return _with_way(menu, old, {"keys": new})
        case "say_as", [old, new]:
            return _with_words(menu, _said_as(say, said, old, new, language))
        case "swap", [one, other] if one in ways and other in ways:
            keyed = {one: other, other: one}
            branches = tuple(way.model_copy(update={"keys": keyed.get(way.keys, way.keys)}) for way in menu.branches)
            return menu.model_copy(update={"branches": branches})
    return None


def _with_words(step: Menu | Announcement, words: str) -> AnyStep:
    return step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": words, "prompt": None})})


def _with_way(menu: Menu, key: str, update: dict[str, object]) -> Menu:
    return menu.model_copy(
        update={"branches": tuple(one.model_copy(update=update) if one.keys == key else one for one in menu.branches)}
    )


def _with_branches(menu: Menu, choices: list[Heard]) -> Menu:
    taken = {one.id for one in menu.branches}
    ids = (f"b{n}" for n in range(1, 10_000) if f"b{n}" not in taken)
    new = tuple(
        Branch(id=next(ids), keys=one.keys, name=one.name[:60], hear_again=one.kind == "again") for one in choices
    )
    return menu.model_copy(update={"branches": (*menu.branches, *new)})


def _without(words: str, parts: list[Heard]) -> str:
    """Words without some of their parts."""
    for one in sorted(parts, key=lambda part: -part.start):
        words = f"{words[: one.start].rstrip()} {words[one.end :].lstrip()}".strip()
    return words


def _said_as(words: str, said: list[Heard], old: str, new: str, language: str) -> str:
    """Words in which one key is said in place of another: the sentence of that choice is written anew."""
    for one in said:
        if one.keys == old:
            anew = sentence(Choice(new, one.name, one.kind == "back", one.kind == "again"), language)
            return f"{words[: one.start].rstrip()} {anew} {words[one.end :].lstrip()}".strip()
    return words
