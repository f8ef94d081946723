"""Cells: the shelf, what each cell is worth at this craft's load, and the sheet of the present one."""

from wise_cellar.ui.stations.doorway import Doorway, Page, StationCommand
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Cells",
    prefixes=("cells.0", "design.packs.0.cell_type_id"),
    search_words="shelf battery types datasheet curves discharge capacity",
    pages=(
        Page("Claims", "label true rated current honest lie"),
        Page("Sheet", "datasheet values sources mass size"),
        Page("Discharges", "curves log import fit"),
        Page("Bench", "measured specimens capacity test"),
        Page("Its own discharges", "curves log bench test measured fit"),
    ),
    walk=(
        WalkStep(
            "Each row is a cell in this craft. Take another one: choose a row and press Enter.",
            lambda began, now: began.complete.pack.cell.id != now.complete.pack.cell.id,
        ),
    ),
    module="wise_cellar.ui.stations.cells.station",
    name="CellsStation",
    commands=(
        StationCommand(
            "&File", "Export the shelf as a table…", lambda cells: cells.files.ask_table_out(), changes=False
        ),
        StationCommand("&Design", "Add a cell type", lambda cells: cells.add_like_present(), separated=True),
        StationCommand("&Design", "Import discharges of this cell…", lambda cells: cells.files.ask_import()),
        StationCommand("&Design", "Trace a printed chart of this cell…", lambda cells: cells.files.open_trace()),
        StationCommand("&Design", "Fit this cell to its discharges", lambda cells: cells.fit()),
    ),
    takes_in=lambda cells, paths: cells.files.take_in(paths),
)
