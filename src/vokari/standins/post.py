"""The post office: mails and text messages are written to a folder instead of being sent, mails as RFC 5322 files."""

import hashlib
from email.message import EmailMessage
from pathlib import Path


class PostOffice:
    """A folder of mails and texts. One whose key was used before is not written again."""

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

    def text(self, *, to: str, words: str, key: str) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        path = self.folder / f"{hashlib.sha256(key.encode()).hexdigest()[:24]}.txt"
        if not path.exists():
            path.write_text(f"To: {to}\n\n{words}\n")
