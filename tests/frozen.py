"""Answers as they were before a redesign: the sample designs, 300 drawn at random, and rows of searches.

By hand: ``python -m tests.frozen`` answers every design kept in ``tests/data/frozen.json.xz`` again and tells the
greatest difference of each value. Where a law was changed on purpose, ``--take findings 'joined*.limit_a'`` takes these
values as they are now, and leaves every other, and the designs, as they were; ``--freeze`` writes the whole file anew.
The designs are kept as exported by the version that made the file, so that reading them again is tried with them.
"""

from __future__ import annotations

import argparse
import json
import lzma
import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import fields
from fnmatch import fnmatch
from pathlib import Path
from random import Random
from typing import Any

import numpy as np

from wise_cellar.core.answer import Answer, Asked, answer, explain, spread
from wise_cellar.core.documents import (
    Arrangement,
    CellType,
    CompleteDesign,
    ConnectorClass,
    Cooling,
    Craft,
    Design,
    DocumentError,
    Joint,
    LandingBasis,
    LandingPolicy,
    LeadExit,
    Mission,
    OcvFamily,
    StripMetal,
    Wishes,
    export_text,
    import_text,
)
from wise_cellar.core.lowering.space import READY_POLICIES
from wise_cellar.core.search import Space, fly_rows, judge
from wise_cellar.demo import complete_sample, sample_documents

FILE = Path(__file__).parent / "data" / "frozen.json.xz"
DESIGNS, ROWS, RANGES = 300, 2000, 12
TOLERANCE = 1e-9

Values = dict[str, float | str]


# What is answered


def samples() -> list[CompleteDesign]:
    """The designs of the sample world."""
    return [complete_sample(one.id) for one in sample_documents() if isinstance(one, Design)]


def drawn(count: int, seed: int) -> Iterator[CompleteDesign]:
    """Valid designs at random around the sample world: packs, weather, landing rules, age, one or several packs.

    Written as version 4 of a design had them, so that its reading is tried by them too.
    """
    dice = Random(seed)
    documents = sample_documents()
    craft = [one for one in documents if isinstance(one, Craft)]
    missions = [one for one in documents if isinstance(one, Mission)]
    cells = [one for one in documents if isinstance(one, CellType)]
    found = 0
    while found < count:
        carrier = dice.choice(craft)
        flown = dice.choice([one for one in missions if one.craft_id in ("", carrier.id)])
        cell = _some_cell(dice, cells)
        series = 2 if carrier.id == "dunlin" else dice.choice((3, 4, 4, 5, 6))
        parallel = dice.choice((1, 1, 2, 3) if carrier.id == "dunlin" else (1, 2, 3, 4, 6))
        design: dict[str, Any] = {
            "schema_version": 4,
            "id": f"drawn-{found}", "name": "drawn", "craft_id": carrier.id,
            "cell_type_id": cell["id"],
            "mission_id": flown.id, "recipe": _recipe(dice, series, parallel), "conditions": _conditions(dice),
            "landing": _landing(dice),
        }  # fmt: skip
        others = [_some_cell(dice, cells) for _ in range(dice.choice((0, 0, 0, 1, 1, 2)))]
        design["beside"] = [_branch(dice, place, other["id"], series) for place, other in enumerate(others)]
        if dice.random() < 0.2:
            design["taken_off"] = [{"name": "lid", "mass_g": 6}]
        body = {"design": design, "craft": carrier.model_dump(mode="json"), "cell_type": cell,
                "mission": flown.model_dump(mode="json"), "beside_cells": _once(others)}  # fmt: skip
        try:
            yield CompleteDesign.from_data(body)
        except DocumentError:
            continue
        found += 1


def _some_cell(dice: Random, cells: list[CellType]) -> dict[str, Any]:
    cell = dice.choice(cells).model_dump(mode="json")
    if dice.random() < 0.3 and cell["fitted"] is None:
        cell |= {"ocv_family": dice.choice([str(family) for family in OcvFamily]), "own_ocv": None}
        cell |= {"capacity_mah": round(cell["capacity_mah"] * dice.uniform(0.8, 1.1))}
    return cell | {"id": f"{cell['id']}-{cell['ocv_family']}-{cell['capacity_mah']:g}"}


