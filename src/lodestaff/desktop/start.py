"""Starting the window, and taking its pictures."""

import os
import signal
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QLocale, QTimer
from PySide6.QtWidgets import QApplication

from lodestaff.desktop.spoken import install
from lodestaff.desktop.theme import font, load_fonts
from lodestaff.quantities.convention import CONVENTION
from lodestaff.quantities.errors import JobError

SWITCH_S = 0.0005  # how long the figures' thread may hold the interpreter before the window's gets its turn
DISPLAYS = ("DISPLAY", "WAYLAND_DISPLAY")


def application() -> QApplication:
    """The application with the shipped fonts; made once."""
    made = QApplication.instance()
    if isinstance(made, QApplication):
        return made
    app = QApplication(sys.argv[:1])
    app.setApplicationName("lodestaff")
    app.setApplicationDisplayName("Lodestaff")
    app.setDesktopFileName("lodestaff")
    app.setStyle("Fusion")
    sys.setswitchinterval(SWITCH_S)
    load_fonts()
    install()
    app.setFont(font("text"))
    return app


def by_locale(locale: QLocale) -> None:
    """Numbers in the window are written and read with the decimal sign of the person's own settings."""
    CONVENTION.decimal = "," if locale.decimalPoint() == "," else "."


def _without_display() -> bool:
    return (
        "QT_QPA_PLATFORM" not in os.environ
        and sys.platform == "linux"
        and not any(os.environ.get(d) for d in DISPLAYS)
    )


def open_window(paths: Sequence[str], sample: str | None = None, look: str | None = None) -> int:
    """Open the window, with a job file or a sample; returns the exit code."""
    if len(paths) > 1:
        print(f"lodestaff: {paths[-1]}: one job at a time", file=sys.stderr)
        return 2
    if _without_display():
        print(
            "lodestaff: no display found (DISPLAY and WAYLAND_DISPLAY are unset): the window is drawn "
            "offscreen; Ctrl+C ends it, `lodestaff shots DIR` takes its pictures",
            file=sys.stderr,
        )
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    app = application()
    by_locale(QLocale())
    from lodestaff.desktop.shell.window import Window

    window = Window(at_once=False)
    if look:
        window.choose_look(look, keep=False)

    def begin() -> None:
        window.fill()
        if sample:
            window.files.open_sample(sample)
        elif paths:
            window.files.open_path(Path(paths[0]))

    sys.excepthook = lambda _kind, error, _trace: window.our_fault(error)
    window.show()
    app.processEvents()  # the frame is painted before anything heavy is loaded
    QTimer.singleShot(0, begin)
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    beat = QTimer()
    beat.start(200)  # lets Python see Ctrl+C
    beat.timeout.connect(lambda: None)
    code = app.exec()
    if window.filled:
        window.store.close()
    return code


def shots(folder: str) -> int:
    """Pictures of each station of the demo job into a folder."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from lodestaff.desktop.shots import take

    try:
        with (
            tempfile.TemporaryDirectory() as home
        ):  # the pictures don't show or touch the person's own things
            for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME"):
                os.environ[name] = home
            for path in take(application(), Path(folder)):
                print(path)
    except OSError as trouble:
        raise JobError("cannot be written", folder, str(trouble.strerror)) from trouble
    return 0
