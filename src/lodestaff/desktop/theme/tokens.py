"""Looks: day, dusk and full sun, with equal names. Text meets 4.5:1 on every ground it stands on (a test
says so)."""

from dataclasses import dataclass

from PySide6.QtCore import Qt


@dataclass(frozen=True)
class Look:
    """Colours by role, as #RRGGBB."""

    name: str
    paper: str
    panel: str
    staff: str
    ink: str
    soft: str
    line: str
    edge: str  # of what is typed into or pressed: 3:1 on every ground
    hand: str
    hand_ground: str
    sun: str
    battery: str
    grid: str
    generator: str
    lost: str
    load: str
    blocks: str
    warns: str
    notes: str
    open: str
    passed: str
    vermilion: str
    rest: str
    stroke: float = 1.0


DAY = Look(
    "day",
    paper="#F5F3EC",
    panel="#FFFFFF",
    staff="#FBFAF6",
    ink="#1B232E",
    soft="#5A6270",
    line="#CFCABC",
    edge="#868172",
    hand="#0E6470",
    hand_ground="#E3EDEC",
    sun="#8A6100",
    battery="#7A3B69",
    grid="#4C5A7A",
    generator="#6E5A43",
    lost="#6B6250",
    load="#57544B",
    blocks="#A3201A",
    warns="#8F5300",
    notes="#4C5A7A",
    open="#5A6270",
    passed="#2A663F",
    vermilion="#C4472B",
    rest="#DEDACC",
)
DUSK = Look(
    "dusk",
    paper="#14181E",
    panel="#1C222B",
    staff="#171C23",
    ink="#E9E4D8",
    soft="#A5ABB5",
    line="#3A424E",
    edge="#737C89",
    hand="#63C1CD",
    hand_ground="#1F3238",
    sun="#E0AE3C",
    battery="#CE90BD",
    grid="#9FB0D6",
    generator="#C3AD90",
    lost="#B3A88F",
    load="#A9A597",
    blocks="#F0857C",
    warns="#E3A04A",
    notes="#9FB0D6",
    open="#A5ABB5",
    passed="#7CC594",
    vermilion="#E27258",
    rest="#343C47",
)
SUN = Look(
    "full sun",
    paper="#FFFFFF",
    panel="#FFFFFF",
    staff="#FFFFFF",
    ink="#000000",
    soft="#222222",
    line="#000000",
    edge="#000000",
    hand="#00434D",
    hand_ground="#FFFFFF",
    sun="#5C4000",
    battery="#5A1B4A",
    grid="#1F2D50",
    generator="#4A3820",
    lost="#333333",
    load="#222222",
    blocks="#8A0000",
    warns="#5E3500",
    notes="#1F2D50",
    open="#222222",
    passed="#004A1C",
    vermilion="#A8280C",
    rest="#BBBBBB",
    stroke=2.0,
)
LOOKS = {look.name: look for look in (DAY, DUSK, SUN)}

_current = DAY


def current() -> Look:
    """The look in use."""
    return _current


def look_of(scheme: Qt.ColorScheme) -> str:
    """The look that suits the system's own colours, for a person who chose none."""
    return DUSK.name if scheme == Qt.ColorScheme.Dark else DAY.name


def set_look(name: str) -> None:
    """Choose a look by name; an unknown name keeps day."""
    global _current
    _current = LOOKS.get(name, DAY)
