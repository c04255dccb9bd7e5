"""The small flow of a duty line: a PIN, then a key that switches the person off or on."""

from ..model.condition import Condition
from ..model.document import FlowDocument
from ..model.steps import Announcement, BackTo, Branch, HangUp, Junction, KeypadEntry, Menu, Sorting
from ..model.values import Prompt

RIGHT, WRONG, SWITCH_OFF, SWITCH_ON = "right", "wrong", "switch_off", "switch_on"
"""The steps that mean something to the application when a call comes to them."""
MARK = "DL"
NAME = "Duty line"


def refused(words: str, language: str) -> FlowDocument:
    """A line that says why and ends the call."""
    bye = HangUp(id="refused", name="Refused", prompt=Prompt(say=words), refusal=True)
    return FlowDocument(name=NAME, mark=MARK, language=language, start="refused", steps=(bye,))


def duty_flow(name: str, pin: str, *, off: bool, language: str) -> FlowDocument:
    """What somebody meets who calls from their own phone. Three entries, then the line ends."""
    now = "switched off" if off else "on duty"
    turn, done = ("on", SWITCH_ON) if off else ("off", SWITCH_OFF)
    steps = (
        KeypadEntry(
            id="pin", name="PIN", prompt=Prompt(say=f"Hello {name}. Please key in your PIN."), shortest=1, longest=len(pin),
            wait=10, tries=2, inter_digit=5, store_as="pin", typed="check", nothing="no", wrong=WRONG,
        ),
        Junction(
            id="check", name="Is it right",
            branches=(Sorting(id="fits", when=Condition(test="value", of="pin", any_of=(pin,)), to=RIGHT),), otherwise=WRONG,
        ),
        Announcement(id=WRONG, name="Wrong", prompt=Prompt(say="That is not your PIN."), next="again"),
        BackTo(id="again", to="pin"),
        Menu(
            id=RIGHT, name="On or off", prompt=Prompt(say=f"You are {now}. To switch {turn}, press 1. To leave it so, hang up."),
            branches=(Branch(id="turn", keys="1", name=f"Switch {turn}", to=done),), nothing="left", wrong="left",
        ),
        HangUp(id=done, name=f"Switched {turn}", prompt=Prompt(say=f"You are {'on duty' if off else 'switched off'} now. Goodbye.")),
        HangUp(id="left", name="As before", prompt=Prompt(say=f"You are {now}, as before. Goodbye.")),
        HangUp(id="no", name="No", prompt=Prompt(say="Please ask for your PIN, and call again. Goodbye."), refusal=True),
    )  # fmt: skip
    return FlowDocument(
        name=NAME, mark=MARK, language=language, start="pin", rescue="no", entry_limit=3, steps=steps
    )  # fmt: skip
