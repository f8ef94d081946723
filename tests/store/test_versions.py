"""Workspaces and exports that earlier versions wrote are read, and mean what they meant."""

from __future__ import annotations

import gzip
from contextlib import closing
from pathlib import Path

import pytest

from tests.frozen import document_of, kept_answers, numbers
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CompleteDesign, Design, DocumentError, PackRole, import_text
from wise_cellar.core.documents.exchange import newest_version
from wise_cellar.store import Workspace
from wise_cellar.store.library import Library

VERSIONS = Path(__file__).parent.parent / "data" / "versions"


EARLIER = range(1, newest_version(Design))


def test_every_earlier_version_is_kept() -> None:
    kept = {path.name for path in VERSIONS.iterdir()}
    assert kept == {
        name for version in EARLIER for name in (f"design-{version}.json", f"workspace-{version}.cellar.gz")
    }


@pytest.mark.parametrize("version", EARLIER)
def test_an_export_is_read(version: int) -> None:
    read = import_text((VERSIONS / f"design-{version}.json").read_text(encoding="utf-8")).document
    assert isinstance(read, CompleteDesign)
    assert read.design.schema_version == 6
    if version < 4:
        (pack,) = read.packs
        assert (pack.role, pack.recipe.series_count, pack.recipe.parallel_count) == (PackRole.ALONE, 4, 3)
        assert (pack.cell.id, pack.temperature_c, read.design.conditions.air_temperature_c) == ("fell-21-45p", 20, 12)
    else:
        built, own = read.packs
        assert [built.role, own.role] == [PackRole.AUXILIARY, PackRole.OWN]
        cells = ("tarn-18-33e", "reed-2s-1900-hv") if version == 4 else ("tarn-18-29p", "reed-2s-2800")
        assert (built.cell.id, own.cell.id) == cells
        assert read.own_battery == own
    if version == 4:
        assert (own.state.start_charge_percent, str(own.of.cooling)) == (88, "inside a closed bay")
    assert answer(read).duration_s > 300


@pytest.mark.parametrize("version", EARLIER)
def test_a_workspace_is_read_whole(version: int, tmp_path: Path) -> None:
    path = tmp_path / "old.cellar"
    path.write_bytes(gzip.decompress((VERSIONS / f"workspace-{version}.cellar.gz").read_bytes()))
    with closing(Workspace.open(path)) as workspace:
        library = Library(workspace.read())
        assert not library.broken
        designs = library.all(Design)
        assert {"whimbrel-transect", "whimbrel-energy", "dunlin-scout"} <= designs.keys()
        for design in designs.values():
            assert library.assembled(design).pack.cell.id == design.packs[0].cell_type_id


def test_answers_are_what_they_were() -> None:
    """A few of those that ``python -m tests.frozen`` compares: every number, of designs written by version 4."""
    kept = kept_answers()["designs"]
    for entry in [*kept[:6], *kept[6::40]]:
        found = numbers(answer(document_of(entry)))
        before = {name: value for name, value in entry["values"].items() if name in found}
        assert len(before) > 100
        assert found == pytest.approx(before, rel=1e-9, abs=1e-9, nan_ok=True)


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("beside", "none", "Packs must be a list; “none” is not"),
        ("conditions", 3, "Conditions must be an object with named fields"),
        ("beside", ["own"], r"must be an object with named fields; “own” is not"),
    ],
)
def test_what_an_earlier_version_could_not_have_written_is_refused(field: str, value: object, says: str) -> None:
    text = (VERSIONS / "design-4.json").read_text(encoding="utf-8")
    data = import_text(text).document.model_dump(mode="json")["design"]
    data |= {"schema_version": 4, "cell_type_id": "cell"}
    data.pop("packs")
    with pytest.raises(DocumentError, match=says):
        Design.from_data(data | {field: value})
