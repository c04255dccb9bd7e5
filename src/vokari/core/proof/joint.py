"""Two worlds that share one time: of two versions of a flow, or of one flow with its client as it was and as it is."""

from collections.abc import Hashable
from datetime import date, datetime

from ..flows.questions.knowledge import Moment
from ..flows.running.flow import Flow
from .interest import interests
from .times import Asked, Times, longest
from .world import Client, World, asked_of

BEFORE, AFTER = "before ", "after "


def worlds(
    before: tuple[Flow, Client], after: tuple[Flow, Client], since: datetime, until: datetime
) -> tuple[World, World]:
    """The worlds of both between two instants, with the same cells of time: each tells apart what either of them asks. The zone is that of
    `after`."""
    asked = [asked_of(flow, client, interests(flow)) for flow, client in (before, after)]
    longest_ = max(longest(before[0]), longest(after[0]))
    times = Times(_both(*asked), after[1].zone, since, until, longest_)
    return (
        World(*before, since, until, times.seen_by(lambda moment: _seen(moment, BEFORE))),
        World(*after, since, until, times.seen_by(lambda moment: _seen(moment, AFTER))),
    )


def _both(before: Asked, after: Asked) -> Asked:
    sides = ((BEFORE, before), (AFTER, after))

    def of_day(day: date) -> Hashable:
        return before.of_day(day), after.of_day(day)

    return Asked(
        {side + key: table for side, asked in sides for key, table in asked.hours.items()},
        frozenset(side + key for side, asked in sides for key in asked.exceptions),
        tuple(sorted({*before.ranges, *after.ranges})), tuple(sorted({*before.weeks, *after.weeks})),
        {side + key: table for side, asked in sides for key, table in asked.duty.items()}, before.edges | after.edges, of_day,
    )  # fmt: skip


def _seen(moment: Moment, side: str) -> Moment:
    """A moment with the hours of one side, under their own keys."""
    holds = {key.removeprefix(side): said for key, said in moment.holds.items() if key.startswith(side)}
    exceptions = {key.removeprefix(side): said for key, said in moment.exceptions.items() if key.startswith(side)}
    return Moment(moment.at, holds, moment.day, moment.weeks, exceptions)
