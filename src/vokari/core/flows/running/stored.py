"""States and events as JSON, in the shapes in which calls in progress and the log of a call keep them."""

from dataclasses import asdict
from typing import Any

from ..questions.kinds import Rung
from .events import NAMES, Event
from .state import Holding, Ringing, RungLeg, State

_KINDS = {kind: name for name, kind in NAMES.items()}
_NEW = State()._asdict()


def dump_event(event: Event) -> dict[str, Any]:
    """The event as JSON-ready fields, with its name under `kind`."""
    return {"kind": _KINDS[type(event)], **asdict(event)}


def load_event(raw: dict[str, Any]) -> Event:
    """The event that `dump_event` wrote. Raises KeyError or TypeError for anything else."""
    event: Event = NAMES[raw["kind"]](**{name: value for name, value in raw.items() if name != "kind"})
    return event


def dump_state(state: State) -> dict[str, Any]:
    """The fields that differ from a new call's, JSON-ready."""
    raw = {name: value for name, value in state._asdict().items() if value != _NEW[name]}
    if state.ring is not None:
        raw["ring"] = {
            **state.ring._asdict(),
            "legs": [_leg(leg) for leg in state.ring.legs],
            "waves": _waves(state.ring),
        }
    if state.hold is not None:
        raw["hold"] = state.hold._asdict()
    return raw


def _leg(leg: RungLeg) -> dict[str, Any]:
    return {**leg._asdict(), "rung": asdict(leg.rung) if leg.rung else None}


def _waves(ring: Ringing) -> list[list[dict[str, Any]]]:
    return [[asdict(rung) for rung in wave] for wave in ring.waves]


def load_state(raw: dict[str, Any]) -> State:
    """The state that `dump_state` wrote, also after a way through JSON, which turns tuples into lists; states of before are
    filled up."""
    known = dict(raw)
    for name in ("entries", "values"):
        if name in known:
            known[name] = tuple((key, value) for key, value in known[name])
    for name in ("labels", "stack"):
        if name in known:
            known[name] = tuple(known[name])
    if "hold" in known:
        known["hold"] = Holding(**known["hold"])
    if "ring" in known:
        known["ring"] = _ring(known["ring"])
    return State(**known)


def _ring(raw: dict[str, Any]) -> Ringing:
    legs = (RungLeg(**{**leg, "rung": Rung(**leg["rung"]) if leg.get("rung") else None}) for leg in raw["legs"])
    known = {name: raw[name] for name in Ringing._fields if name in raw}
    return Ringing(
        **{
            **known, "legs": tuple(legs), "queue": tuple(raw["queue"]), "outcomes": tuple(raw["outcomes"]),
            "waves": tuple(tuple(Rung(**one) for one in wave) for wave in raw.get("waves", ())),
            "rung": raw.get("rung", True),
        }
    )  # fmt: skip
