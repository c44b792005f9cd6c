"""The program's words in another language: English is what the code says, a catalogue (gettext's PO) has the
rest, told apart by the key of the check or step that says them."""

from lodestaff.words.catalogue import Catalogue, languages, load_catalogue

__all__ = ["Catalogue", "languages", "load_catalogue"]
