"""Files in a folder, for the house's port of that name."""

import hashlib
import tempfile
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import BinaryIO


class FilesInFolder:
    """Files in a folder, named by the SHA-256 of their content."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def put(self, content: bytes, suffix: str) -> str:
        name = hashlib.sha256(content).hexdigest() + suffix
        path = self._path(name)
        if not path.exists():
            path.parent.mkdir(parents=True, exist_ok=True)
            partial = path.with_suffix(".partial")
            partial.write_bytes(content)
            partial.rename(path)
        return name

    def put_parts(self, parts: Iterable[bytes], suffix: str) -> str:
        digest = hashlib.sha256()
        self.folder.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=self.folder, prefix="coming-", delete=False) as file:
            try:
                for part in parts:
                    digest.update(part)
                    file.write(part)
            except BaseException:
                Path(file.name).unlink()
                raise
        path = self._path(digest.hexdigest() + suffix)
        path.parent.mkdir(parents=True, exist_ok=True)
        Path(file.name).rename(path)
        return path.name

    def parts(self, name: str) -> Iterator[bytes]:
        try:
            file = self._path(name).open("rb")
        except OSError as error:
            raise KeyError(name) from error
        return _parts(file)

    def forget(self, name: str) -> None:
        self._path(name).unlink(missing_ok=True)

    def get(self, name: str) -> bytes:
        try:
            return self._path(name).read_bytes()
        except OSError as error:
            raise KeyError(name) from error

    def _path(self, name: str) -> Path:
        return self.folder / name[:2] / name


def _parts(file: BinaryIO, size: int = 1 << 16) -> Iterator[bytes]:
    with file:
        while part := file.read(size):
            yield part
