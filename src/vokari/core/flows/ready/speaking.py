"""The small flow of somebody who speaks a prompt by telephone: told what to say, recorded, played back, kept or taken again."""

from ..model.document import FlowDocument
from ..model.steps import Branch, HangUp, Menu, Voicemail
from ..model.values import Prompt

TAKE, REVIEW, KEPT = "take", "review", "kept"
"""The steps that mean something to the application when a call comes to them."""
LONGEST = 600


def speaking_flow(agency: str, name: str, words: str, language: str) -> FlowDocument:
    """What somebody meets who is rung to speak a prompt; three takes, then the call ends with what was kept last. `words` are what they
    are to say, empty where they know it."""
    what = f"Please say: {words}" if words else f"Please say the prompt {name}."
    asked = f"This is {agency}. You are about to be recorded for callers. {what} Begin after the tone, and press pound when you are done."
    again = "That was: {recording} To keep it, press 1. To hear it again, press 2. To say it again, press 3."
    steps = (
        Voicemail(
            id=TAKE, name="Take", greeting=Prompt(say=asked), longest=LONGEST, stop_key="#", stop_silence=None,
            message_left=REVIEW, no_message=REVIEW,
        ),
        Menu(
            id=REVIEW, name="As it was said", prompt=Prompt(say=again), tries=3, nothing=KEPT, wrong=KEPT,
            branches=(
                Branch(id="keep", keys="1", name="Keep it", to=KEPT), Branch(id="hear", keys="2", name="Hear it again", hear_again=True),
                Branch(id="again", keys="3", name="Say it again", to=TAKE),
            ),
        ),
        HangUp(id=KEPT, name="Kept", prompt=Prompt(say="Thank you. It is kept. Goodbye.")),
    )  # fmt: skip
    return FlowDocument(
        name="Spoken by telephone", mark="SP", language=language, start=TAKE, rescue=KEPT, entry_limit=6, steps=steps
    )
