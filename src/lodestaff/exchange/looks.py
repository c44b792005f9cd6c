"""Colours and hatches of energy kinds and findings on paper, shared by everything that is printed."""

# Ink for the kinds of source that make a conductor live; the dash tells them apart without colour.
SOURCE_INK = {"grid": "#4C5A7A", "generator": "#6E5A43", "battery": "#7A3B69", "array": "#B98209"}
SOURCE_DASH: dict[str, tuple[float, ...]] = {
    "grid": (),
    "generator": (3.6, 0.7, 0.7, 0.7),
    "battery": (2.4, 0.8),
    "array": (0.7, 0.7),
}
DEAD_INK = "#A9A395"
VERDICT_MARK = {"blocks": "■", "warns": "▲", "notes": "▬", "open": "○", "passed": "✓"}
VERDICT_INK = {
    "blocks": "#A3201A",
    "warns": "#9A5B00",
    "notes": "#4C5A7A",
    "open": "#5F6775",
    "passed": "#2E6B43",
}
SERIES_INK = {
    "sun": "#D9A520",
    "battery": "#7A3B69",
    "grid": "#4C5A7A",
    "load": "#8C8A80",
    "export": "#0B6E7A",
}
SOURCE_ORDER = ("grid", "generator", "battery", "array")
