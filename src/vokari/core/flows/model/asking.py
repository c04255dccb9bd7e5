"""What the kinds have in common that ask for keys: Menu and Keypad entry."""

from collections.abc import Iterator

from .exits import Played
from .values import Prompt


def asked(prompt: Prompt, retry_silent: Prompt | None, retry_wrong: Prompt | None) -> Iterator[Played]:
    """The prompt, and the retry prompts where there are any of their own."""
    yield Played("prompt", prompt)
    for field, retry in (("retry_silent", retry_silent), ("retry_wrong", retry_wrong)):
        if retry is not None:
            yield Played(field, retry, "the retry prompt")


def tries_words(tries: int) -> str:
    """How often a caller may try."""
    return "1 try" if tries == 1 else f"{tries} tries"
