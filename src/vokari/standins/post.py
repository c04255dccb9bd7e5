"""The post office: mails are written to a folder instead of being sent, one RFC 5322 file each."""

import hashlib
from email.message import EmailMessage
from pathlib import Path


class PostOffice:
    """A folder of mails. A mail whose key was used before is not written again."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def send(self, *, to: str, subject: str, body: str, key: str) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        path = self.folder / f"{hashlib.sha256(key.encode()).hexdigest()[:24]}.eml"
        if path.exists():
            return
        mail = EmailMessage()
        mail["From"] = "calls@example.com"
        mail["To"] = to
        mail["Subject"] = subject
        mail["Message-ID"] = f"<{path.stem}@example.com>"
        mail.set_content(body)
        path.write_bytes(mail.as_bytes())
