"""The Pack station, through its real widgets."""

from __future__ import annotations

import itertools
import re

import pytest
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from tests.ui.conftest import field, type_into
from wise_cellar.core.advice import study_pack
from wise_cellar.core.documents import Arrangement, Balance, Joint, Underlay, Wing
from wise_cellar.core.pack import SCHOOLS, Face, RunKind, balance_of, build_pack, run_heats
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.pack.advice_panel import outcome_words
from wise_cellar.ui.stations.pack.alternatives_view import card_words
from wise_cellar.ui.stations.pack.chain_view import link_tip, link_words
from wise_cellar.ui.stations.pack.controls import BAY, FITTINGS, JOINING, LEADS, PLACEMENT
from wise_cellar.ui.stations.pack.station import PackStation
from wise_cellar.ui.widgets.faces import MARGIN, lead_line, place_faces, tap_spots

STATION = "Pack"


@pytest.fixture
def pack(window: MainWindow) -> PackStation:
    window.show_station(3)
    station = window.stations[3]
    assert isinstance(station, PackStation)
    return station


def settle(pack: PackStation, qtbot: QtBot) -> None:
    """Wait until the proposals are flown."""
    qtbot.waitUntil(lambda: pack.settled and pack.study is not None, timeout=20000)


def said(pack: PackStation) -> str:
    """The sentences of the panel that is shown when there is something to look at."""
    return "\n".join(label.text() for label in pack.findings_sheet.findChildren(QLabel))


