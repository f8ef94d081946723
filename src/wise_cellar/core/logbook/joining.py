"""Pieces of one flight put together, and a ground track laid over a log, by their clocks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.documents.provenance import Moment
from wise_cellar.core.logbook.flight_log import FlightLog
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import counted, format_minutes

EARTH_M = 6_371_000.0
"""Mean radius."""
LEAST_POINTS = 5
FOLLOWS_S = 120.0
"""A piece that begins so soon after another's end is of the same flight."""
REBOUND_V = 1.2
"""Volts may rise by so much in between; more is another pack."""
SMOOTH_S = 3.0


@dataclass(frozen=True)
class Piece:
    """What one file tells of a flight."""

    name: str
    log: FlightLog
    starts_s: float
    """Its first second by the file's own clock; since 1970 where it tells dates."""
    begun_at: Moment | None
    remarks: tuple[str, ...] = ()

    @property
    def ends_s(self) -> float:
        """Its last second by the same clock."""
        return self.starts_s + float(self.log.time_s[-1])


@dataclass(frozen=True)
class Track:
    """Speed over ground and height by a receiver of its own; shapes ``(points,)``."""

    name: str
    time_s: Floats
    """Since 1970."""
    speed_m_s: Floats
    height_m: Floats


def track_of(name: str, points: Floats) -> Track:
    """A track from rows of time, s since 1970, latitude and longitude, degrees, and height, m; raises
    :class:`DocumentError` where it has too few. Distances by the haversine on a sphere."""
    points = points[np.argsort(points[:, 0], kind="stable")] if len(points) else points
    points = points[np.concatenate([[True], np.diff(points[:, 0]) > 0])] if len(points) else points
    if len(points) < LEAST_POINTS:
        raise DocumentError(
            f"{name} has {counted(len(points), 'point')} with a time; a track needs at least {LEAST_POINTS}."
        )
    time_s, lat, lon = points[:, 0], np.radians(points[:, 1]), np.radians(points[:, 2])
    half = (np.sin(np.diff(lat) / 2) ** 2 + np.cos(lat[1:]) * np.cos(lat[:-1]) * np.sin(np.diff(lon) / 2) ** 2) ** 0.5
    along = np.concatenate([[0.0], np.cumsum(2 * EARTH_M * np.arcsin(np.clip(half, 0.0, 1.0)))])
    before, after = (np.clip(time_s + sign * SMOOTH_S, time_s[0], time_s[-1]) for sign in (-1, 1))
    speed = (np.interp(after, time_s, along) - np.interp(before, time_s, along)) / np.maximum(after - before, 1e-3)
    return Track(name, time_s, speed, points[:, 3])


def joined(pieces: Sequence[Piece]) -> list[Piece]:
    """The same with those put together that are pieces of one flight: the later begins where the earlier ends."""
    found: list[Piece] = []
    for piece in sorted(pieces, key=lambda one: one.starts_s):
        before = found[-1] if found else None
        if before is not None and _follows(before, piece):
            found[-1] = _one(before, piece)
        else:
            found.append(piece)
    return found


def _follows(first: Piece, second: Piece) -> bool:
    gap = second.starts_s - first.ends_s
    rises = float(second.log.volts[0] - first.log.volts[-1])
    return 0 < gap <= FOLLOWS_S and first.starts_s > 0 and rises < REBOUND_V


def _one(first: Piece, second: Piece) -> Piece:
    shift = second.starts_s - first.starts_s
    if first.log.groups_v.shape[1] != second.log.groups_v.shape[1]:
        first, second = (
            replace(one, log=replace(one.log, groups_v=one.log.groups_v[:, :0])) for one in (first, second)
        )
    columns = {
        field.name: np.concatenate([getattr(first.log, field.name), getattr(second.log, field.name)])
        for field in fields(FlightLog)
    }
    columns["time_s"] = np.concatenate([first.log.time_s, second.log.time_s + shift])
    return replace(first, log=FlightLog(**columns), remarks=(*first.remarks, f"{second.name} goes on where it ends."))


def with_track(piece: Piece, track: Track) -> Piece:
    """A log with the ground speed and the height of a track; raises :class:`DocumentError` where their clocks do not
    meet."""
    if piece.begun_at is None:
        raise DocumentError(
            f"{track.name} tells its dates and {piece.name} does not: a track is laid over a log by the clock."
        )
    clock = piece.starts_s + piece.log.time_s
    if clock[-1] < track.time_s[0] or clock[0] > track.time_s[-1]:
        apart = max(track.time_s[0] - clock[-1], clock[0] - track.time_s[-1])
        raise DocumentError(
            f"{track.name} and {piece.name} are {format_minutes(float(apart))} apart by their clocks: are they of one"
            " flight, and of one time zone?"
        )
    inside = (clock >= track.time_s[0]) & (clock <= track.time_s[-1])
    speed = np.where(inside, np.interp(clock, track.time_s, track.speed_m_s), np.nan)
    height = np.where(inside, np.interp(clock, track.time_s, track.height_m), np.nan)
    log = piece.log
    changed = replace(
        log, ground_speed_m_s=speed if np.isnan(log.ground_speed_m_s).all() else log.ground_speed_m_s,
        height_m=height if np.isnan(log.height_m).all() else log.height_m,
    )  # fmt: skip
    return replace(piece, log=changed, remarks=(*piece.remarks, f"Speed over ground by {track.name}."))


def with_places(piece: Piece, clock_s: Floats, places: Floats) -> Piece:
    """A log with the speed over ground that its own places tell, (rows, 2) latitude and longitude in degrees at seconds
    of its clock; a speed that it tells itself goes before, and so does a log without a fix."""
    fixed = np.isfinite(places).all(axis=1) & (np.abs(places).max(axis=1) > 0)
    if np.isfinite(piece.log.ground_speed_m_s).any() or np.count_nonzero(fixed) < LEAST_POINTS:
        return piece
    points = np.column_stack([clock_s[fixed], places[fixed], np.zeros(np.count_nonzero(fixed))])
    track = track_of(piece.name, points)
    speed = np.interp(piece.starts_s + piece.log.time_s, track.time_s, track.speed_m_s)
    return replace(piece, log=replace(piece.log, ground_speed_m_s=speed))


def put_together(found: Sequence[Piece | Track]) -> list[Piece]:
    """Logs with their pieces joined and their tracks laid over them; raises :class:`DocumentError`."""
    pieces = joined([one for one in found if isinstance(one, Piece)])
    if not pieces:
        raise DocumentError("A track alone tells no volts and amps: take the log of that flight with it.")
    for track in (one for one in found if isinstance(one, Track)):
        dated = [piece for piece in pieces if piece.begun_at is not None]
        near = min(dated or pieces, key=lambda one: abs(one.starts_s - float(track.time_s[0])))
        pieces[pieces.index(near)] = with_track(near, track)
    return pieces
