"""The firm, its people and its instruments: kept outside the jobs, in the person's own data folder."""

from lodestaff.register.model import (
    Firm,
    Instrument,
    Person,
    Register,
    load_register,
    register_path,
    save_register,
)

__all__ = ["Firm", "Instrument", "Person", "Register", "load_register", "register_path", "save_register"]
