"""The style sheet of the standard widgets, made from a look."""

from importlib import resources
from pathlib import Path

from lodestaff.desktop.theme.fonts import font
from lodestaff.desktop.theme.tokens import Look

ARROW = (Path(str(resources.files("lodestaff"))) / "assets" / "icons" / "arrow.svg").as_posix()


def sheet(look: Look) -> str:
    """Straight corners, one-pixel lines, targets of 32 px, a visible focus."""
    text, label = font("text").pixelSize(), font("label").pixelSize()
    w, high = round(look.stroke), max(20, round(text * 1.5))
    return f"""
    * {{ font-family: "B612"; font-size: {text}px; color: {look.ink}; }}
    QMainWindow, QDialog, QWidget#surface {{ background: {look.paper}; }}
    QWidget#reckoning, QWidget#bar, QScrollArea#reckoning, QWidget#cards {{ background: {look.panel}; }}
    QWidget#bar {{ border-bottom: {w}px solid {look.line}; }}
    QWidget#reckoning {{ border-left: {w}px solid {look.line}; }}
    QLabel#title {{ font-size: {font("title").pixelSize()}px; font-weight: bold; }}
    QLabel#strong {{ font-weight: bold; }}
    QLabel#reading, QLineEdit#reading {{ font-size: {font("reading").pixelSize()}px; font-weight: bold; }}
    QLineEdit#reading {{ min-height: 28px; }}
    QLabel#caution {{ border-left: 4px solid {look.warns}; padding: 4px 8px; background: {look.panel}; }}
    QLabel#strong[role="passed"] {{ color: {look.passed}; }}
    QLabel#strong[role="warns"] {{ color: {look.warns}; }}
    QLabel#strong[role="blocks"] {{ color: {look.blocks}; }}
    QLabel#strong[role="soft"] {{ color: {look.soft}; }}
    QLabel#heading {{ font-weight: bold; color: {look.soft}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{ARROW}"); width: 10px; height: 6px; }}
    QComboBox QAbstractItemView {{ background: {look.panel}; selection-background-color: {look.hand_ground};
    selection-color: {look.ink}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QLabel {{ background: transparent; }}
    QLabel#soft {{ color: {look.soft}; font-size: {label}px; }}
    QPushButton, QToolButton, QComboBox {{
        background: {look.panel}; border: {w}px solid {look.edge}; padding: 5px 10px; min-height: {high}px;
        border-radius: 0; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {look.hand}; }}
    QPushButton:focus, QToolButton:focus, QComboBox:focus, QLineEdit:focus, QTableView:focus,
    QListWidget:focus,
    QSlider:focus {{ border: 2px solid {look.hand}; }}
    QPushButton:checked, QToolButton:checked {{ background: {look.hand_ground}; border: 2px solid {look.hand};
        border-left: 7px solid {look.hand}; padding-left: 5px; font-weight: bold; }}
    QPushButton:checked:focus, QToolButton:checked:focus {{ border: 3px double {look.ink};
        border-left: 7px solid {look.hand}; }}
    QWidget#card QPushButton, QWidget#card QLineEdit, QWidget#card QComboBox {{ min-height: {high + 16}px; }}
    QWidget#card QComboBox QLineEdit {{ min-height: 0; border: none; padding: 0; }}
    QCheckBox, QRadioButton {{ min-height: 28px; border: 2px solid transparent; padding: 0 4px; }}
    QCheckBox:focus, QRadioButton:focus {{ border: 2px solid {look.hand}; }}
    QTextBrowser {{ background: {look.panel}; border: {w}px solid {look.line}; }}
    QTextBrowser:focus {{ border: 2px solid {look.hand}; }}
    QPushButton#grid:checked {{ border-color: {look.blocks}; color: {look.blocks}; background: {look.panel};
    }}
    QPushButton:disabled {{ color: {look.soft}; }}
    QPushButton#link {{ border: none; color: {look.hand}; font-weight: bold; text-align: left; padding: 4px
    0; background: transparent; }}
    QPushButton#link:focus {{ border: 2px solid {look.hand}; }}
    QLineEdit, QDoubleSpinBox, QSpinBox {{ background: {look.panel}; border: {w}px solid {look.edge};
    padding: 5px; min-height: {high}px; }}
    QTableView {{ background: {look.panel}; alternate-background-color: {look.paper}; gridline-color:
    {look.line};
        border: {w}px solid {look.line}; selection-background-color: {look.hand_ground}; selection-color:
        {look.ink}; }}
    QHeaderView::section {{ background: {look.paper}; border: none; border-bottom: {w}px solid {look.ink};
    padding: 4px 6px;
        font-weight: bold; font-size: {label}px; }}
    QTabBar::tab {{ background: {look.paper}; border: {w}px solid {look.line}; padding: 6px 12px; }}
    QTabBar::tab:selected {{ background: {look.hand_ground}; font-weight: bold; }}
    QTabBar::tab:focus {{ border: 2px solid {look.hand}; }}
    QTabWidget::pane {{ border: none; }}
    QListWidget {{ background: {look.panel}; border: {w}px solid {look.line}; }}
    QListWidget::item {{ padding: 6px; }}
    QListWidget::item:selected {{ background: {look.hand_ground}; color: {look.ink}; }}
    QMenu {{ background: {look.panel}; border: {w}px solid {look.line}; }}
    QMenu::item {{ padding: 6px 22px; }}
    QMenu::item:selected {{ background: {look.hand_ground}; }}
    QMenuBar {{ background: {look.staff}; }}
    QMenuBar::item:selected {{ background: {look.hand_ground}; }}
    QToolTip, QLabel#hint {{ background: {look.panel}; color: {look.ink}; border: {w}px solid {look.line};
    padding: 4px; }}
    QScrollBar:vertical {{ background: {look.paper}; width: 10px; }}
    QScrollBar::handle:vertical {{ background: {look.rest}; min-height: 24px; }}
    QScrollBar:horizontal {{ background: {look.paper}; height: 10px; }}
    QScrollBar::handle:horizontal {{ background: {look.rest}; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QFrame#finder {{ background: {look.panel}; border: 2px solid {look.hand}; }}
    QWidget#notice {{ background: {look.hand_ground}; border-bottom: {w}px solid {look.hand}; }}
    """
