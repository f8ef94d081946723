"""Craft of the survey and the missions they fly."""

from __future__ import annotations

from wise_cellar.core.documents import (
    Balance,
    Bay,
    Block,
    BlockKind,
    Converter,
    Craft,
    Esc,
    KeepOut,
    KnownFlight,
    Load,
    Mission,
    Motor,
    Part,
    Rotors,
    Wing,
)


def whimbrel() -> Craft:
    """The transect mapper: a quad with 254 mm propellers."""
    return Craft(
        id="whimbrel",
        name="Whimbrel",
        sample=True,
        parts=(
            Part(name="Frame and legs", mass_g=432),
            Part(name="Motors, 4", mass_g=248),
            Part(name="Propellers, 4", mass_g=48),
            Part(name="ESCs, 4", mass_g=88),
            Part(name="Flight controller and GPS", mass_g=74),
            Part(name="Wiring", mass_g=46),
            Part(name="Survey camera and mount", mass_g=176),
            Part(name="Radio and video", mass_g=38),
        ),
        rotors=Rotors(count=4, diameter_mm=254, pitch_mm=114),
        motor=Motor(kv_rpm_per_v=700, resistance_mohm=105, no_load_current_a=0.6, max_current_a=32),
        esc=Esc(max_current_a=35, max_voltage_v=26),
        loads=(
            Load(name="flight controller", power_w=3.5, min_input_v=7),
            Load(name="survey camera", power_w=5, min_input_v=9),
            Load(name="video transmitter", power_w=4, min_input_v=7),
        ),
        max_takeoff_mass_g=2400,
        bay=Bay(
            length_mm=150, width_mm=75, height_mm=80,
            keep_outs=(KeepOut(name="GPS", x_mm=122, y_mm=22, length_mm=28, width_mm=31),),
        ),
        balance=Balance(dry_mm=-5, bay_mm=8, wanted_mm=0, tolerance_mm=8, ballast_at_mm=140),
        known_flights=(
            KnownFlight(
                name="first count", takeoff_mass_g=1910, airspeed_m_s=9, duration_min=21.5, charge_used_mah=5300,
                mean_voltage_v=14.4, air_temperature_c=17, altitude_m=10,
            ),
        ),
        notes="Sample data: invented.",
    )  # fmt: skip


def dunlin() -> Craft:
    """The scout: a small quad with 89 mm propellers that must stay under 400 g."""
    return Craft(
        id="dunlin",
        name="Dunlin",
        sample=True,
        parts=(
            Part(name="Frame and canopy", mass_g=56),
            Part(name="Motors, 4", mass_g=39),
            Part(name="Propellers, 4", mass_g=6.5),
            Part(name="Flight controller with ESCs", mass_g=17.5),
            Part(name="Camera and video", mass_g=31),
            Part(name="Receiver and antenna", mass_g=4),
            Part(name="Wiring and strap", mass_g=11),
        ),
        rotors=Rotors(count=4, diameter_mm=89, pitch_mm=58),
        motor=Motor(kv_rpm_per_v=3600, resistance_mohm=135, no_load_current_a=0.4, max_current_a=12),
        esc=Esc(max_current_a=20, max_voltage_v=17.5),
        loads=(
            Load(name="flight controller", power_w=1.2, min_input_v=4.5),
            Load(name="video transmitter", power_w=4.5, min_input_v=5.5),
        ),
        max_takeoff_mass_g=400,
        bay=Bay(length_mm=85, width_mm=45, height_mm=75),
        notes="Sample data: invented.",
    )