def drag(qtbot: QtBot, pack: PackStation, start: QPoint, end: QPoint) -> None:
    qtbot.mousePress(pack.drawing, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(pack.drawing, end)
    qtbot.mouseMove(pack.drawing, end)
    qtbot.mouseRelease(pack.drawing, Qt.MouseButton.LeftButton, pos=end)


def test_both_faces_are_drawn_to_one_scale_inside_the_picture(window: MainWindow) -> None:
    for series, parallel in ((4, 3), (6, 2), (12, 4), (1, 1), (20, 12)):
        recipe = window.session.complete.pack.recipe.model_copy(
            update={"series_count": series, "parallel_count": parallel}
        )
        build = build_pack(recipe, window.session.complete.pack.cell)
        top, underside = place_faces(build, 690, 320)
        assert top.scale == underside.scale
        radius = build.cell.diameter_mm / 2 * top.scale
        for view in (top, underside):
            for cell in build.layout.cells:
                point = view.at((cell.x_mm, cell.y_mm))
                assert point.x() - radius >= MARGIN * 0.9
                assert point.x() + radius <= 690 - MARGIN * 0.9
                assert point.y() + radius <= 320


def test_leads_end_before_the_next_face_and_the_edge(window: MainWindow) -> None:
    for series, parallel, (wide, high) in itertools.product((4, 6, 1), (3, 1), ((690, 320), (1350, 700), (700, 1400))):
        recipe = window.session.complete.pack.recipe.model_copy(
            update={"series_count": series, "parallel_count": parallel}
        )
        build = build_pack(recipe, window.session.complete.pack.cell)
        views = place_faces(build, wide, high)
        bodies = [view.body(build.layout, cell) for view in views for cell in build.layout.cells]
        for view, terminal in itertools.product(views, (build.layout.negative, build.layout.positive)):
            if terminal is not None and build.layout.face_of(terminal) == (view.tier, view.face):
                _, tip = lead_line(build.layout, view, terminal)
                assert QRectF(0, 0, wide, high).contains(tip)
                assert not any(body.adjusted(-8, -8, 8, 8).contains(tip) for body in bodies)


def test_the_underside_is_mirrored(pack: PackStation, window: MainWindow) -> None:
    top, underside = pack.drawing.views()
    cell = window.session.answer.build.layout.cells[0]
    assert not top.turned
    from_left = top.at((cell.x_mm, cell.y_mm)).x() - top.origin.x()
    from_right = underside.origin.x() + underside.along_mm * underside.scale - underside.at((cell.x_mm, cell.y_mm)).x()
    assert from_left == pytest.approx(from_right)


def test_the_pointer_tells_the_cell_and_its_end(pack: PackStation, window: MainWindow) -> None:
    top, underside = pack.drawing.views()
    first = window.session.answer.build.layout.cells[0]
    on_top = pack.drawing.text_at(top.at((first.x_mm, first.y_mm)))
    below = pack.drawing.text_at(underside.at((first.x_mm, first.y_mm)))
    assert on_top.startswith("Cell 1, group 1 of 4, negative end\n")
    assert below.startswith("Cell 1, group 1 of 4, positive end\n")
    circuit, currents = window.session.answer.build.interconnect, window.session.answer.currents
    assert f"{circuit.cell_a[0] * currents.cruise_a:.1f} A at cruise" in on_top
    assert pack.drawing.text_at(QPointF(1, 1)) == ""
    assert (top.face, underside.face) == (Face.TOP, Face.UNDERSIDE)


def test_the_ledgers_are_the_build(pack: PackStation, window: MainWindow) -> None:
    build = window.session.answer.build
    assert {row.name for row in pack.masses.rows} == {entry.name for entry in build.masses}
    grams = [row.share for row in pack.masses.rows]
    assert grams == sorted(grams, reverse=True), "the heaviest first"
    assert sum(row.share for row in pack.masses.rows) == pytest.approx(1)
    assert sum(row.share for row in pack.resistances.rows) == pytest.approx(1)
    assert "12 cells\t834.0 g" in pack.masses.as_text()
    pack.masses.copy()
    assert QApplication.clipboard().text() == pack.masses.as_text()  # type: ignore[union-attr]


def test_numbers_move_when_the_strip_does(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    strips = next(row for row in pack.resistances.rows if row.name == "Strips").values
    type_into(qtbot, field(window, "design.packs.0.recipe.strip.layers"), "1")
    assert next(row for row in pack.resistances.rows if row.name == "Strips").values != strips
    strip = next(link for link in window.session.answer.links if link.name.startswith("Strips"))
    assert strip.nodes, "and the strip of the chain is that of the new layers"


def test_a_click_on_a_link_goes_to_its_field(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    place = [link.name for link in window.session.answer.links].index("Connector, 90 A class")
    qtbot.mouseClick(
        pack.chain, Qt.MouseButton.LeftButton, pos=QPoint(40, pack.chain.top + pack.chain.row * place + 10)
    )
    assert QApplication.focusWidget() is field(window, "design.packs.0.recipe.leads.connector").entry
    esc = [link.name for link in window.session.answer.links].index("ESC")
    middle = pack.chain.top + pack.chain.row * esc + 10
    qtbot.mouseClick(pack.chain, Qt.MouseButton.LeftButton, pos=QPoint(40, middle))
    assert window.stations[window.stack.currentIndex()].title == "Craft"


def test_chain_and_ledger_by_keyboard(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    pack.masses.setFocus()
    for key in (Qt.Key.Key_Home, Qt.Key.Key_Down, Qt.Key.Key_Down, Qt.Key.Key_Return):
        qtbot.keyClick(pack.masses, key)
    assert QApplication.focusWidget() is field(window, "design.packs.0.recipe.leads.gauge_awg").entry
    pack.chain.setFocus()
    qtbot.keyClick(pack.chain, Qt.Key.Key_Home)
    qtbot.keyClick(pack.chain, Qt.Key.Key_Return)
    assert QApplication.focusWidget() is field(window, "cells.0.continuous_current_a").entry


def test_links_say_their_worse_side_and_how_long_a_punch_may_last(window: MainWindow) -> None:
    for link in window.session.answer.links:
        words, tip = link_words(link), link_tip(link)
        assert words == link.words or f"{max(link.cruise_a, link.punch_a):.0f}" in words or "cruise" in words
        assert f"{link.punch_a:.1f} A" in tip
        if link.allowed_s is not None and link.allowed_s < 100:
            assert words.endswith(f", {link.allowed_s:.0f} s")


def test_a_pack_too_large_for_the_bay_is_said(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    assert "Fits Whimbrel's bay" in pack.fit.text()
    assert pack.findings_sheet.isHidden()
    window.session.edit("craft.bay.width_mm", 50)
    window.session.edit("craft.bay.length_mm", 120)
    assert not pack.findings_sheet.isHidden()
    assert "does not go into Whimbrel's bay of 120 × 50 × 80 mm" in said(pack)
    settle(pack, qtbot)
    best = pack.study.largest
    assert best is not None
    assert f"{best.recipe.series_count}S {best.recipe.parallel_count}P would, in {best.words}" in (
        pack.controls.ways_words.text()
    )


@pytest.mark.parametrize("joint", list(Joint))
def test_each_joint_says_its_caution_and_what_it_costs(pack: PackStation, window: MainWindow, joint: Joint) -> None:
    box = field(window, "design.packs.0.recipe.joint").entry
    place = list(Joint).index(joint)
    box.setCurrentIndex(place)
    box.activated.emit(place)
    assert window.session.complete.pack.recipe.joint is joint
    pack.controls.groups.choose(JOINING)
    assert SCHOOLS[joint].caution in [line.text for line in pack.care.lines]
    schools = [
        line for line in pack.care.lines if any(s.heat in line.text and s.apart in line.text for s in SCHOOLS.values())
    ]
    assert len(schools) == len(SCHOOLS), "all side by side"
    assert [SCHOOLS[joint].tools in line.text for line in schools] == [line.strong for line in schools]
    assert field(window, "design.packs.0.recipe.welds").isHidden() == (joint is not Joint.SPOT_WELD)


# Groups of fields


def test_going_to_a_field_brings_its_group_into_view(pack: PackStation, window: MainWindow) -> None:
    for path, group in (
        ("design.packs.0.recipe.leads.exit", LEADS), ("design.packs.0.recipe.strip.metal", JOINING),
        ("design.packs.0.recipe.weighed_g", FITTINGS), ("design.packs.0.recipe.fittings.shift_mm", BAY),
        ("design.packs.0.recipe.tiers", PLACEMENT),
    ):  # fmt: skip
        assert pack.focus_field(path)
        assert pack.controls.groups.current == group
        assert field(window, path).isVisible()


def test_what_does_not_apply_is_not_offered(pack: PackStation, window: MainWindow) -> None:
    window.session.edit("design.packs.0.recipe.strip.underlay", Underlay.BRAID)
    assert not field(window, "design.packs.0.recipe.strip.underlay_width_mm").isHidden()
    window.session.edit("design.packs.0.cell_type_id", "reed-4s-5200")
    assert not field(window, "design.packs.0.recipe.strip.metal").isEnabled()
    assert field(window, "design.packs.0.recipe.leads.connector").isEnabled()
    pack.controls.groups.choose(JOINING)
    assert "not opened or re-joined" in pack.care.lines[0].text


@pytest.mark.parametrize(
    ("path", "typed", "says"),
    [
        ("design.packs.0.recipe.strip.width_mm", "0", "Strip width"),
        ("design.packs.0.recipe.strip.thickness_mm", "9 mm", "must be at most 3\u00a0mm"),
        ("design.packs.0.recipe.leads.length_mm", "5 km", "is not a unit of a length"),
        ("design.packs.0.recipe.tiers", "3", "Layers of cells"),
        ("design.packs.0.recipe.fittings.shrink_mm", "thin", "is not a number"),
    ],
)
def test_absurd_sizes_are_refused_where_they_are_typed(
    pack: PackStation, window: MainWindow, qtbot: QtBot, path: str, typed: str, says: str
) -> None:
    before = window.session.complete
    pack.focus_field(path)
    type_into(qtbot, field(window, path), typed)
    assert says in field(window, path).error_text()
    assert window.session.complete == before


def test_a_weighed_pack_is_compared_and_the_rest_can_be_counted(
    pack: PackStation, window: MainWindow, qtbot: QtBot
) -> None:
    pack.focus_field("design.packs.0.recipe.weighed_g")
    type_into(qtbot, field(window, "design.packs.0.recipe.weighed_g"), "930 g")
    apart = 930 - window.session.answer.build.parts_g
    assert window.session.answer.build.mass_g == pytest.approx(930), "the weighed mass flies"
    assert f"+{apart:.1f} g" in pack.controls.weighed_words.text()
    assert "weighed at 930 g" in said(pack)
    qtbot.mouseClick(pack.controls.count_button, Qt.MouseButton.LeftButton)
    assert window.session.answer.build.parts_g == pytest.approx(930, abs=0.06)
    assert pack.findings_sheet.isHidden()
    window.session.undo()
    assert window.session.value("design.packs.0.recipe.fittings.other_g") == 0


def test_the_label_tells_energy_and_short_circuit(pack: PackStation, window: MainWindow) -> None:
    build = window.session.answer.build
    assert f"{build.energy_wh:.0f} Wh" in pack.label_words.text()
    assert f"{build.short_circuit_a:.0f} A through a short circuit" in pack.label_words.text()
    before = build.short_circuit_a
    window.session.edit("design.packs.0.recipe.leads.gauge_awg", 18)
    assert window.session.answer.build.short_circuit_a < before


# Other arrangements


def test_an_arrangement_is_taken_with_a_click_and_by_key(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    settle(pack, qtbot)
    view = pack.controls.alternatives
    present = window.session.answer.build.layout
    other = next(way for way in view.shown if way.layout.cells != present.cells)
    place = view.shown.index(other)
    view.setFocus()
    for _ in range(place):
        qtbot.keyClick(view, Qt.Key.Key_Right)
    qtbot.keyClick(view, Qt.Key.Key_Return)
    assert window.session.answer.build.layout.cells == other.layout.cells
    assert window.session.value("design.packs.0.recipe.arrangement") is other.recipe.arrangement
    window.session.undo()
    assert window.session.answer.build.layout == present
    settle(pack, qtbot)
    view.clearFocus()
    first = view.shown[view.first]
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(20, 20))
    assert window.session.answer.build.layout.cells == first.layout.cells


def test_cards_say_size_room_and_strip(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("craft.balance", Balance())
    settle(pack, qtbot)
    for way in pack.controls.alternatives.shown:
        words = card_words(way)
        assert f"{way.layout.length_mm:.0f} × " in words
        assert ("does not fit" in words) == (not way.fits)
        assert "balance at" in words


# By hand


def test_cells_are_placed_by_dragging_and_turned_with_a_double_click(
    pack: PackStation, window: MainWindow, qtbot: QtBot
) -> None:
    qtbot.mouseClick(pack.controls.by_hand, Qt.MouseButton.LeftButton)
    assert window.session.value("design.packs.0.recipe.arrangement") is Arrangement.OWN
    assert len(window.session.value("design.packs.0.recipe.own_places")) == 12
    layout, (view, *_) = window.session.answer.build.layout, pack.drawing.views()
    last = layout.cells[11]
    start = view.at((last.x_mm, last.y_mm)).toPoint()
    end = view.at((last.x_mm + 2 * layout.pitch_mm, last.y_mm)).toPoint()
    drag(qtbot, pack, start, end)
    moved = window.session.value("design.packs.0.recipe.own_places")[11]
    assert moved.x == 10, "four half pitches on"
    assert "Link 4: no strip reaches" in said(pack)
    assert any(run.kind is RunKind.WIRE for run in window.session.answer.build.layout.strips)
    window.session.undo()
    assert pack.findings_sheet.isHidden()
    spot = pack.drawing.views()[0].at((layout.cells[0].x_mm, layout.cells[0].y_mm)).toPoint()
    qtbot.mouseDClick(pack.drawing, Qt.MouseButton.LeftButton, pos=spot)
    assert window.session.value("design.packs.0.recipe.own_places")[0].positive_up != layout.cells[0].positive_up


def test_a_cell_put_on_another_stays_where_it_was_with_a_sentence(
    pack: PackStation, window: MainWindow, qtbot: QtBot
) -> None:
    qtbot.mouseClick(pack.controls.by_hand, Qt.MouseButton.LeftButton)
    before = window.session.complete
    pack.drawing.move_asked.emit(0, 1, 0)
    assert "would stand in each other" in pack.error.text()
    assert not pack.error.isHidden()
    assert window.session.complete == before


def test_cells_are_placed_by_key_and_on_the_underside_too(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    drawing = pack.drawing
    drawing.setFocus(Qt.FocusReason.TabFocusReason)
    assert drawing.chosen == 0
    qtbot.keyClick(drawing, Qt.Key.Key_Right)
    assert window.session.answer.build.layout.cells[drawing.chosen].group == 1
    qtbot.keyClick(drawing, Qt.Key.Key_T)
    assert window.session.value("design.packs.0.recipe.arrangement") is Arrangement.SQUARE, "only by hand"
    qtbot.mouseClick(pack.controls.by_hand, Qt.MouseButton.LeftButton)
    drawing.chosen = 0
    qtbot.keyClick(drawing, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    places = window.session.value("design.packs.0.recipe.own_places")
    assert (places[0].x, places[1].x) == (0, 1), "the grid begins at the outermost cell"
    qtbot.keyClick(drawing, Qt.Key.Key_T)
    assert window.session.value("design.packs.0.recipe.own_places")[0].positive_up is True
    assert "Cell 1, group 1 of 4" in drawing.accessibleDescription()
    window.session.undo()
    window.session.undo()
    layout, (_, underside) = window.session.answer.build.layout, drawing.views()
    corner = layout.cells[11]
    start = underside.at((corner.x_mm, corner.y_mm)).toPoint()
    ahead = underside.at((corner.x_mm + layout.pitch_mm, corner.y_mm)).toPoint()
    drag(qtbot, pack, start, ahead)
    assert window.session.value("design.packs.0.recipe.own_places")[11].x == 8, "mirrored, it goes the same way"


# What is drawn


def test_the_pointer_tells_what_a_strip_carries(pack: PackStation, window: MainWindow) -> None:
    answer, (view, _) = window.session.answer, pack.drawing.views()
    layout, heats = answer.build.layout, run_heats(answer.build, answer.currents)
    place = next(n for n, run in enumerate(layout.strips) if run.kind is RunKind.LINK and run.face is Face.TOP)
    run = layout.strips[place]
    middle = view.at(((run.start_mm[0] + run.end_mm[0]) / 2, run.start_mm[1]))
    words = pack.drawing.text_at(middle)
    assert f"Strip from group {run.node} to group {run.node + 1}, 2 layers" in words
    assert f"{heats[place].cruise_a:.1f} A at cruise, {heats[place].punch_a:.0f} A in a punch" in words
    assert f"+{heats[place].punch_rise_k:.0f} K after 4 s" in words


@pytest.mark.parametrize(
    "changes",
    [
        {"series_count": 6, "parallel_count": 2, "arrangement": Arrangement.STAGGERED},
        {"series_count": 12, "parallel_count": 4},
        {"series_count": 1, "parallel_count": 1, "joint": Joint.SPRING_HOLDER},
        {"series_count": 7, "parallel_count": 3, "tiers": 2},
        {"series_count": 5, "parallel_count": 2, "arrangement": Arrangement.STICKS, "tiers": 2},
        {"series_count": 20, "parallel_count": 12},
    ],
)
def test_every_pack_is_drawn_with_each_strip_on_some_face_and_each_tap_once(
    pack: PackStation, window: MainWindow, changes: dict[str, object]
) -> None:
    recipe = window.session.complete.pack.recipe.model_copy(update=changes)
    window.session.edit("design.packs.0.recipe", recipe)
    layout, views = window.session.answer.build.layout, pack.drawing.views()
    for run in layout.strips:
        assert any(view.shows(layout, run) for view in views)
        for view in views:
            if view.shows(layout, run):
                assert any(view.body(layout, cell).contains(view.at(run.start_mm)) for cell in layout.cells) or (
                    layout.lying
                )
    taps = [node for view in views for node in tap_spots(window.session.answer.build.layout, view)]
    assert sorted(set(taps)) == list(range(recipe.series_count + 1))
    image = pack.drawing.grab().toImage()
    colours = {image.pixelColor(x, y).name() for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}
    assert len(colours) > 3


def test_a_pack_wider_than_long_is_drawn_along_the_screen(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("design.packs.0.recipe.bands", 4)
    top, underside = pack.drawing.views()
    layout = window.session.answer.build.layout
    assert top.turned
    first, last = layout.cells[0], layout.cells[-1]
    assert last.y_mm > first.y_mm
    assert top.at((last.x_mm, last.y_mm)).x() > top.at((first.x_mm, first.y_mm)).x()
    assert underside.at((last.x_mm, last.y_mm)).x() < underside.at((first.x_mm, first.y_mm)).x()
    for view in (top, underside):
        assert view.back(view.at((12.0, 34.0))) == pytest.approx((12.0, 34.0))
    pack.drawing.setFocus()
    pack.drawing.chosen = 0
    qtbot.keyClick(pack.drawing, Qt.Key.Key_Right)
    assert layout.cells[pack.drawing.chosen].y_mm > first.y_mm


def test_faces_do_not_overlap(window: MainWindow) -> None:
    recipe = window.session.complete.pack.recipe.model_copy(update={"series_count": 6, "tiers": 2})
    views = place_faces(build_pack(recipe, window.session.complete.pack.cell), 690, 320)
    assert [(view.tier, view.face) for view in views] == [
        (1, Face.TOP), (1, Face.UNDERSIDE), (0, Face.TOP), (0, Face.UNDERSIDE)
    ]  # fmt: skip
    origins = {(round(view.origin.x()), round(view.origin.y())) for view in views}
    assert len(origins) == 4


# Advice


def test_do_that_clears_the_link_and_can_be_undone(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    window.session.edit("design.packs.0.recipe.leads.gauge_awg", 18)
    assert pack.advice.outcomes == (), "those of the design before are gone"
    settle(pack, qtbot)
    cure = pack.advice.outcomes[0]
    assert f"Weakest link: {window.session.answer.weak_link.name}. This clears it" in pack.advice.words.text()
    assert outcome_words(cure).startswith(f"{cure.proposal.words}: +")
    before = window.session.answer
    qtbot.mouseClick(
        next(b for b in pack.advice.findChildren(QPushButton) if b.text() == "Do that"), Qt.MouseButton.LeftButton
    )
    after = window.session.answer
    assert after.takeoff_mass_g - before.takeoff_mass_g == pytest.approx(cure.added_g)
    assert after.duration_s - before.duration_s == pytest.approx(cure.gain_s, abs=1e-6)
    assert max(link.worst_share for link in after.links if link.name.startswith("Lead")) < 0.85
    window.session.undo()
    assert window.session.answer.weak_link == before.weak_link


def test_seconds_lost_stand_in_the_ledger_once_they_are_flown(
    pack: PackStation, window: MainWindow, qtbot: QtBot
) -> None:
    window.session.edit("design.packs.0.recipe.leads.length_mm", 300)
    assert {row.values[-1] for row in pack.resistances.rows} == {"…"}
    settle(pack, qtbot)
    lost = [float(row.values[-1].replace("−", "-")) for row in pack.resistances.rows]
    assert lost == sorted(lost, reverse=True), "what costs most first"
    assert lost[1] > 20, "300 mm of leads"
    assert pack.resistances.rows[1].name == "Leads"


def test_a_stale_study_is_dropped(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    for layers in (1, 2, 3, 1):
        window.session.edit("design.packs.0.recipe.strip.layers", layers)
    settle(pack, qtbot)
    assert pack.study is not None
    alone = study_pack(window.session.complete, window.session.answer)
    assert pack.study.cure == alone.cure


# The bay and the balance point


def test_the_bay_tells_how_the_craft_turns(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    """A heavier pack turns it more slowly and loads its discs more; a wing turns by its surfaces."""
    pack.controls.groups.choose(BAY)
    words = pack.controls.handling_words

    def told(pattern: str) -> float:
        found = re.search(pattern, words.text())
        assert found is not None, words.text()
        return float(found[1].replace("−", "-"))

    patterns = (r"pitch ([−+]?\d+)", r"([\d.]+) × the weight", r"(\d+) g/dm² of disc")
    pitch, thrust, loading = map(told, patterns)
    type_into(qtbot, field(window, "design.packs.0.recipe.weighed_g"), "1900")
    assert told(patterns[0]) < pitch
    assert told(patterns[1]) < thrust
    assert told(patterns[2]) > loading
    assert "g·m²" in words.toolTip()
    window.session.edit("craft.known_flights", ())
    window.session.edit("craft.wing", Wing(area_dm2=40, span_mm=2000))
    assert words.text() == ""


def test_the_bay_tells_the_balance_point_and_the_ballast(pack: PackStation, window: MainWindow, qtbot: QtBot) -> None:
    pack.controls.groups.choose(BAY)
    window.session.edit("craft.balance", None)
    assert "tells no balance point yet" in pack.controls.balance_words.text()
    window.session.edit("craft.balance", Balance(dry_mm=-12, bay_mm=0, tolerance_mm=3, ballast_at_mm=150))
    assert "behind where it should" in said(pack)
    point = balance_of(window.session.complete, window.session.answer.build)
    assert point is not None
    assert f"{point.ballast_g:.0f} g of ballast 150 mm ahead would bring it back" in pack.controls.balance_words.text()
    window.session.edit("craft.bay.keep_outs", ())
    pack.focus_field("design.packs.0.recipe.fittings.shift_mm")
    type_into(qtbot, field(window, "design.packs.0.recipe.fittings.shift_mm"), "1.6 cm")
    assert pack.findings_sheet.isHidden()
    window.session.edit("craft.balance", Balance(dry_mm=6, bay_mm=0, ballast_at_mm=150, ballast_g=200))
    assert "g of the ballast 150 mm ahead can go" in pack.controls.balance_words.text()
    assert pack.controls.bay_view.grab().toImage().width() > 100


def test_a_part_is_kept_free_from_the_craft_station(window: MainWindow, qtbot: QtBot) -> None:
    window.show_station(1)
    craft = window.stations[1]
    craft.fields()  # those below the edge too
    craft.keep_outs.add_row()  # type: ignore[attr-defined]
    path = "craft.bay.keep_outs.1"
    for name, typed in (("x_mm", "30"), ("y_mm", "0"), ("length_mm", "90"), ("width_mm", "75")):
        type_into(qtbot, field(window, f"{path}.{name}"), typed)
    pack = window.stations[3]
    assert isinstance(pack, PackStation)
    window.show_station(3)
    assert "only over what must stay free: GPS, antenna" in said(pack)
    window.show_station(1)
    craft.keep_outs.remove_row(1)  # type: ignore[attr-defined]
    window.show_station(3)
    assert pack.findings_sheet.isHidden()
