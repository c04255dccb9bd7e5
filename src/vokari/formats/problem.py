"""Problem details for HTTP APIs (RFC 9457)."""

from typing import Any

MEDIA_TYPE = "application/problem+json"


def problem(status: int, kind: str, title: str, detail: str = "", **more: Any) -> dict[str, Any]:
    """A problem document. `kind` becomes the last part of its type, a relative reference to docs/call-control.md."""
    document = {"type": f"/problems/{kind}", "title": title, "status": status}
    if detail:
        document["detail"] = detail
    return {**document, **more}
