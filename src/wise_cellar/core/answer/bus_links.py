"""The chain of a whole craft: the links of every pack on the bus, and of what they feed together."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from wise_cellar.core.documents import Craft
from wise_cellar.core.flight import FlightTraces
from wise_cellar.core.lowering.packs import LoweredPack
from wise_cellar.core.pack import Link, PackCurrents, craft_links, pack_links
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import lower_first


def pack_currents(
    packs: Sequence[LoweredPack], flown: FlightTraces, flight: int, punch_a: Floats, seconds: float
) -> list[PackCurrents]:
    """Currents of each pack of one flight from those of one of its cells; ``punch_a`` of a burst of ``seconds``, of
    shape ``(packs,)``."""
    found = []
    for place, pack in enumerate(packs):
        count = pack.build.recipe.parallel_count
        found.append(
            PackCurrents(
                float(flown.cruise_current_a[place, 0, flight]) * count,
                float(punch_a[place]) * count,
                seconds,
                float(flown.held_current_a[place, 0, flight]) * count,
                tuple((flown.felt_a2[place, :, flight] * count**2).tolist()),
                pack.hottest_c(float(flown.hottest_k[place, :, flight].max())),
            )
        )
    return found


def bus_links(
    packs: Sequence[LoweredPack], craft: Craft, currents: Sequence[PackCurrents], bus: PackCurrents
) -> tuple[Link, ...]:
    """Links from the cells of every pack to the motors."""
    own = (_of_pack(place, pack, its) for place, (pack, its) in enumerate(zip(packs, currents, strict=True)))
    return (*(link for links in own for link in links), *craft_links(craft, bus))


def _of_pack(place: int, pack: LoweredPack, currents: PackCurrents) -> Iterator[Link]:
    """The links of one pack, named and governed as its own where it is one of several."""
    carried = pack.complete
    for link in pack_links(pack.build, currents):
        name = link.name if carried.alone else f"{carried.name}: {lower_first(link.name)}"
        yield replace(link, name=name, field=carried.path(link.field), pack=place)
