"""What a process keeps for good."""

import gc


def settle() -> None:
    """Takes what a part has made ready for good (modules, applications, tables of numbers and holidays) out of Python's garbage
    collector, which would otherwise look at all of it again every few requests; what requests leave is collected as before."""
    gc.collect()
    gc.freeze()