def _once(cells: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return list({cell["id"]: cell for cell in cells}.values())


def _recipe(dice: Random, series: int, parallel: int) -> dict[str, Any]:
    return {
        "series_count": series,
        "parallel_count": parallel,
        "arrangement": str(dice.choice((Arrangement.SQUARE, Arrangement.STAGGERED, Arrangement.STICKS))),
        "tiers": dice.choice((1, 1, 2)),
        "joint": str(dice.choice(list(Joint))),
        "welds": dice.choice((2, 4, 8)),
        "joint_mohm": dice.choice((None, None, 0.4)),
        "strip": {
            "metal": str(dice.choice(list(StripMetal))), "width_mm": dice.choice((6, 8, 12)),
            "thickness_mm": dice.choice((0.1, 0.15, 0.2)), "layers": dice.choice((1, 1, 2)),
        },
        "leads": {
            "gauge_awg": dice.choice((10, 12, 14, 18)), "length_mm": dice.choice((80, 160, 300)),
            "connector": str(dice.choice(list(ConnectorClass))), "exit": str(dice.choice(list(LeadExit))),
            "adaptors": dice.choice((0, 0, 1)),
        },
        "balance": {"fitted": dice.random() < 0.8},
        "fittings": {"shrink_mm": dice.choice((0, 0.15)), "mount_g": dice.choice((0, 12))},
        "weighed_g": dice.choice((None, None, None, 700.0)),
    }  # fmt: skip


def _state(dice: Random) -> dict[str, Any]:
    return {
        "pack_temperature_c": dice.choice((None, None, 25, 5)),
        "start_charge_percent": dice.choice((100, 100, 80)),
        "capacity_percent": dice.choice((100, 85)),
        "resistance_percent": dice.choice((100, 140)),
        "cooling": str(dice.choice(list(Cooling))),
    }


def _conditions(dice: Random) -> dict[str, Any]:
    return _state(dice) | {
        "air_temperature_c": dice.choice((-10, 0, 12, 20, 35)),
        "altitude_m": dice.choice((0, 40, 2000)),
        "wind_m_s": dice.choice((0, 4, 8)),
        "gust_m_s": dice.choice((0, 2)),
        "payload_g": dice.choice((0, 0, 50)),
    }


def _landing(dice: Random) -> dict[str, Any]:
    return {
        "basis": str(dice.choice(list(LandingBasis))),
        "policy": str(dice.choice(list(LandingPolicy))),
        "resting_voltage_v": dice.choice((3.4, 3.6)),
        "charge_percent": dice.choice((70, 80)),
        "counter_mah": dice.choice((None, None, 1500)),
    }


def _branch(dice: Random, place: int, cell_id: str, series: int) -> dict[str, Any]:
    recipe = _recipe(dice, series, dice.choice((1, 1, 2))) | {"weighed_g": None}
    own = place == 0 and dice.random() < 0.6
    return _state(dice) | {"name": f"pack {place}", "own": own, "cell_type_id": cell_id, "recipe": recipe}


def spaces() -> list[tuple[str, Space]]:
    """What is searched: rotors, wing, cold, several packs, every landing basis; the same rows of each every time."""
    documents = sample_documents()
    cells = [one for one in documents if isinstance(one, CellType)]
    found = []
    for complete in samples():
        for basis in LandingBasis if complete.design.id in ("whimbrel-transect", "dunlin-extended") else (None,):
            changed = complete.model_dump(mode="json")
            if basis is not None:
                changed["design"]["landing"] |= {"basis": str(basis)}
                changed["design"]["conditions"] |= {"air_temperature_c": -5}
            several = len(complete.packs) > 1
            space = Space.around(
                CompleteDesign.from_data(changed), series=() if several else range(2, 8), parallel=range(1, 5),
                cells=cells, joints=tuple(Joint), gauges=(10, 14, 18), policies=READY_POLICIES,
            )  # fmt: skip
            found.append((f"{complete.design.id} {basis}", space))
    return found


# What is kept of an answer


def numbers(found: Answer) -> dict[str, float]:
    """Every number of an answer; of an array its length, its sum and its extremes."""
    kept: dict[str, Any] = {
        name: getattr(found, name)
        for name in ("duration_s", "takeoff_mass_g", "margin_until_s", "cruising_m_s", "landing_call_s", "charge_left",
                     "resting_v", "hottest_c", "mean_power_w", "energy_used_wh", "ground_wh", "cell_dcir_ohm",
                     "factor", "punch_s")
    }  # fmt: skip
    for name, punch in (("early", found.early_punch), ("late", found.late_punch)):
        kept |= {f"{name}.{field.name}": getattr(punch, field.name) for field in fields(punch)}
    kept |= {f"bus.{name}": getattr(found.bus_currents, name) for name in ("cruise_a", "punch_a", "punch_s")}
    kept |= {f"series.{field.name}": getattr(found.series, field.name) for field in fields(found.series)}
    kept |= {"rest.volts": found.at_rest.volts, "rest.ohm": found.at_rest.ohm}
    for place, pack in enumerate(found.packs):
        kept |= {
            f"pack{place}.{name}": getattr(pack, name)
            for name in ("taken_a", "late_cell_v", "given_mah", "charge_left", "left_mah", "resting_v", "hottest_c",
                         "coldest_c")
        }  # fmt: skip
        kept |= {f"pack{place}.{f.name}": getattr(pack.series, f.name) for f in fields(pack.series)}
        kept |= {f"pack{place}.cruise_a": pack.currents.cruise_a, f"pack{place}.punch_a": pack.currents.punch_a}
        kept |= {f"pack{place}.{name}": getattr(pack.build, name)
                 for name in ("mass_g", "wiring_ohm", "worst_share", "energy_wh", "short_circuit_a")}  # fmt: skip
    for place, link in enumerate(found.links):
        kept |= {
            f"link{place}.{name}": getattr(link, name)
            for name in ("cruise_a", "punch_a", "cruise_limit_a", "punch_limit_a", "punch_share")
        }
    if found.bus_start is not None:
        for place, joined in enumerate(found.bus_start.packs):
            kept |= {f"joined{place}.{name}": getattr(joined, name)
                     for name in ("rest_v", "ohm", "current_a", "limit_a", "below_v", "above_v")}  # fmt: skip
    return dict(_flat(kept))


def _flat(kept: dict[str, Any]) -> Iterator[tuple[str, float]]:
    for name, value in kept.items():
        array = np.asarray(value, float)
        if array.ndim == 0:
            yield name, float(array)
            continue
        of = {"count": array.size, "sum": array.sum(), "least": array.min(), "most": array.max()}
        yield from ((f"{name}.{part}", float(number)) for part, number in of.items())


def told(complete: CompleteDesign, found: Answer) -> dict[str, str]:
    """What an answer says."""
    steps = (step for asked in Asked for step in explain(complete, found, asked))
    return {
        "reason": f"{found.reason.words}: {found.reason.sentence}",
        "findings": "\n".join(f"{one.severity}: {one.sentence}" for one in found.findings),
        "links": "\n".join(f"{link.name} {link.words}" for link in found.links),
        "why": "\n".join(f"{step.name}: {step.sentence}" for step in steps),
    }


def values_of(complete: CompleteDesign, *, with_range: bool) -> Values:
    """Everything that is kept of one design."""
    found = answer(complete)
    kept: Values = {**numbers(found), **told(complete, found)}
    if with_range:
        around = spread(complete, found)
        kept |= {"range.low": around.duration_s[0], "range.high": around.duration_s[1]}
    return kept


def rows_of(space: Space, count: int) -> dict[str, list[Any]]:
    """Every column of some rows of a search, and the limits that each breaks."""
    rows = np.sort(np.random.default_rng(1).choice(space.rows, count, replace=False))
    flown = fly_rows(space, rows, 1.0)
    judged = judge(space, flown, Wishes())
    kept = {field.name: getattr(flown, field.name).tolist() for field in fields(flown)}
    return kept | {"reasons": [" ".join(judged.reasons(place)) for place in range(count)]}


# Freezing and comparing


def freeze() -> None:
    """Write the file anew."""
    designs = [*samples(), *drawn(DESIGNS, seed=1)]
    kept: dict[str, Any] = {"designs": [], "searches": {}}
    for place, complete in enumerate(designs):
        values = values_of(complete, with_range=place < RANGES)
        kept["designs"].append({"document": json.loads(export_text(complete)), "values": values})
    every = spaces()
    for name, space in every:
        kept["searches"][name] = rows_of(space, -(-ROWS // len(every)))
    FILE.write_bytes(lzma.compress(json.dumps(kept).encode(), preset=9))


def take(names: list[str]) -> None:
    """Take the values of some names as they are now; of searches ``search`` and the column's name."""
    kept = kept_answers()

    def taken(name: str) -> bool:
        return any(fnmatch(name, wanted) for wanted in names)

    for place, entry in enumerate(kept["designs"]):
        found = values_of(document_of(entry), with_range=place < RANGES)
        kept_still = {name: value for name, value in entry["values"].items() if not taken(name)}
        entry["values"] = kept_still | {name: value for name, value in found.items() if taken(name)}
    every = spaces()
    for name, space in every:
        # A search that was not there then is kept from now on.
        before = kept["searches"].setdefault(name, rows_of(space, -(-ROWS // len(every))))
        now = rows_of(space, len(before["row"]))
        before |= {column: now[column] for column in before if taken(f"search {column}")}
    FILE.write_bytes(lzma.compress(json.dumps(kept).encode(), preset=9))


def kept_answers() -> dict[str, Any]:
    """What the file holds."""
    found: dict[str, Any] = json.loads(lzma.decompress(FILE.read_bytes()))
    return found


def document_of(entry: dict[str, Any]) -> CompleteDesign:
    """A kept design, read as an exchange file."""
    read = import_text(json.dumps(entry["document"])).document
    assert isinstance(read, CompleteDesign)
    return read


def difference(before: Any, now: Any) -> float:
    """How far two values are apart, over the greater of them; infinite for words that differ."""
    if isinstance(before, str) or isinstance(now, str):
        return 0.0 if before == now else math.inf
    if before == now or (math.isnan(before) and math.isnan(now)):
        return 0.0
    apart = abs(before - now) / max(abs(before), abs(now), 1e-3)
    return apart if math.isfinite(apart) else math.inf


def differences(before: Values, now: Values) -> dict[str, float]:
    """Of every value kept then, how far it is now from it; infinite where it is gone."""
    return {name: difference(value, now.get(name, "")) for name, value in before.items()}


def main() -> None:
    """Freeze, or compare."""
    parser = argparse.ArgumentParser(description="Hold the answers of kept designs against what they were.")
    parser.add_argument("--freeze", action="store_true")
    parser.add_argument("--first", type=int, default=10_000, help="how many designs are answered")
    parser.add_argument("--take", nargs="+", metavar="NAME", help="values that a changed law asks for")
    asked = parser.parse_args()
    if asked.freeze or asked.take:
        take(asked.take) if asked.take else freeze()
        return
    worst: dict[str, tuple[float, str]] = defaultdict(lambda: (0.0, ""))
    kept = kept_answers()
    for place, entry in enumerate(kept["designs"][: asked.first]):
        found = values_of(document_of(entry), with_range=place < RANGES)
        for name, apart in differences(entry["values"], found).items():
            worst[name] = max(worst[name], (apart, entry["document"]["document"]["design"]["id"]))
    every = spaces()
    for name, space in every:
        # A search that was not there then is kept from now on.
        before = kept["searches"].setdefault(name, rows_of(space, -(-ROWS // len(every))))
        now = rows_of(space, len(before["row"]))
        for column, values in before.items():
            apart = max(map(difference, values, now[column]))
            worst[f"search {column}"] = max(worst[f"search {column}"], (apart, name))
    over = {name: found for name, found in worst.items() if found[0] > TOLERANCE}
    for name, (apart, where) in sorted(over.items(), key=lambda item: item[0]):
        print(f"{name}: {apart:.2g} apart at {where}")
    print(f"{len(over)} of {len(worst)} values differ by more than {TOLERANCE:g}")


if __name__ == "__main__":
    main()
