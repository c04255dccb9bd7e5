"""What reads uploads, and what walks flows, gathered so that the processes they run in have it ready; see `apart`."""

from ...core.proof import stored
from ...formats import flow_file, source_lists, spend_lists, vcards
from ..hours import calendars

__all__ = ["calendars", "flow_file", "source_lists", "spend_lists", "stored", "vcards"]
