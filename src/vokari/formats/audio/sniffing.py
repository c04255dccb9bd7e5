"""What kind of sound file something is, by its first bytes; a name says nothing."""

TYPES: dict[str, tuple[str, tuple[str, ...], str]] = {
    "wav": ("WAV", (".wav", ".wave"), "audio/wav"), "mp3": ("MP3", (".mp3",), "audio/mpeg"),
    "ogg": ("OGG", (".ogg", ".oga", ".opus"), "audio/ogg"), "flac": ("FLAC", (".flac",), "audio/flac"),
    "mov": ("M4A", (".m4a", ".mp4"), "audio/mp4"), "matroska": ("WebM", (".webm", ".weba"), "audio/webm"),
}  # fmt: skip
"""The kinds that are taken, by the name of their demuxer: what they are called, how their names end, and their media type."""


def kind_of(head: bytes) -> str:
    """The demuxer that reads a file which begins so; empty for what is none of the sounds that are taken."""
    if head[:4] == b"RIFF" and head[8:12] == b"WAVE":
        return "wav"
    if head[:4] == b"fLaC":
        return "flac"
    if head[:4] == b"OggS":
        return "ogg"
    if head[4:8] == b"ftyp":
        return "mov"
    if head[:4] == b"\x1a\x45\xdf\xa3":
        return "matroska"
    if head[:3] == b"ID3" or (len(head) > 1 and head[0] == 0xFF and head[1] & 0xE6 == 0xE2):
        return "mp3"
    return ""


def problem(name: str, head: bytes) -> str:
    """A sentence that says why a file of this name and beginning is not taken; empty where it is."""
    if not head:
        return "The file is empty."
    kind = kind_of(head)
    if not kind:
        return "This is no sound that can be read: take a WAV, MP3, OGG, FLAC, M4A or WebM file."
    called, endings, _ = TYPES[kind]
    dot = name.rfind(".")
    ending = name[dot:].casefold() if dot > 0 else ""
    if ending and ending not in endings and any(ending in other for _, other, _ in TYPES.values()):
        return f"Its name says {ending}, and it is {called}: rename it, or save it again as what it says."
    return ""


def is_whole(kind: str, content: bytes) -> bool:
    """Whether a file is as long as it says of itself, as far as its kind tells without being read through: a WAV by the length of its
    samples, an OGG by its last page."""
    if kind == "wav":
        at = content.find(b"data", 12, 1 << 16)
        if at < 0 or len(content) < at + 8:
            return False
        says = int.from_bytes(content[at + 4 : at + 8], "little")
        return says >= 0xFFFFFF00 or says == 0 or len(content) >= at + 8 + says
    if kind == "ogg":
        last = content.rfind(b"OggS")
        if len(content) < last + 27:
            return False
        segments = content[last + 26]
        return len(content) >= last + 27 + segments + sum(content[last + 27 : last + 27 + segments])
    return True
