"""An office period as it runs: in its own unit, standing still while the office waits for answers.

Source: the scenario, *Periods* and *Pausing*.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from decimal import ROUND_CEILING, ROUND_FLOOR, Decimal
from typing import Literal

from jolly_clerk.core.time.calendar import DAY, Calendar
from jolly_clerk.core.time.periods import Period

#: what is counted: weeks, months and years are counted as the days that they have
Counted = Literal["working days", "days", "office hours", "hours"]


@dataclass(frozen=True, slots=True)
class Pause:
    """A stretch in which the office's period stands still: from the letter that went out to its answers; ``end`` None while open.

    ``last`` is its last day where that is not the one on which what ended it counts as received.
    """

    start: datetime
    end: datetime | None
    last: date | None = None

    def days(self, calendar: Calendar) -> tuple[date, date | None]:
        """Its first and last day; the day on which answers count as received is the last that nobody uses."""
        return calendar.local_day(self.start), self.last or (calendar.received_on(self.end) if self.end else None)


@dataclass(frozen=True, slots=True)
class OfficeRun:
    """An office period with its pauses.

    ``event`` is the day after which it is counted. ``limit_at`` is its last instant and ``last_day`` the day of that, both None
    while it stands still. ``used``, ``left`` (negative when the limit is past) and ``of`` count ``unit``. ``after`` is the day after
    which it runs now: ``event``, or the last day of the last pause; it may lie ahead, since what comes on a closed day is received later.
    """

    event: date
    last_day: date | None
    limit_at: datetime | None
    used: int
    left: int
    of: int
    unit: Counted
    after: date | None = None


def merged(pauses: Sequence[Pause]) -> list[Pause]:
    """The same stretches without what stands in two of them, in their order."""
    found: list[Pause] = []
    for pause in sorted(pauses, key=lambda p: p.start):
        last = found[-1] if found else None
        if last is None or (last.end is not None and last.end < pause.start):
            found.append(pause)
        elif last.end is not None and (pause.end is None or pause.end > last.end):
            found[-1] = Pause(last.start, pause.end, pause.last)
    return found


def office_run(
    begin: datetime,
    within: Period,
    pauses: Sequence[Pause],
    now: datetime,
    calendar: Calendar,
    if_closed: str = "next working day",
) -> OfficeRun:
    """Run an office period from an instant around its pauses; a limit already past stays where it is.

    Days are counted from the day after the one on which ``begin`` counts as received, and end with the office day; a last day
    that is closed is moved to the next working day, unless it `stays`. Hours are counted from the instant itself.
    """
    if within.unit in ("hours", "office hours"):
        return _run_hours(begin, within, pauses, now, calendar)
    event, today = calendar.received_on(begin), calendar.local_day(now)
    plain = within.unit != "working days"
    count = (within.last_day(event, calendar) - event).days if plain else within.count
    unit: Counted = "days" if plain else "working days"
    stretches = [pause.days(calendar) for pause in pauses]
    day, counted, used = event, 0, 0
    while counted < count:
        day += DAY
        if any(start <= day and (end is None or day <= end) for start, end in stretches):
            if any(end is None and start <= day for start, end in stretches):
                return OfficeRun(event, None, None, counted, count - counted, count, unit)
            continue
        if plain or calendar.is_working(day):
            counted += 1
            used += day <= today
    last = calendar.working_day_from(day) if if_closed == "next working day" else day
    count += (last - day).days
    used += max((min(last, today) - day).days, 0)
    left = count - used if today <= last else -((today - last).days if plain else calendar.working_days_between(last, today))
    after = max([event, *(end for start, end in stretches if end and start <= today)])
    return OfficeRun(event, last, calendar.office_end(last), used, left, count, unit, after)


def _run_hours(begin: datetime, within: Period, pauses: Sequence[Pause], now: datetime, calendar: Calendar) -> OfficeRun:
    unit: Counted = "office hours" if within.unit == "office hours" else "hours"

    def later(moment: datetime, hours: Decimal) -> datetime:
        if unit == "office hours":
            return calendar.add_office_hours(moment, hours)
        return moment.astimezone(UTC) + timedelta(seconds=int(hours * 3600))

    def between(first: datetime, second: datetime) -> Decimal:
        if unit == "office hours":
            return calendar.office_hours_between(first, second)
        return Decimal(max(int((second - first).total_seconds()), 0)) / 3600

    event, count = calendar.local_day(begin), Decimal(within.count)
    limit, still = later(begin, count), Decimal(0)
    for pause in sorted(pauses, key=lambda p: p.start):
        if pause.start >= limit:
            break
        if pause.end is None:
            used = _whole(between(begin, pause.start) - still, down=True)
            return OfficeRun(event, None, None, used, within.count - used, within.count, unit)
        stood = between(max(pause.start, begin), pause.end)
        still += stood if pause.end <= now else between(max(pause.start, begin), now)
        limit = later(limit, stood)
    limit = limit.astimezone(calendar.zone)
    used = min(_whole(between(begin, now) - still, down=True), within.count)
    left = within.count - used if now <= limit else -_whole(between(limit, now), down=False)
    return OfficeRun(event, calendar.local_day(limit), limit, used, left, within.count, unit)


def _whole(hours: Decimal, down: bool) -> int:
    return int(hours.to_integral_value(ROUND_FLOOR if down else ROUND_CEILING))
