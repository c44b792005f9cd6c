"""Tables give and take their cells, and the circuits can be put in order."""

from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtGui import QGuiApplication

from lodestaff.desktop.stations.loads.table import COLUMNS
from lodestaff.desktop.table import Table
from lodestaff.desktop.table.copying import copy, paste

RUNS = next(number for number, one in enumerate(COLUMNS) if one.field == "running_w")


def circuits(window):
    window.go("loads")
    return window.stations["loads"].circuits


def test_chosen_cells_are_copied_with_tabs_between(window):
    view = circuits(window)
    for row in (0, 1):
        for column in (0, RUNS):
            view.selectionModel().select(
                view.model().index(row, column), QItemSelectionModel.SelectionFlag.Select
            )
    copy(view)
    job = window.store.job
    assert QGuiApplication.clipboard().text() == "\n".join(
        f"{c.name}\t{c.running_w:g}" for c in job.circuits[:2]
    )


def test_what_is_pasted_is_one_step_and_what_cant_be_is_passed_over(window):
    view, store = circuits(window), window.store
    before = [c.running_w for c in store.job.circuits[:3]]
    QGuiApplication.clipboard().setText("1.2 kW\nnothing\n900")
    view.setCurrentIndex(view.model().index(0, RUNS))
    paste(view, store.together)
    assert [c.running_w for c in store.job.circuits[:3]] == [1200.0, before[1], 900.0]
    assert store.history.undo_name == "Paste 3 cells"
    store.undo()
    assert [c.running_w for c in store.job.circuits[:3]] == before


def test_the_settings_take_what_is_pasted(window):
    window.go("limits")
    table = window.stations["limits"].settings
    QGuiApplication.clipboard().setText("40\n60")
    table.setCurrentIndex(table.index_of(0, 1))
    paste(table, window.store.together)
    assert (window.store.job.limits.reserve_soc, window.store.job.limits.shed_soc) == (0.4, 0.6)
    assert window.store.history.undo_name == "Paste 2 cells"


def test_circuits_are_put_in_order_by_their_numbers_and_back(window):
    view = circuits(window)

    def shown():
        return [view.model().index(row, 0).data() for row in range(view.model().rowCount())]

    own = [c.name for c in window.store.job.circuits]
    view.sortByColumn(RUNS, Qt.SortOrder.DescendingOrder)
    assert shown() == [c.name for c in sorted(window.store.job.circuits, key=lambda c: -c.running_w)]
    view.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
    assert shown() == own


def test_what_is_pasted_goes_to_the_rows_as_they_stood(window):
    view, store = circuits(window), window.store
    view.sortByColumn(RUNS, Qt.SortOrder.DescendingOrder)
    stood = sorted(store.job.circuits, key=lambda c: -c.running_w)[:3]
    QGuiApplication.clipboard().setText("9000\n9100\n9200")
    view.setCurrentIndex(view.model().index(0, RUNS))
    paste(view, store.together)
    after = {c.id: c.running_w for c in store.job.circuits}
    assert [after[c.id] for c in stood] == [9000.0, 9100.0, 9200.0]


def test_what_isnt_known_comes_last_either_way(window):
    view = circuits(window)
    measured = next(number for number, one in enumerate(COLUMNS) if one.field == "measured_w")
    last = len(view.rows) - 1
    for order in (Qt.SortOrder.AscendingOrder, Qt.SortOrder.DescendingOrder):
        view.sortByColumn(measured, order)
        assert view.model().index(last, measured).data() == ""
        assert view.model().index(0, measured).data() != ""


def test_every_table_can_be_put_in_order_or_says_why_not(window):
    """Rows whose order says something keep it; all others go by their headings."""
    kept = {"Instruments", "People", "Firm"}
    for name in window.stations:
        window.go(name)
        for table in window.stations[name].findChildren(Table):
            assert table.accessibleName()
            assert table.isSortingEnabled() is (table.accessibleName() not in kept), table.accessibleName()
            table.sortByColumn(0, Qt.SortOrder.DescendingOrder)
            shown = [table.model().index(row, 0).data() for row in range(len(table.rows))]
            assert sorted(shown) == sorted(table.text_at(row, 0) for row in range(len(table.rows)))
