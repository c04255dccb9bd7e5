"""Raising what was stored in an older format to what is read today. Nothing that a caller meets changes by it.

Parts are raised wherever they stand, also in the log of a draft's edits; a document says by its version that it was raised.
"""

from typing import Any

_PURPOSE = {"off": "none", "on": "all", "on_demand": "learn", "sample": "learn"}


def recording(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had a `mode`: off, on, when the person asks (now: one a week to learn from, and a key that keeps), or a
    part of a hundred (now: that many a week). Nobody knew of keys."""
    if "mode" not in raw:
        return {name: value for name, value in raw.items() if name not in ("one_in", "in_hundred")}
    mode = raw["mode"]
    per_week = {"on_demand": 1, "sample": raw.get("in_hundred", 10)}.get(mode, 5)
    keep = "*" if mode == "on_demand" else None
    return {"purpose": _PURPOSE.get(mode, mode), "per_week": per_week, "keep_key": keep, "pause_key": None}


def hears(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had a list of three, `what`; its words were the whisper's, or those that ask the caller for a name."""
    if "what" not in raw:
        return raw
    words = str(raw.get("words", ""))
    if raw["what"] == "caller_name":
        return {"words": "{said name}", "asks": words}
    return {"words": words if raw["what"] == "whisper" else ""}


def team(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 1 had ring seconds of a team, which nothing ever read: each member has their own."""
    return {name: value for name, value in raw.items() if name != "seconds"}


def flow(raw: dict[str, Any]) -> dict[str, Any]:
    """A whole flow of version 1 as one of version 2: its parts are raised as they are read."""
    return {**raw, "version": 2}


BY_VERSION = {1: flow}
"""For each older version of a flow, the function that raises it by one."""
