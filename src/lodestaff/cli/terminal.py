"""The terminal's own limits: any encoding, a pipe that closes, a stream that was never opened."""

import codecs
import os
import sys
from pathlib import Path
from typing import TextIO

SPELT = {
    "²": "2", "³": "3", "°": "deg ", "Ω": "ohm", "µ": "u", "μ": "u", "φ": "phi", "η": "eta", "Δ": "d",
    "·": ".", "×": "x", "÷": "/", "−": "-", "–": "-", "—": "-", "…": "...", "≤": "<=", "≥": ">=", "≈": "~",
    "→": "->", "±": "+/-", "‘": "'", "’": "'", "“": '"', "”": '"', "\u202f": " ", "\u00a0": " ",
}  # fmt: skip


def _spelt(error: UnicodeError) -> tuple[str, int]:
    assert isinstance(error, UnicodeEncodeError)
    signs = error.object[error.start : error.end]
    return "".join(SPELT.get(sign, "?") for sign in signs), error.end


def _nowhere() -> TextIO:
    return Path(os.devnull).open("w", encoding="utf-8")


def fit_streams() -> None:
    """What the terminal's encoding lacks is spelt in its signs; a closed stream takes what is said."""
    codecs.register_error("lodestaff", _spelt)
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if stream is None:
            setattr(sys, name, _nowhere())
        elif hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="lodestaff")


def takes_all_signs() -> bool:
    """Whether standard output has every sign."""
    return (sys.stdout.encoding or "").lower().replace("-", "") in ("utf8", "utf16", "utf32")


def silence() -> None:
    """Nobody reads what is said any more: let it go nowhere, now and when the program ends."""
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, sys.stdout.fileno())
    except (OSError, ValueError):
        sys.stdout = _nowhere()
