"""Craft, cell types, missions and designs of volunteers who count ground-nesting terns from the air.

Everything here is invented; values are plausible for their class and copied from nobody.
"""

from __future__ import annotations

from datetime import date
from functools import cache
from pathlib import Path
from typing import Any

from wise_cellar.core.documents import (
    BenchResult,
    BuiltPack,
    CellType,
    Charger,
    CompleteDesign,
    Conditions,
    ConnectorClass,
    Cooling,
    DaySet,
    Design,
    Document,
    FieldDay,
    Fittings,
    FormFactor,
    KineticClass,
    LandingPolicy,
    LandingRule,
    Leads,
    OcvFamily,
    Pack,
    PackRecipe,
    PackRole,
    PackState,
    Part,
    SearchChoice,
    SourceKind,
    Strip,
    ValueSource,
)
from wise_cellar.demo.bench import sample_bench, sample_chart, sample_fit
from wise_cellar.demo.sample_craft import colony_scout, dunlin, north_transect, shoreline_run, turnstone, whimbrel
from wise_cellar.demo.sample_packs import sample_packs
from wise_cellar.demo.sample_tray import sample_tray
from wise_cellar.demo.spring import spring_flights, spring_logs, spring_series
from wise_cellar.store import Workspace

FIRST_DESIGN_ID = "whimbrel-transect"
EXTENDED_DESIGN_ID = "dunlin-extended"
TRAY_CELL_ID = "fell-21-45p"


@cache
def sample_documents() -> tuple[Document, ...]:
    """All documents of the sample workspace."""
    built = [one for one in survey_documents() if isinstance(one, BuiltPack)]
    shapes = tuple((one.id, one.cell_type_id, one.recipe.series_count, one.recipe.parallel_count) for one in built)
    return (*survey_documents(), *spring_logs(shapes), *spring_flights())


@cache
def survey_documents() -> tuple[Document, ...]:
    """What there was before the spring's flights."""
    tray = sample_tray(next(cell for cell in _cells() if cell.id == TRAY_CELL_ID))
    types = {cell.id: cell for cell in (*_cells(), bench_cell())}
    packs = sample_packs(types, {design.id: design.packs[0].recipe for design in _designs()}, tray)
    return (
        *_cells(),
        *_packs(),
        bench_cell(),
        *sample_bench().records,
        *tray,
        *packs,
        sample_chart()[0],
        whimbrel(),
        dunlin(),
        turnstone(),
        north_transect(),
        colony_scout(),
        shoreline_run(),
        *_designs(),
    )


def sample_series() -> dict[str, bytes]:
    """The long series that the documents of the sample workspace name."""
    chart, picture = sample_chart()
    return sample_bench().series | {chart.picture_key: picture} | spring_series()


def sample_workspace(path: Path) -> Workspace:
    """The workspace at ``path``, with the sample world in it where nothing was; raises :class:`WorkspaceError`."""
    workspace = Workspace.open(path)
    if workspace.blank:
        workspace.seed(sample_documents(), sample_series())
        workspace.remember("design", FIRST_DESIGN_ID)
    return workspace


def bench_cell(*, fitted: bool = True) -> CellType:
    """An energy cell that was tested: discharges, a fitted model, five specimens on the bench."""
    day = date(2026, 3, 21)
    sheet = _cell("Fell", "21", "50E", mass_g=69.0, capacity_mah=5000, dcir_mohm=34, continuous_current_a=15,
                  pulse_current_a=22, price=6.2)  # fmt: skip
    specimens = ((5134, 33.5, 68.9), (5121, 34.2, 69.2), (5102, 35.1, 69.0), (5140, 33.1, 68.8), (5117, 34.6, 69.1))
    return sheet.changed(
        pulse_s=10.0,
        charge_current_a=2.5,
        nominal_voltage_v=3.6,
        sources=(
            ValueSource(field="mass_g", kind=SourceKind.MEASURED, day=day),
            ValueSource(field="dcir_mohm", kind=SourceKind.MEASURED, day=day),
            ValueSource(field="price", kind=SourceKind.ESTIMATE),
        ),
        bench_results=tuple(
            BenchResult(label=f"specimen {number}", day=day, capacity_mah=mah, load_a=0.5, dcir_mohm=mohm, mass_g=g)
            for number, (mah, mohm, g) in enumerate(specimens, 1)
        ),
        fitted=sample_fit() if fitted else None,
    )


