"""The person's own settings: one typed declaration, kept as JSON in the platform's config folder."""

import json
from dataclasses import asdict, dataclass, field, fields, replace
from pathlib import Path
from typing import Any

from platformdirs import user_config_path, user_state_path

from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError

MOST_RECENT = 8


@dataclass(frozen=True)
class Settings:
    """Look by name, text scale, recent jobs newest first, how often each station was come to, and where the
    window stood."""

    look: str = ""  # none chosen: that of the system's colours
    text_scale: float = 0.0  # none chosen: that of the system's own words
    language: str = "en"
    recent: tuple[str, ...] = field(default_factory=tuple)
    states: dict[str, str] = field(default_factory=dict)  # of recent jobs, when they were saved
    visits: dict[str, int] = field(default_factory=dict)
    window: str = ""  # geometry, as Qt writes it, in base 64
    splits: dict[str, list[int]] = field(default_factory=dict)  # of drawing and table, by station

    def with_recent(self, path: Path) -> "Settings":
        name = str(path.resolve())
        others = tuple(recent for recent in self.recent if recent != name)
        return replace(self, recent=(name, *others)[:MOST_RECENT])


def settings_path() -> Path:
    return user_config_path("lodestaff") / "settings.json"


def rescue_folder() -> Path:
    return user_state_path("lodestaff") / "rescue"


def draft_path(job_id: str) -> Path:
    """Where the journal and the attachments of a job lie that has no file of its own yet."""
    return rescue_folder().parent / "drafts" / f"{job_id}.json"


def load_settings() -> Settings:
    """Settings from disk; a damaged file or value means the default, for they are no work of the person."""
    try:
        data: Any = json.loads(settings_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return Settings()
    if not isinstance(data, dict):
        return Settings()
    known = {field.name for field in fields(Settings)}
    kept = {name: value for name, value in data.items() if name in known}
    if isinstance(kept.get("recent"), list):
        kept["recent"] = tuple(str(recent) for recent in kept["recent"])
    try:
        made = Settings(**kept)
        return replace(
            made,
            look=str(made.look),
            text_scale=float(made.text_scale),
            recent=tuple(made.recent),
            states={str(name): str(words) for name, words in dict(made.states).items()},
            visits={str(name): int(count) for name, count in dict(made.visits).items()},
            window=str(made.window),
            splits={str(name): [int(size) for size in sizes] for name, sizes in dict(made.splits).items()},
        )
    except (TypeError, ValueError):
        return Settings()


def save_settings(settings: Settings) -> bool:
    """Write settings; False where the disk refuses (the program goes on without)."""
    try:
        settings_path().parent.mkdir(parents=True, exist_ok=True)
        write_whole(settings_path(), json.dumps(asdict(settings), indent=1).encode())
    except (OSError, JobError):
        return False
    return True
