"""Sounds for the telephone: prompts, keypad tones, ringing and the tone before a recording."""

from functools import lru_cache

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...formats import tones
from ...work.agency.access import NotFound
from ...work.prompts import speech
from ..doors import Signed, house_of

router = APIRouter()
KEPT = {"Cache-Control": "private, max-age=604800"}
_NAMES = {"star": "*", "hash": "#"}


@router.get("/speech/{name}.wav")
def prompt(request: Request, _: Signed, name: str) -> Response:
    """The sound of a prompt by its name."""
    wav = speech.wav(house_of(request), name)
    if wav is None:
        raise NotFound
    return Response(wav, media_type="audio/wav", headers=KEPT)


@router.get("/tones/{name}.wav")
def tone(_: Signed, name: str) -> Response:
    """The sound of a key, of ringing, or of the tone before a recording."""
    made = _made(name)
    if made is None:
        raise NotFound
    return Response(made, media_type="audio/wav", headers=KEPT)


@lru_cache(maxsize=32)
def _made(name: str) -> bytes | None:
    if name in ("ringing-US", "ringing-GB"):
        return tones.ringing_tone(name[-2:])
    if name == "beep":
        return tones.beep()
    key = _NAMES.get(name, name)
    return tones.key_tone(key) if key in tones.FREQUENCIES else None
