"""Where the sun stands at a place, a day and an hour."""

import datetime
import itertools

from hulmo.core.errors import InvalidInput, shown

FIRST_YEAR, LAST_YEAR = 1900, 2100


def sun_at(latitude: float, longitude: float, day: str, hour: float, zone: float) -> tuple[float, float]:
    """Bearing and altitude of the sun, degrees; the altitude without what air bends.

    Parameters
    ----------
    latitude, longitude : float
        Degrees north and east.
    day : str
        As 2026-06-21.
    hour : float
        Of the clock there, 0 to 24.
    zone : float
        Hours that clock is ahead of universal time.

    Raises
    ------
    InvalidInput

    Notes
    -----
    By the package astral, which follows Meeus, "Astronomical algorithms" (1991), as NOAA's solar calculator does.
    """
    from astral import Observer  # loaded when it is first asked for
    from astral.sun import zenith_and_azimuth

    when = noon(day) + datetime.timedelta(hours=hour - 12.0 - zone)
    zenith, bearing = zenith_and_azimuth(Observer(latitude, longitude, 0.0), when, with_refraction=False)
    return float(bearing) % 360.0, 90.0 - float(zenith)


def rise_and_set(latitude: float, longitude: float, day: str, zone: float) -> tuple[float, float] | None:
    """Hours of the clock at which the sun crosses the horizon; None where it does not on that day.

    Raises
    ------
    InvalidInput
    """
    steps = [(i / 10.0, sun_at(latitude, longitude, day, i / 10.0, zone)[1]) for i in range(241)]
    rise = fall = None
    for (a, low), (b, high) in itertools.pairwise(steps):
        if low < 0 <= high:
            rise = a + (b - a) * -low / (high - low)
        elif low >= 0 > high:
            fall = a + (b - a) * low / (low - high)
    return None if rise is None or fall is None else (rise, fall)


def noon(day: str) -> datetime.datetime:
    """Noon in universal time of a day that is written as 2026-06-21.

    Raises
    ------
    InvalidInput
    """
    try:
        found = datetime.date.fromisoformat(day)
    except ValueError:
        raise InvalidInput(f"day is {shown(day)}; write a day of the calendar as 2026-06-21") from None
    if not FIRST_YEAR <= found.year <= LAST_YEAR:
        raise InvalidInput(f"day is {shown(day)}; years from {FIRST_YEAR} to {LAST_YEAR} are known")
    return datetime.datetime(found.year, found.month, found.day, 12, tzinfo=datetime.UTC)
