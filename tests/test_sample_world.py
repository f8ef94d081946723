"""The sample world: complete, invented, marked, plausible."""

from __future__ import annotations

import pytest

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, Mission
from wise_cellar.core.flight import Ending, answer
from wise_cellar.demo import FIRST_DESIGN_ID, sample_documents

DOCUMENTS = {document.id: document for document in sample_documents()}  # type: ignore[attr-defined]


def of(model: type) -> list:  # type: ignore[type-arg]
    return [document for document in DOCUMENTS.values() if isinstance(document, model)]


def whole(identifier: str) -> CompleteDesign:
    design = DOCUMENTS[identifier]
    assert isinstance(design, Design)
    return CompleteDesign(
        design=design,
        craft=DOCUMENTS[design.craft_id],
        cell_type=DOCUMENTS[design.cell_type_id],
        mission=DOCUMENTS[design.mission_id],
    )


def test_what_is_there() -> None:
    assert {craft.name for craft in of(Craft)} == {"Whimbrel", "Dunlin"}
    assert len(of(CellType)) >= 6
    assert len(of(Mission)) >= 2
    assert len(of(Design)) == 3
    assert FIRST_DESIGN_ID in DOCUMENTS
    assert len(DOCUMENTS) == len(sample_documents()), "identifiers are unique"


def test_everything_is_marked_as_sample_data() -> None:
    assert all(document.sample for document in DOCUMENTS.values())


def test_cells_are_by_the_invented_makers_and_plausible_for_their_size() -> None:
    for cell in of(CellType):
        assert cell.name.split()[0] in ("Tarn", "Fell")
        energy = cell.capacity_mah / 1000 * 3.6 / cell.mass_g * 1000
        assert 180 < energy < 280, "Wh/kg"
        assert cell.continuous_current_a**2 * cell.dcir_mohm * 1e-3 < 30, "watts of heat at the rating"


def test_craft_weigh_what_the_design_says() -> None:
    dry = {craft.name: craft.dry_mass_g for craft in of(Craft)}
    assert dry == {"Whimbrel": 1150, "Dunlin": 165}


@pytest.mark.parametrize("identifier", [d.id for d in of(Design)])
def test_designs_fly_and_land_by_their_rule(identifier: str) -> None:
    found = answer(whole(identifier))
    assert found.reason.ending is Ending.RESERVE_REACHED
    assert 10 < found.duration_s / 60 < 60
    assert found.calibration is None or found.calibration.plausible


def test_the_first_design_is_sound_and_the_energy_cells_are_caught() -> None:
    first = answer(whole(FIRST_DESIGN_ID))
    assert not [f for f in first.findings if f.severity == "over a limit"]
    caught = [f.sentence for f in answer(whole("whimbrel-energy")).findings if f.severity == "over a limit"]
    assert any(sentence.startswith("Cell:") for sentence in caught), "low-drain cells fail at the first throttle"


def test_dunlin_stays_in_its_mass_class() -> None:
    assert answer(whole("dunlin-scout")).takeoff_mass_g < 400
