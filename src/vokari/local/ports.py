"""Ports on this machine: whether one is free, and who has it (proc(5): /proc/net/tcp and the open files of each process)."""

import os
import socket
from pathlib import Path

LISTENS = "0A"
PARTS = ("web", "control", "carrier")


def is_free(port: int) -> bool:
    """Whether nobody listens at a port of 127.0.0.1."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def taken(port: int, variable: str) -> str:
    """A sentence that says who has a port, and what to do: stop it if it is an earlier start of Vokari."""
    pid = holder(port)
    words = _words(pid) if pid is not None else []
    free = f"set {variable} to a free one"
    if pid is None or not words:
        return f"port {port} is taken: {free}"
    if "vokari.cli" in words or (_is_postgres(words) and _data_of(words)):
        part = next((one for one in PARTS if one in words), "PostgreSQL" if _is_postgres(words) else "a part")
        where = _data_of(words) or _environment(pid, "VOKARI_DATA")
        on = f" on {where}" if where else ""
        return (
            f"port {port} is taken by an earlier start of Vokari{on} ({part}, process {pid}): stop it there, or {free}"
        )
    return f"port {port} is taken by {Path(words[0]).name} (process {pid}): {free}"


def holder(port: int) -> int | None:
    """The process that listens at a port of this machine; None where it cannot be told, as for another user's."""
    sockets = {f"socket:[{inode}]" for inode in _inodes(port)}
    for folder in Path("/proc").iterdir() if sockets else ():
        if not folder.name.isdigit():
            continue
        try:
            if any(os.readlink(link) in sockets for link in (folder / "fd").iterdir()):
                return int(folder.name)
        except OSError:
            continue
    return None


def _inodes(port: int) -> list[str]:
    found = []
    for table in ("/proc/net/tcp", "/proc/net/tcp6"):
        try:
            lines = Path(table).read_text().splitlines()[1:]
        except OSError:
            continue
        for fields in (line.split() for line in lines):
            if fields[3] == LISTENS and int(fields[1].rpartition(":")[2], 16) == port:
                found.append(fields[9])
    return found


def _words(pid: int) -> list[str]:
    try:
        return [word for word in Path(f"/proc/{pid}/cmdline").read_text(errors="replace").split("\0") if word]
    except OSError:
        return []


def _is_postgres(words: list[str]) -> bool:
    return Path(words[0]).name == "postgres" and "-D" in words


def _data_of(words: list[str]) -> str:
    """The folder of Vokari's data that a PostgreSQL lies in; empty for any other PostgreSQL."""
    if not _is_postgres(words):
        return ""
    cluster = Path(words[words.index("-D") + 1])
    ours = cluster.name == "data" and cluster.parent.name == "postgresql"
    return str(cluster.parent.parent) if ours and (cluster.parent / "password").exists() else ""


def _environment(pid: int, name: str) -> str:
    try:
        words = Path(f"/proc/{pid}/environ").read_text(errors="replace").split("\0")
    except OSError:
        return ""
    return next((word.removeprefix(f"{name}=") for word in words if word.startswith(f"{name}=")), "")
