"""Rehearsals that are kept with the demo's flows."""

from typing import Any

TUESDAY, SATURDAY = ({"kind": "weekday", "day": day, "at": "10:00"} for day in (1, 5))
CHRISTMAS = {"kind": "holiday", "name": "Christmas Day", "at": "10:00"}


def kept(
    id_: str, name: str, when: dict[str, Any], keys: str = "", *, does: str = "rings_out", **more: Any
) -> dict[str, Any]:
    """A call of one who presses these keys, one at each menu, and whose call every phone treats alike; `more` are its other fields."""
    presses = [{"keys": key} for key in keys]
    return {
        "id": id_, "name": name, "when": when, "caller": "+14105550185", "presses": presses, "phones": [{"does": [does]}], **more,
    }  # fmt: skip


def yard(dana: str) -> list[dict[str, Any]]:
    """What the boatyard has asked for, so that no change takes it away unseen; `dana` is the key of a person."""
    rung = {"rings": [dana], "within": 60}
    return [
        kept("r1", "Boat lifts, Dana picks up", TUESDAY, "1", does="answers", expects={"fate": "answered", "ends_at": "lifts", **rung}),
        kept("r2", "Boat lifts, nobody answers", TUESDAY, "1", message=12, expects={"fate": "message_left", "ends_at": "yardvm", **rung}),
        kept("r3", "Chandlery on a Saturday", SATURDAY, "2", does="answers", expects={"fate": "answered", "ends_at": "chandlery"}),
        kept("r4", "Boat lifts on Christmas Day", CHRISTMAS, "1", message=12, expects={"fate": "message_left", "says": "The yard is closed"}),
        kept("r5", "Was lost an hour ago", TUESDAY, does="answers", facts=[("past", "lost 1 hour ago")], expects={"fate": "answered", **rung}),
        kept("r6", "Only wants the tide", TUESDAY, "3", hangs_up=60, expects={"fate": "served", "says": "High water"}),
    ]  # fmt: skip


def storage() -> list[dict[str, Any]]:
    """What the unfinished line must come to before it goes live."""
    return [
        kept("r1", "Indoor, Dana picks up", TUESDAY, "1", does="answers", expects={"fate": "answered"}),
        kept("r2", "Indoor, nobody answers", TUESDAY, "1", message=12, expects={"fate": "message_left", "ends_at": "storevm"}),
    ]  # fmt: skip