def _cell(
    maker: str, size: str, label: str, *, mass_g: float, capacity_mah: float, dcir_mohm: float,
    continuous_current_a: float, pulse_current_a: float, price: float,
) -> CellType:  # fmt: skip
    form, diameter, length = {
        "18": (FormFactor.C18650, 18.4, 65.2),
        "21": (FormFactor.C21700, 21.2, 70.2),
    }[size]
    energy = label.endswith("E")
    return CellType(
        id=f"{maker}-{size}-{label}".lower(),
        name=f"{maker} {size}-{label}",
        sample=True,
        form_factor=form,
        diameter_mm=diameter,
        length_mm=length,
        mass_g=mass_g,
        capacity_mah=capacity_mah,
        dcir_mohm=dcir_mohm,
        continuous_current_a=continuous_current_a,
        pulse_current_a=pulse_current_a,
        charge_current_a=round(capacity_mah / 1000 * (0.5 if energy else 1.0), 1),
        ocv_family=OcvFamily.ENERGY_NMC_SIOX if energy else OcvFamily.POWER_NCA,
        kinetic_class=KineticClass.ENERGY_CYLINDER if energy else KineticClass.POWER_CYLINDER,
        price=price,
        notes="Sample data: invented.",
    )


def _cells() -> tuple[CellType, ...]:
    return (
        _cell("Tarn", "18", "29P", mass_g=47.0, capacity_mah=2850, dcir_mohm=21, continuous_current_a=20,
              pulse_current_a=35, price=5.4),
        _cell("Tarn", "18", "33E", mass_g=47.5, capacity_mah=3250, dcir_mohm=33, continuous_current_a=8,
              pulse_current_a=13, price=4.6),
        _cell("Tarn", "21", "40P", mass_g=68.0, capacity_mah=4000, dcir_mohm=11.5, continuous_current_a=40,
              pulse_current_a=70, price=7.2),
        _cell("Fell", "18", "26P", mass_g=45.5, capacity_mah=2550, dcir_mohm=18, continuous_current_a=25,
              pulse_current_a=40, price=5.1),
        _cell("Fell", "18", "35E", mass_g=48.0, capacity_mah=3450, dcir_mohm=38, continuous_current_a=8,
              pulse_current_a=12, price=5.0),
        _cell("Fell", "21", "45P", mass_g=69.5, capacity_mah=4400, dcir_mohm=15, continuous_current_a=35,
              pulse_current_a=55, price=6.9),
        _cell("Fell", "21", "49E", mass_g=68.5, capacity_mah=4850, dcir_mohm=27, continuous_current_a=10,
              pulse_current_a=18, price=5.8),
    )  # fmt: skip


