"""The job: what was surveyed and decided, and nothing that can be computed."""

from lodestaff.job.edit import Change, edit
from lodestaff.job.facts import Fact, Known
from lodestaff.job.file import load_job, save_job
from lodestaff.job.model import (
    SCHEMA_VERSION,
    Bank,
    Circuit,
    Face,
    Job,
    Limits,
    Role,
    Site,
    Tariff,
    Unit,
    Window,
)

__all__ = [
    "SCHEMA_VERSION",
    "Bank",
    "Change",
    "Circuit",
    "Face",
    "Fact",
    "Job",
    "Known",
    "Limits",
    "Role",
    "Site",
    "Tariff",
    "Unit",
    "Window",
    "edit",
    "load_job",
    "save_job",
]
