"""Where the sample jobs are: in the installed package, or beside the source."""

from importlib import resources
from pathlib import Path

from lodestaff.quantities.errors import JobError

DEMO = "larkmoor.json"
# Which kind of system each sample is, by its letter; the letters are those of `templates.kinds`.
KIND_OF = {
    "larkmoor": "D",
    "wendle-row-14": "A",
    "sallow-bank-cottage": "B",
    "old-tannery-house": "C",
    "juniper-draw-ranch": "D",
    "cinder-flat-house": "E",
    "brockle-vicarage": "F",
    "pinfold-terrace-3": "G",
    "gannet-point-lodge": "H",
    "tern-quay-boatshed": "I",
    "harrow-mill-flats": "J",
    "ocotillo-wash-centre": "K",
    "brindle-mesa-field-station": "L",
    "ludd-hall-annexe": "M",
    "sotol-ridge-house": "N",
    "far-byre": "O",
    "cobbler-s-yard-workshop": "P",
    "larch-fold-barn": "Q",
    "skerry-light-cottage": "R",
    "quern-hall-joinery": "S",
}


def samples_folder() -> Path:
    """The folder of the sample jobs. Raises JobError where they were not shipped."""
    inside = Path(str(resources.files("lodestaff"))) / "_samples"
    beside = Path(__file__).resolve().parents[2] / "samples"
    for folder in (inside, beside):
        if folder.is_dir():
            return folder
    raise JobError("the sample jobs are not there", str(inside), "install the program again")


def sample_names() -> tuple[str, ...]:
    """Names of the sample jobs, the demo first."""
    names = sorted(path.stem for path in samples_folder().glob("*.json"))
    demo = DEMO.removesuffix(".json")
    return (demo, *(name for name in names if name != demo))


def sample_path(name: str) -> Path:
    """The file of a sample, by its name or the beginning of it. Raises JobError where none or several fit."""
    matches = [sample for sample in sample_names() if sample.startswith(name)]
    exact = [sample for sample in matches if sample == name] or matches
    if len(exact) != 1:
        raise JobError(
            f"no sample {name!r}" if not matches else f"{name!r} may be {', '.join(matches)}",
            "samples",
            f"samples: {', '.join(sample_names())}",
        )
    return samples_folder() / f"{exact[0]}.json"