def _packs() -> tuple[CellType, ...]:
    """Polymer packs bought whole, a loose pouch, and a cell whose label cannot be true."""
    return (
        CellType(
            id="reed-4s-5200", name="Reed 4S 5200", sample=True, form_factor=FormFactor.WHOLE_PACK, length_mm=140,
            width_mm=44, thickness_mm=32, cells_in_series=4, mass_g=505, capacity_mah=5200, dcir_mohm=3.6, c_rating=45,
            charge_current_a=10.4, min_voltage_v=3.0, nominal_voltage_v=3.7, min_temperature_c=0,
            ocv_family=OcvFamily.POLYMER, kinetic_class=KineticClass.POLYMER_POUCH, price=52.0,
            notes="Sample data: invented.",
        ),
        CellType(
            id="reed-2s-1900-hv", name="Reed 2S 1900 HV", sample=True, form_factor=FormFactor.WHOLE_PACK, length_mm=74,
            width_mm=34, thickness_mm=15, cells_in_series=2, mass_g=92, capacity_mah=1900, dcir_mohm=8.5, c_rating=60,
            charge_current_a=3.8, min_voltage_v=3.0, max_voltage_v=4.35, nominal_voltage_v=3.8, min_temperature_c=0,
            ocv_family=OcvFamily.HIGH_VOLTAGE_POLYMER, kinetic_class=KineticClass.POLYMER_POUCH, price=21.0,
            notes="Sample data: invented.",
        ),
        CellType(
            id="reed-2s-2800", name="Reed 2S 2800", sample=True, form_factor=FormFactor.WHOLE_PACK, length_mm=72,
            width_mm=40, thickness_mm=21, cells_in_series=2, mass_g=108, capacity_mah=2800, dcir_mohm=24,
            continuous_current_a=20, pulse_current_a=32, pulse_s=10, charge_current_a=2.8, nominal_voltage_v=3.6,
            ocv_family=OcvFamily.POWER_NCA, kinetic_class=KineticClass.POWER_CYLINDER, price=26.0,
            notes="Sample data: invented. Two cylinders in a shell, the scout's own battery.",
        ),
        CellType(
            id="reed-p-6000", name="Reed P-6000", sample=True, form_factor=FormFactor.POUCH, length_mm=132, width_mm=43,
            thickness_mm=8.4, mass_g=108, capacity_mah=6000, ac_resistance_mohm=1.6, continuous_current_a=60,
            pulse_current_a=120, pulse_s=10, charge_current_a=12, min_voltage_v=3.0, nominal_voltage_v=3.7,
            ocv_family=OcvFamily.POUCH_NMC, kinetic_class=KineticClass.POLYMER_POUCH, price=16.5,
            notes="Sample data: invented. Only an AC resistance is known.",
        ),
        CellType(
            id="fell-18-60x", name="Fell 18-60X", sample=True, form_factor=FormFactor.C18650, diameter_mm=18.3,
            length_mm=65.1, mass_g=36.5, capacity_mah=6000, dcir_mohm=62, continuous_current_a=30,
            nominal_voltage_v=3.7, ocv_family=OcvFamily.ENERGY_NMC_SIOX, kinetic_class=KineticClass.ENERGY_CYLINDER,
            price=2.2, notes="Sample data: invented. A label too good to be true: see the claims.",
            bench_results=(
                BenchResult(label="specimen 1", day=date(2026, 3, 14), capacity_mah=1480, load_a=0.5, dcir_mohm=66,
                            mass_g=36.4),
                BenchResult(label="specimen 2", day=date(2026, 3, 14), capacity_mah=1395, load_a=0.5, dcir_mohm=71,
                            mass_g=36.1),
            ),
        ),
    )  # fmt: skip


ARRIVED = PackState(temperature_c=20)
"""Packs come from indoors."""


def _designs() -> tuple[Design, ...]:
    shore = Conditions(air_temperature_c=12, altitude_m=40, wind_m_s=4, wind_from_deg=240, gust_m_s=2)
    return (
        *_whimbrels(),
        *_dunlins(),
        Design(
            id="turnstone-shoreline",
            name="Turnstone, shoreline",
            sample=True,
            craft_id="turnstone",
            mission_id="shoreline-run",
            packs=(
                Pack(
                    cell_type_id="fell-21-49e",
                    recipe=PackRecipe(
                        series_count=4,
                        parallel_count=2,
                        strip=Strip(layers=2),
                        leads=Leads(gauge_awg=14, length_mm=120, connector=ConnectorClass.A60),
                    ),
                    state=ARRIVED,
                    cooling=Cooling.CLOSED,
                ),
            ),
            conditions=shore,
            landing=LandingRule(policy=LandingPolicy.GENTLE),
        ),
    )


