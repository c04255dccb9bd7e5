"""How many random flows and calls the checks against the outside take: a few by default, more in `script/bench --outside`."""

import os

FLOWS = int(os.environ.get("VOKARI_CHECKED_FLOWS", "100"))
CALLS = int(os.environ.get("VOKARI_CHECKED_CALLS", "200"))
SAME_CALLS = int(os.environ.get("VOKARI_SAME_CALLS", "40"))
"""Calls that are made live, in rehearsal and in the simulator."""
