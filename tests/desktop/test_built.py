"""As built in the window: the plan kept, differences confirmed by a name, photos, registers."""

import pytest
from PySide6.QtGui import QColor, QImage

from lodestaff.desktop.stations.handover.agreed import add_row
from lodestaff.desktop.stations.handover.built import add_photo, built_of, confirm_all, keep_plan
from lodestaff.job import Change


@pytest.fixture
def station(window, settled):
    window.go("handover")
    settled(window)
    return window.stations["handover"]


def test_differences_from_the_plan_are_confirmed_by_name(window, station, settled):
    store = window.store
    assert built_of(store) is None
    assert not confirm_all(store, "T. Fitter")
    assert keep_plan(store)
    assert built_of(store).rows == ()
    store.edit("Otherwise", Change("cables/hybrid-feed/length_m", 15), Change("standing/battery/x_m", 2.0))
    settled(window)
    rows = {row.path: row for row in station.built.rows}
    assert rows["standing/battery/x_m"].planned == "1.95"
    column = station.built.source.columns[3]
    assert column.typed(rows["standing/battery/x_m"], "T. Fitter")
    assert [row.path for row in built_of(store).open] == ["cables/hybrid-feed/length_m"]
    assert station.confirm.isEnabled()
    assert not confirm_all(store, "  ")
    assert confirm_all(store, "T. Fitter")
    assert built_of(store).open == ()
    settled(window)
    row = next(row for row in station.built.rows if row.path == "standing/battery/x_m")
    assert column.text(row) == "T. Fitter"
    assert column.typed(row, "")
    assert len(built_of(store).open) == 1


def test_a_photo_is_of_a_part_and_a_register_waits(window, station, settled, tmp_path):
    source = tmp_path / "switch.png"
    image = QImage(40, 30, QImage.Format.Format_RGB32)
    image.fill(QColor("#888888"))
    image.save(str(source))
    heard = []
    window.store.trouble.connect(lambda _, words: heard.append(words))
    assert add_photo(window.store, "hybrid-bypass", "Changeover", source)
    assert not add_photo(window.store, "", "The whole", tmp_path / "none.png")
    assert "no picture" in heard[-1]
    assert add_row(window.store, "registered", "register")
    settled(window)
    assert [(row.of.of, row.of.what) for row in station.photos.rows] == [("hybrid-bypass", "Changeover")]
    row = station.registered.rows[0]
    assert station.registered.source.columns[3].typed(row, "2027-01-16")
    assert window.store.job.handed.registered[0].due == "2027-01-16"
    assert not station.registered.source.columns[2].typed(row, "soon")