def _whimbrels() -> tuple[Design, Design]:
    """The transect on cells of much power, and on cells of more energy at less throttle."""
    estuary = _estuary()
    long_leads = Leads(gauge_awg=12, length_mm=160, connector=ConnectorClass.A90)

    def pack(cell_type_id: str, layers: int) -> Pack:
        recipe = PackRecipe(
            series_count=4, parallel_count=3, welds=6, strip=Strip(layers=layers), leads=long_leads
        )  # fmt: skip
        return Pack(cell_type_id=cell_type_id, recipe=recipe, state=ARRIVED)

    transect = Design(
        id=FIRST_DESIGN_ID, name="Whimbrel, long transect", sample=True, craft_id="whimbrel",
        mission_id="north-transect", packs=(pack("fell-21-45p", 2),), conditions=estuary,
        landing=LandingRule(policy=LandingPolicy.GENTLE),
    )  # fmt: skip
    energy = transect.changed(
        id="whimbrel-energy", name="Whimbrel, energy cells", packs=(pack("fell-21-50e", 1),),
        conditions=estuary.changed(throttle_percent=90),
    )  # fmt: skip
    return transect, energy


def _dunlins() -> tuple[Design, ...]:
    """The scout with a built pack, with its own battery, and with both."""
    estuary = _estuary()
    own_battery = Pack(
        role=PackRole.OWN, name="own battery", cell_type_id="reed-2s-2800",
        recipe=PackRecipe(series_count=2, leads=Leads(connector=ConnectorClass.A30)),
        state=ARRIVED, cooling=Cooling.CLOSED,
    )  # fmt: skip
    return (
        Design(
            id="dunlin-scout",
            name="Dunlin, scout",
            sample=True,
            craft_id="dunlin",
            mission_id="colony-scout",
            packs=(
                Pack(
                    cell_type_id="tarn-18-29p",
                    recipe=PackRecipe(
                        series_count=2,
                        parallel_count=1,
                        strip=Strip(layers=2),
                        leads=Leads(gauge_awg=16, length_mm=90, connector=ConnectorClass.A30),
                    ),
                    state=ARRIVED,
                ),
            ),
            conditions=estuary,
            landing=LandingRule(policy=LandingPolicy.BALANCED),
        ),
        Design(
            id="dunlin-own",
            name="Dunlin, own battery",
            sample=True,
            craft_id="dunlin",
            mission_id="colony-scout",
            packs=(Pack(cell_type_id="reed-2s-2800", recipe=own_battery.recipe, state=ARRIVED),),
            conditions=estuary,
        ),
        _dunlin_extended(own_battery),
    )


def _dunlin_extended(own_battery: Pack) -> Design:
    """The scout with an auxiliary beside its own battery, and a day in the field."""
    return Design(
        id=EXTENDED_DESIGN_ID,
        name="Dunlin, extended",
        sample=True,
        craft_id="dunlin",
        mission_id="colony-scout",
        packs=(
            Pack(
                cell_type_id="tarn-18-29p",
                recipe=PackRecipe(
                    series_count=2,
                    parallel_count=1,
                    strip=Strip(layers=2),
                    leads=Leads(gauge_awg=18, length_mm=140, connector=ConnectorClass.A30, fuse_a=15),
                    fittings=Fittings(straps=1, mount_g=4),
                ),
                state=ARRIVED,
                role=PackRole.AUXILIARY,
            ),
            own_battery,
        ),
        landing=LandingRule(policy=LandingPolicy.GENTLE, least_margin=1.3),
        taken_off=(Part(name="Canopy lid, in the auxiliary's way", mass_g=6),),
        conditions=_estuary(),
        search=SearchChoice(cell_ids=("tarn-18-29p", "tarn-18-33e", "fell-18-35e")),
        charger=Charger(count=2, current_a=5, power_w=60),
        day=FieldDay(
            length_h=6,
            sets=(DaySet(count=1), DaySet(design_id="dunlin-own", count=2), DaySet(design_id="dunlin-scout")),
        ),
    )


def _estuary() -> Conditions:
    return Conditions(air_temperature_c=12, altitude_m=40, wind_m_s=4)


def complete_sample(identifier: str) -> CompleteDesign:
    """A design of the sample world with the documents it names; raises ``KeyError`` where there is none."""
    found: dict[str, Any] = {document.id: document for document in survey_documents()}  # type: ignore[attr-defined]
    design = found[identifier]
    cells = dict.fromkeys(pack.cell_type_id for pack in design.packs)
    return CompleteDesign(
        design=design,
        craft=found[design.craft_id],
        cells=tuple(found[cell] for cell in cells),
        mission=found[design.mission_id],
    )
