"""What one reading of a step says: fine, or the likely cause and what to do before going on."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from wise_cellar.core.build.steps.expected import METER_V, Expected, GroupRest
from wise_cellar.core.build.steps.step import Step
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import format_number, format_significant, format_volts
from wise_cellar.core.words import lower_first

NOTHING_V = 0.10
"""Under so much a meter reads nothing."""
MILLIVOLTS_V = 100.0
"""More than any pack of twenty groups has."""
NEAR_GROUP = 0.06
"""Share of a group's volts by which a reading may miss a whole number of groups and still tell it."""

SIGN_SHARE = 0.25
"""Share of a group's volts within which a reading of the other sign is the same one read backwards."""


@dataclass(frozen=True)
class Judged:
    """What is said of a reading."""

    fine: bool
    sentence: str
    advice: str = ""


def checked_volts(volts: float) -> float:
    """The reading, where it can be one of a pack; raises :class:`DocumentError` where it was surely told in
    millivolts."""
    if abs(volts) > MILLIVOLTS_V:
        told = format_significant(volts)
        raise DocumentError(f"{told} V is no voltage of this pack; millivolts are written {told} mV.")
    return volts


def judge_reading(
    steps: Sequence[Step], step: Step, expected: Expected, volts: float, rests: Sequence[GroupRest]
) -> Judged:
    """Judge one reading of a step against what it should be, and against what else it could be."""
    apart = volts - expected.volts
    if expected.fits(volts):
        return Judged(True, f"Fine: {_mv(apart)} from what its cells say.")
    group_v = sum(rest.volts for rest in rests) / len(rests)
    for judged in _causes(steps, step, expected, volts, rests):
        return judged
    if abs(apart) < group_v:
        return Judged(
            False, f"{_mv(apart)} from the {format_volts(expected.volts, 3)} that its cells say.",
            "Read it again with the probes on bare metal. If it stays so, read the cells of its groups one by one"
            " before you join more: one has lost charge, or was charged since it was read.",
        )  # fmt: skip
    return Judged(
        False, f"Nothing that usually goes wrong reads {format_volts(volts, 3)} here.",
        "Join nothing more. Look which ends the probes are on, then read every group by itself.",
    )  # fmt: skip


def _causes(
    steps: Sequence[Step], step: Step, expected: Expected, volts: float, rests: Sequence[GroupRest]
) -> Iterator[Judged]:
    """Likely causes, the likeliest first."""
    near = max(expected.within_v, METER_V)
    group_v = sum(rest.volts for rest in rests) / len(rests)
    backwards = volts * expected.volts < 0 and abs(volts + expected.volts) <= max(near, SIGN_SHARE * group_v)
    if backwards and abs(expected.volts) > NOTHING_V:
        yield _reversed(step)
    if abs(volts) < NOTHING_V:
        yield Judged(
            False, "It reads nothing.",
            "Probes on bare metal? Then a joint on the way is open, or a group is shorted: feel whether one is warm,"
            " and join nothing more before you know.",
        )  # fmt: skip
    if abs(expected.volts) <= NOTHING_V:
        yield Judged(
            False, "There should be nothing here yet.",
            "Something joins the two already: a strand across the plug, or the other lead. Cover the pack and look"
            " before you go on.",
        )  # fmt: skip
    other = _elsewhere(steps, step, expected, volts)
    if other is not None:
        yield other
    missing = (expected.volts - volts) / group_v
    if abs(missing - 2) < NEAR_GROUP and expected.volts > 1.5 * group_v:
        yield Judged(
            False, "Two groups' volts are missing: one group lies the wrong way round.",
            "Do not go on. Cover both faces, find the group that reads backwards, and part it from its neighbours.",
        )  # fmt: skip
    whole = round(missing)
    read = round(volts / group_v)
    if whole and abs(missing - whole) < NEAR_GROUP and 0 < read <= len(rests):
        less = "less" if whole > 0 else "more"
        many = "One group" if abs(whole) == 1 else f"{abs(whole)} groups"
        yield Judged(
            False, f"{many} {less} than there should be.",
            "The probe is on a neighbour's strip, or the wire lies at another joint. Read against the most negative"
            " end, one group after the other.",
        )  # fmt: skip


def _reversed(step: Step) -> Judged:
    if step.key == "lay":
        return Judged(
            False, "This group stands upside down, or the probes are exchanged.",
            "Look at the marks of its cells. Turn what is wrong before any strip: joined so, it is a short circuit.",
        )  # fmt: skip
    if step.key.startswith("lead") or step.key in ("relief", "insert"):
        return Judged(
            False, "The leads are reversed, or the probes are exchanged.",
            "Nothing meets this plug. Red on the positive half, black on the other, and read again; if it stays so,"
            " cut and insulate one lead at a time and change them over.",
        )  # fmt: skip
    return Judged(
        False, "It reads backwards: the probes are exchanged, or the group lies the wrong way round.",
        "Change the probes and read again. If it stays so, go no further: part it with both faces covered.",
    )  # fmt: skip


def _elsewhere(steps: Sequence[Step], step: Step, expected: Expected, volts: float) -> Judged | None:
    """Where the reading is what another place, or another stage, should read."""
    for other in step.expected:
        if other.key != expected.key and other.fits(volts) and abs(other.volts - expected.volts) > METER_V:
            return Judged(
                False, f"That is what should be read elsewhere: {lower_first(other.words)}.",
                "Put the probes where this line says, and read again.",
            )  # fmt: skip
    places = {one.key: place for place, one in enumerate(steps)}
    here = places.get(step.key, 0)
    for place, later in enumerate(steps):
        for other in later.expected:
            same = other.key == expected.key and abs(other.volts - expected.volts) > METER_V
            if place != here and same and other.fits(volts):
                when = "after" if place > here else "before"
                return Judged(
                    False, f"That belongs to another stage: it is right {when} “{later.title}”.",
                    "Read it again now. If the pack was charged or joined since, close the steps between first.",
                )  # fmt: skip
    return None


def _mv(volts: float) -> str:
    return f"{format_number(1000 * volts, 0, signed=True)} mV"


def together(step: Step, read: Mapping[str, float]) -> str:
    """What several readings of a step say of each other; nothing where they agree.

    Groups that nobody read before may rest anywhere; among themselves they should be alike.
    """
    groups = {one.key: read[one.key] for one in step.expected if one.key.startswith("group-") and one.key in read}
    if len(groups) < 2 or step.key == "lay":
        return ""
    low, high = min(groups.values()), max(groups.values())
    if high - low <= APART_V:
        return ""
    least = min(groups, key=lambda key: groups[key])
    return (
        f"Groups are {format_number(1000 * (high - low), 0)} mV apart, {least.replace('-', ' ')} the lowest: more than"
        f" {format_number(1000 * APART_V, 0)} mV says that it lost charge, or was never balanced."
    )


APART_V = 0.05
"""By which the groups of one pack may differ at rest."""
