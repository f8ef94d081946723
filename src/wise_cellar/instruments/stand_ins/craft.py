"""A craft that flies its mission and tells of itself by MAVLink; its true power is the model's by a hidden factor."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_minutes
from wise_cellar.instruments.stand_ins.stand_in import StandIn

GROUND_S = 6.0
"""On the ground, before it takes off."""
EVERY_S, HEARTBEAT_S = 0.2, 1.0
POWER_SPREAD, POWER_MEAN = 0.05, 1.06
NOISE_V, NOISE_A, IDLE_A = 0.006, 0.12, 0.4
UNKNOWN_MV = 0xFFFF
MOST_CELLS = 10
"""Of one message."""
QUADROTOR, NO_MODE, ACTIVE = 2, 3, 4


class FlyingCraft(StandIn):
    """Idles, flies until the model lands it, and rests."""

    profile = "mavlink"

    def __init__(self, complete: CompleteDesign, seed: int) -> None:
        from pymavlink.dialects.v20 import common

        self._random = np.random.default_rng(seed)
        self.power = POWER_MEAN + POWER_SPREAD * float(self._random.standard_normal())
        self._flown = answer(complete, power_share=self.power)
        self._cells = complete.pack.recipe.series_count
        self._blocks = complete.mission.blocks
        self._send = common.MAVLink(None, srcSystem=1, srcComponent=1)
        self._next_s = self._beat_s = self.given_mah = 0.0
        climb = np.array([block.climb_m_s for block in self._blocks])[self._place()]
        sink = np.array([block.sink_m_s if block.kind == "descent" else 0.0 for block in self._blocks])[self._place()]
        steps = np.diff(self._flown.series.time_s, prepend=0.0)
        self._height: Floats = np.maximum(np.cumsum((climb - sink) * steps), 0.0)

    def _place(self) -> np.ndarray:
        return np.minimum(self._flown.series.block, len(self._blocks) - 1)

    @property
    def duration_s(self) -> float:
        """From take-off to landing."""
        return float(self._flown.series.time_s[-1])

    def lines(self, now_s: float) -> list[str]:
        """It sends no text."""
        return []

    def data(self, now_s: float) -> bytes:
        """Its messages until then."""
        found = b""
        while self._next_s <= now_s:
            found += self._messages(self._next_s - GROUND_S)
            self._next_s += EVERY_S
        return found

    def _messages(self, at_s: float) -> bytes:
        series, send = self._flown.series, self._send
        flies = 0.0 <= at_s < self.duration_s
        when = min(max(at_s, 0.0), self.duration_s)
        volts_a_cell = series.at(series.loaded_v, when) if flies else self._at_rest(at_s)
        amps = (series.at(series.pack_a, when) if flies else IDLE_A) + NOISE_A * self._random.standard_normal()
        self.given_mah += max(amps, 0.0) * EVERY_S / 3.6
        noise = NOISE_V * self._random.standard_normal()
        block = self._blocks[int(self._place()[min(int(np.searchsorted(series.time_s, when)), len(series.time_s) - 1)])]
        speed = (block.ground_speed_m_s or block.airspeed_m_s) if flies else 0.0
        throttle = series.at(series.throttle, when) if flies else 0.0
        height = float(np.interp(when, series.time_s, self._height)) if flies else 0.0
        celsius = series.at(series.temperature_c, when)
        cells = [round(1000 * volts_a_cell)] * min(self._cells, MOST_CELLS)
        messages = [
            send.sys_status_encode(
                0, 0, 0, 100, round(1000 * (volts_a_cell * self._cells + noise)), round(100 * max(amps, 0.0)), -1,
                0, 0, 0, 0, 0, 0,
            ),
            send.battery_status_encode(
                0, 0, 0, round(100 * celsius), [*cells, *[UNKNOWN_MV] * (MOST_CELLS - len(cells))],
                round(100 * max(amps, 0.0)), round(self.given_mah), -1, -1,
            ),
            send.vfr_hud_encode(speed, speed, 0, round(100 * throttle), height, 0.0),
        ]  # fmt: skip
        if self._next_s >= self._beat_s:
            self._beat_s = self._next_s + HEARTBEAT_S
            messages.append(send.heartbeat_encode(QUADROTOR, NO_MODE, 0, 0, ACTIVE))
        return b"".join(message.pack(send) for message in messages)

    def _at_rest(self, at_s: float) -> float:
        """Volts a cell on the ground: before take-off, or as they come back after landing."""
        if at_s < 0:
            return float(self._flown.series.resting_v[0])
        seconds, volts = self._flown.rebound
        return float(np.interp(at_s - self.duration_s, seconds, volts))

    def truths(self) -> list[str]:
        """What its power really is, and what came of it."""
        return [
            f"power {100 * self.power:.1f} % of what the design expects",
            f"it flies {format_minutes(self.duration_s)} and gives {self._flown.given_mah:.0f} mAh",
            f"it lands because {self._flown.reason.words}",
        ]
