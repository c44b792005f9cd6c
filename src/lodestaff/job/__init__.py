"""The job: what was surveyed and decided, and nothing that can be computed."""

from lodestaff.job.array import Cable, Containment, Face, ModuleString, Obstacle, PlacedModule
from lodestaff.job.decisions import Band, HourlyPrices
from lodestaff.job.edit import Change, edit
from lodestaff.job.facts import Fact, Known
from lodestaff.job.file import load_job, save_job
from lodestaff.job.found import Choice, Found, Interim, Permit
from lodestaff.job.metered import FileShape, IntervalFile
from lodestaff.job.model import SCHEMA_VERSION, Bank, Circuit, Job, Limits, Role, Tariff, Unit, Window
from lodestaff.job.site import FileWeather, Site, SyntheticWeather

__all__ = [
    "SCHEMA_VERSION",
    "Band",
    "Bank",
    "Cable",
    "Change",
    "Choice",
    "Circuit",
    "Containment",
    "Face",
    "Fact",
    "FileShape",
    "FileWeather",
    "Found",
    "HourlyPrices",
    "Interim",
    "IntervalFile",
    "Job",
    "Known",
    "Limits",
    "ModuleString",
    "Obstacle",
    "Permit",
    "PlacedModule",
    "Role",
    "Site",
    "SyntheticWeather",
    "Tariff",
    "Unit",
    "Window",
    "edit",
    "load_job",
    "save_job",
]
