"""What reads uploads, gathered so that the processes it runs in have it ready; see `apart`."""

from ..core.flows import flowfile
from ..formats import source_lists, vcards
from . import calendars

__all__ = ["calendars", "flowfile", "source_lists", "vcards"]
