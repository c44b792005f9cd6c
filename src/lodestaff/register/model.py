"""The register's document: one JSON file, replaced whole."""

from datetime import date
from pathlib import Path
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from lodestaff.catalogue.documents import load_document, save_document
from lodestaff.catalogue.frozen import Frozen


def _iso_date(text: str) -> str:
    if text:
        try:
            date.fromisoformat(text)
        except ValueError as trouble:
            raise ValueError(f"{text!r} is no date; write it as 2027-03-31") from trouble
    return text


IsoDate = Annotated[str, AfterValidator(_iso_date)]
Words = Annotated[str, Field(max_length=120)]
Name = Annotated[str, Field(min_length=1, max_length=60)]


class Firm(Frozen):
    """Who hands over."""

    name: Words = ""
    address: Words = ""
    phone: Words = ""
    registration: Words = ""


class Person(Frozen):
    """Somebody who takes readings or signs."""

    name: Name
    licence: Words = ""


class Instrument(Frozen):
    """A measuring instrument; an empty date means that its calibration is not known."""

    name: Name
    serial: Words = ""
    calibrated_until: IsoDate = ""


class Register(Frozen):
    """Firm, people, instruments."""

    version: Literal[1] = 1
    firm: Firm = Firm()
    people: tuple[Person, ...] = ()
    instruments: tuple[Instrument, ...] = ()

    def calibrated_until(self, instrument: str) -> str:
        """The date to which an instrument is calibrated; '' where it is not known."""
        return next((each.calibrated_until for each in self.instruments if each.name == instrument), "")


def register_path() -> Path:
    """Where the register lies."""
    from platformdirs import user_data_dir

    return Path(user_data_dir("lodestaff", appauthor=False)) / "register.json"


def load_register(path: Path | None = None) -> Register:
    """The register; an empty one where none was made. Raises JobError for a damaged or missing named file."""
    where = path or register_path()
    if path is None and not where.exists():
        return Register()
    return load_document(Register, where, "register")


def save_register(register: Register, path: Path | None = None) -> None:
    """Write the register. Raises JobError where the disk refuses."""
    save_document(register.model_dump_json(indent=1) + "\n", path or register_path())