def turnstone() -> Craft:
    """The long shoreline run: a fixed wing of 1.9 m."""
    return Craft(
        id="turnstone",
        name="Turnstone",
        sample=True,
        parts=(
            Part(name="Wing, 1.9 m", mass_g=560),
            Part(name="Fuselage and tail", mass_g=520),
            Part(name="Motor and propeller", mass_g=168),
            Part(name="ESC", mass_g=48),
            Part(name="Servos, 4", mass_g=92),
            Part(name="Autopilot, GPS and airspeed probe", mass_g=74),
            Part(name="Shoreline camera", mass_g=128),
            Part(name="Radio and wiring", mass_g=60),
        ),
        wing=Wing(span_mm=1900, area_dm2=42, span_efficiency=0.8, greatest_lift=1.2),
        rotors=Rotors(count=1, diameter_mm=254, pitch_mm=152),
        motor=Motor(kv_rpm_per_v=700, resistance_mohm=48, no_load_current_a=1.1, max_current_a=42),
        esc=Esc(max_current_a=50, max_voltage_v=26),
        loads=(
            Load(name="autopilot", power_w=3, min_input_v=7),
            Load(name="servos", power_w=2.5, min_input_v=5, converter=Converter.STEP_DOWN),
            Load(name="shoreline camera", power_w=4, min_input_v=9),
        ),
        max_takeoff_mass_g=3000,
        bay=Bay(length_mm=190, width_mm=80, height_mm=76),
        balance=Balance(dry_mm=52, bay_mm=78, wanted_mm=62, tolerance_mm=8, ballast_at_mm=-600),
        known_flights=(
            KnownFlight(
                name="harbour to spit", takeoff_mass_g=2290, airspeed_m_s=15, mean_current_a=5.1, mean_voltage_v=14.6,
                air_temperature_c=15,
            ),
        ),
        notes="Sample data: invented. Balance is measured ahead of the trailing edge at the root.",
    )  # fmt: skip


def shoreline_run() -> Mission:
    """Out along the shore into the wind, circles over the roost, and home."""
    return Mission(
        id="shoreline-run",
        name="Shoreline run",
        sample=True,
        craft_id="turnstone",
        blocks=(
            Block(kind=BlockKind.TAKE_OFF, name="Launch and climb", duration_s=30, climb_m_s=2.5),
            Block(kind=BlockKind.CRUISE, name="West shore", duration_s=1800, airspeed_m_s=15, ground_speed_m_s=12,
                  heading_deg=270),
            Block(kind=BlockKind.DESCENT, name="Down to the roost", duration_s=40, sink_m_s=1),
            Block(kind=BlockKind.LOITER, name="Circles over the roost", duration_s=600, radius_m=60),
            Block(kind=BlockKind.CRUISE, name="East shore, until landing", airspeed_m_s=14),
            Block(kind=BlockKind.LANDING, name="Landing", duration_s=30),
        ),
    )  # fmt: skip


def north_transect() -> Mission:
    """Long straight legs with a pull-up at each turn."""
    leg = {"kind": BlockKind.CRUISE, "airspeed_m_s": 9.0}
    turn = Block(kind=BlockKind.PUNCH, name="Pull-up", duration_s=4)
    return Mission(
        id="north-transect",
        name="North transect",
        sample=True,
        blocks=(
            Block(kind=BlockKind.TAKE_OFF, name="Climb", duration_s=25, climb_m_s=2),
            Block.model_validate({**leg, "name": "North leg", "duration_s": 600}),
            turn,
            Block.model_validate({**leg, "name": "South leg", "duration_s": 600}),
            turn,
            Block.model_validate({**leg, "name": "North leg, until landing"}),
            Block(kind=BlockKind.LANDING, name="Landing", duration_s=40),
        ),
    )


def colony_scout() -> Mission:
    """A quick look at the colony and home."""
    return Mission(
        id="colony-scout",
        name="Colony scout",
        sample=True,
        blocks=(
            Block(kind=BlockKind.TAKE_OFF, name="Climb", duration_s=10, climb_m_s=3),
            Block(kind=BlockKind.CRUISE, name="Out", duration_s=150, airspeed_m_s=8),
            Block(kind=BlockKind.PUNCH, name="Over the bank", duration_s=3),
            Block(kind=BlockKind.HOVER, name="Watch", duration_s=120),
            Block(kind=BlockKind.CRUISE, name="Search, until landing", airspeed_m_s=6),
            Block(kind=BlockKind.LANDING, name="Landing", duration_s=20),
        ),
    )
