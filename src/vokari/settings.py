"""Where Vokari's parts are found, read from the environment once."""

import os
import secrets
from dataclasses import dataclass
from pathlib import Path

HOST = "127.0.0.1"


@dataclass(frozen=True, slots=True)
class Settings:
    """Ports on 127.0.0.1, the folder of data, and the database's address."""

    port: int
    control_port: int
    carrier_port: int
    pg_port: int
    data: Path
    database_url: str

    @property
    def web_url(self) -> str:
        return f"http://{HOST}:{self.port}"

    @property
    def control_url(self) -> str:
        return f"http://{HOST}:{self.control_port}"

    @property
    def carrier_url(self) -> str:
        return f"http://{HOST}:{self.carrier_port}"

    def secret(self) -> bytes:
        """The application's own secret, made on first use and readable by its owner only."""
        path = self.data / "secret"
        if not path.exists():
            self.data.mkdir(parents=True, exist_ok=True)
            fresh = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(fresh, "w") as file:
                file.write(secrets.token_hex(32))
        return path.read_bytes().strip()


def default_data() -> Path:
    """Where data lies when VOKARI_DATA does not say: a folder that the user postgres may enter, when run as root."""
    if os.geteuid() == 0:
        return Path("/var/lib/vokari")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "vokari"


def from_environment() -> Settings:
    """The settings; raises ValueError for a port that is no number."""
    port = _port("VOKARI_PORT", 8040)
    return Settings(
        port=port,
        carrier_port=_port("VOKARI_CARRIER_PORT", 8041),
        control_port=_port("VOKARI_CONTROL_PORT", 8042),
        pg_port=_port("VOKARI_PG_PORT", 54040),
        data=Path(os.environ.get("VOKARI_DATA") or default_data()),
        database_url=os.environ.get("VOKARI_DATABASE_URL", ""),
    )


def _port(name: str, usual: int) -> int:
    text = os.environ.get(name, "") or str(usual)
    if not text.isdigit() or not 1 <= int(text) <= 65535:
        raise ValueError(f"{name} is {text}, which is not a port")
    return int(text)
