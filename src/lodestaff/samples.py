"""Where the sample jobs are: in the installed package, or beside the source."""

from importlib import resources
from pathlib import Path

from lodestaff.quantities.errors import JobError

DEMO = "larkmoor.json"


def samples_folder() -> Path:
    """The folder of the sample jobs. Raises JobError where they were not shipped."""
    inside = Path(str(resources.files("lodestaff"))) / "_samples"
    beside = Path(__file__).resolve().parents[2] / "samples"
    for folder in (inside, beside):
        if folder.is_dir():
            return folder
    raise JobError("the sample jobs are not there", str(inside), "install the program again")
