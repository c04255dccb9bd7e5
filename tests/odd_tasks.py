"""Tasks that go wrong in every way a file can; apart from the tests, so that the process they run in need not import those."""

import os


def forever() -> None:
    while True:
        pass


def swells() -> int:
    return len(bytearray(4_000_000_000))


def digs(depth: int = 0) -> int:
    return digs(depth + 1)


def dies() -> None:
    os._exit(9)


def breaks() -> None:
    raise KeyError("odd")


def echo(what: object) -> object:
    return what
