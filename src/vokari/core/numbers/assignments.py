"""Who has a number when: spans on a time line that never overlap. What is past is never rewritten."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Span:
    """A number belongs to a lead source from one moment up to, not including, another (None: until further notice)."""

    source_id: int
    since: datetime
    until: datetime | None = None

    def covers(self, at: datetime) -> bool:
        return self.since <= at and (self.until is None or at < self.until)


def holder(spans: Iterable[Span], at: datetime) -> Span | None:
    """Who has the number at a moment."""
    return next((span for span in spans if span.covers(at)), None)


def last_holder(spans: Iterable[Span], at: datetime) -> Span | None:
    """Who has the number at a moment, or had it last before."""
    return max((span for span in spans if span.since <= at), key=lambda span: span.since, default=None)


def changes(spans: Sequence[Span], after: datetime) -> list[tuple[datetime, int | None]]:
    """What is planned for after a moment, the next first: when, and who has the number from then on (None: nobody)."""
    found = []
    for edge in sorted(one for one in _edges(spans) if one > after):
        span = holder(spans, edge)
        found.append((edge, span.source_id if span else None))
    return found


def give(
    spans: Sequence[Span], source_id: int | None, since: datetime, until: datetime | None = None
) -> tuple[Span, ...]:
    """The time line once a source has the number from `since` to `until` (None: nobody has it then).

    Whatever was planned for that time gives way; neighbours that belong to one source become one span.
    """
    kept = [*_outside(spans, since, until)]
    if source_id is not None and (until is None or since < until):
        kept.append(Span(source_id, since, until))
    return _joined(kept)


def swap(first: Sequence[Span], second: Sequence[Span], since: datetime) -> tuple[tuple[Span, ...], tuple[Span, ...]]:
    """The time lines of two numbers that exchange their sources, and all that is planned, from a moment on."""
    return (
        _joined([*_outside(first, since, None), *_from(second, since)]),
        _joined([*_outside(second, since, None), *_from(first, since)]),
    )


def cancel(spans: Sequence[Span], since: datetime) -> tuple[Span, ...]:
    """The time line without the change that was planned for `since`: who had the number before keeps it until the
    change after. A time line without a change there stays as it is."""
    following = min((edge for edge in _edges(spans) if edge > since), default=None)
    if since not in _edges(spans):
        return tuple(spans)
    before = next((span for span in spans if span.until == since), None)
    return give(spans, before.source_id if before else None, since, following)


def _edges(spans: Iterable[Span]) -> set[datetime]:
    return {edge for span in spans for edge in (span.since, span.until) if edge is not None}


def _outside(spans: Iterable[Span], since: datetime, until: datetime | None) -> Iterable[Span]:
    """What of the spans lies before `since` and after `until`."""
    for span in spans:
        if span.since < since:
            yield replace(span, until=since if span.until is None or span.until > since else span.until)
        if until is not None and (span.until is None or span.until > until):
            yield replace(span, since=max(span.since, until))


def _from(spans: Iterable[Span], since: datetime) -> Iterable[Span]:
    for span in spans:
        if span.until is None or span.until > since:
            yield replace(span, since=max(span.since, since))


def _joined(spans: Iterable[Span]) -> tuple[Span, ...]:
    found: list[Span] = []
    for span in sorted(spans, key=lambda one: one.since):
        if found and found[-1].until == span.since and found[-1].source_id == span.source_id:
            found[-1] = replace(found[-1], until=span.until)
        else:
            found.append(span)
    return tuple(found)
