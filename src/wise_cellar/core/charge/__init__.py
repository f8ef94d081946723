"""Charging: settings, time and energy of a pack, and a day of flying and charging."""

from wise_cellar.core.charge.allowed import CurrentLimit, cooling_s, never_v
from wise_cellar.core.charge.cc_cv import Charged, Held, OnCharger, Phase, charge
from wise_cellar.core.charge.field_day import (
    ChargeFirst,
    Doing,
    Entry,
    PackTurn,
    SetKind,
    Timetable,
    clock,
    field_day,
    set_kind,
    timetable_csv,
)
from wise_cellar.core.charge.plan import ChargePlan, about, charge_plan, planned
from wise_cellar.core.charge.watched import APART_V, KNOWN_AFTER_S, Alarm, Came, Watched, expected_from, flows, watched

__all__ = [
    "APART_V",
    "KNOWN_AFTER_S",
    "Alarm",
    "Came",
    "ChargeFirst",
    "ChargePlan",
    "Charged",
    "CurrentLimit",
    "Doing",
    "Entry",
    "Held",
    "OnCharger",
    "PackTurn",
    "Phase",
    "SetKind",
    "Timetable",
    "Watched",
    "about",
    "charge",
    "charge_plan",
    "clock",
    "cooling_s",
    "expected_from",
    "field_day",
    "flows",
    "never_v",
    "planned",
    "set_kind",
    "timetable_csv",
    "watched",
]
