"""What reads uploads, gathered so that the processes it runs in have it ready; see `apart`."""

from ...formats import flow_file, source_lists, spend_lists, vcards
from ..hours import calendars

__all__ = ["calendars", "flow_file", "source_lists", "spend_lists", "vcards"]
