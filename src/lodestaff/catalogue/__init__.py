"""Equipment sheets and rule packs: data with provenance, no logic of one maker."""

from lodestaff.catalogue.families import Sheets, unit_sheet
from lodestaff.catalogue.pack import Pack, PackTable, PackValue, load_pack, pack_names
from lodestaff.catalogue.sheets import BatterySheet, HybridSheet, ModuleSheet, Tracker

__all__ = [
    "BatterySheet",
    "HybridSheet",
    "ModuleSheet",
    "Pack",
    "PackTable",
    "PackValue",
    "Sheets",
    "Tracker",
    "load_pack",
    "pack_names",
    "unit_sheet",
]
