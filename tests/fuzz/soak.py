"""Two thousand edits, each reckoned as the window does: memory is flat after the first five hundred.

`python -m tests.fuzz.soak [EDITS]` says the memory at both ends.
"""

import gc
import json
import sys
from pathlib import Path

from lodestaff.job import Change, edit, load_job
from lodestaff.job.attachments import read_attachment
from lodestaff.job.history import History
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.results import compute
from lodestaff.samples import sample_path

EDITS, WARM, MOST = 2000, 500, 1.05


def resident() -> int:
    """Bytes that this process holds now."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096


def soak(edits: int, warm: int) -> tuple[int, int]:
    """Memory after the first edits, and after all."""
    path = sample_path("larkmoor")
    history, reckoner = History(load_job(path)), Reckoner(lambda digest: read_attachment(path, digest))
    name = history.job.circuits[0].id
    early = 0
    for number in range(edits):
        change = (
            Change("limits/reserve_soc", 0.2 + number % 60 / 100),
            Change(f"circuits/{name}/running_w", 200.0 + number),
            Change("title", f"Larkmoor {number}"),
        )[number % 3]
        history.apply("a", edit(history.job, change))
        compute(reckoner, history.job, Moment(), deep=False, with_promise=False)
        if number % 50 == 49:
            history.undo()
        if number + 1 == warm:
            gc.collect()
            early = resident()
    gc.collect()
    return early, resident()


def main(arguments: list[str]) -> int:
    edits = int(arguments[0]) if arguments else EDITS
    early, late = soak(edits, min(WARM, edits // 4))
    print(json.dumps({"edits": edits, "early_mb": round(early / 1e6), "late_mb": round(late / 1e6)}))
    return 0 if late <= MOST * early else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
