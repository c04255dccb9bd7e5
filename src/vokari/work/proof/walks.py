"""The last walks of drafts, which the process that had them made keeps for a while: after an edit only what it bears on is walked again.

They say of what they are themselves, and nothing of them is taken over that looks otherwise now. So it does no harm if one is lost, or is of
an edit that was undone.
"""

from collections import OrderedDict
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from threading import Lock

MOST_BYTES = 64_000_000
"""How much a process keeps at most; the flows that were not proven for longest are let go first."""


@dataclass
class Walks:
    """The last walk of each flow, by its id, with since when it was walked, of at most so many bytes in all."""

    most: int = MOST_BYTES
    _kept: OrderedDict[int, tuple[datetime, bytes]] = field(default_factory=OrderedDict)
    _lock: Lock = field(default_factory=Lock)

    def of(self, flow_id: int, now: datetime, fresh: timedelta) -> bytes | None:
        """The walk of a flow, if it is of a time that began no longer ago than `fresh`."""
        with self._lock:
            since, walk = self._kept.get(flow_id, (now, None))
        return walk if timedelta() <= now - since < fresh else None

    def keep(self, flow_id: int, since: datetime, walk: bytes | None) -> None:
        """Keeps the walk of a flow in the place of an earlier one; None, or one that is too large: lets that go."""
        with self._lock:
            self._kept.pop(flow_id, None)
            if walk is not None and len(walk) <= self.most:
                self._kept[flow_id] = since, walk
            while sum(len(one) for _, one in self._kept.values()) > self.most:
                self._kept.popitem(last=False)
