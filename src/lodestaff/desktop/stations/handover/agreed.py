"""What is agreed at the handover, typed in rows: the network, accounts, warranties, the next inspection."""

from collections.abc import Callable
from dataclasses import dataclass

from lodestaff.desktop.stations.place.adding import free_id
from lodestaff.desktop.stations.typing_in import Owner, Typing
from lodestaff.desktop.store import Store
from lodestaff.desktop.table import Column, Table, words
from lodestaff.job import Change, Job

ROWS = {
    "next_inspection": "Next inspection",
    "network": "Network",
    "fallback": "Without the network",
    "export_paid_by": "Export is paid by",
}


@dataclass(frozen=True)
class Line:
    """One thing agreed."""

    field: str
    words: str
    value: str


def agreed_table(store: Store) -> Table[Line]:
    """A row for each thing that is agreed once."""

    def typed(row: Line, text: str) -> bool:
        return store.edit(f"Set {row.words.lower()}", Change(f"handed/{row.field}", text.strip()))

    columns: tuple[Column[Line], ...] = (
        words("What", lambda row: row.words),
        words("Agreed", lambda row: row.value, typed=typed, wide=True, spoken=lambda row: row.words),
    )
    return Table("Agreed", columns)


def lines_of(job: Job) -> list[Line]:
    return [Line(field, said, str(getattr(job.handed, field))) for field, said in ROWS.items()]


def accounts_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each account: whose it is, who may look; never a password."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.text("Account", "what"),
        of.text("Whose it is", "owner"),
        of.text("Who may look", "may_look"),
    )
    return Table("Accounts, without passwords", columns, remove=remove)


def warranties_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each warranty."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.text("What", "what"),
        of.metres("Years", "years", ""),
        of.text("From", "begins"),
        of.text("By", "by"),
    )
    return Table("Warranties", columns, remove=remove)


def registered_table(store: Store, remove: Callable[[Owner], object]) -> Table[Owner]:
    """A row for each register in which the installation is entered, or has to be."""
    of = Typing(store)
    columns: tuple[Column[Owner], ...] = (
        of.text("Register", "what"),
        of.text("Number", "number"),
        of.text("Entered on", "date"),
        of.text("Due by", "due"),
    )
    return Table("Entries in registers", columns, remove=remove)


def rows_of(job: Job, field: str) -> list[Owner]:
    return [Owner(f"handed/{field}/{item.id}", item.what, item) for item in getattr(job.handed, field)]


def add_row(store: Store, field: str, what: str) -> bool:
    """One more account or warranty; its own is typed."""
    job = store.job
    if job is None:
        return False
    held = getattr(job.handed, field)
    rows = [item.model_dump(mode="json") for item in held]
    row = {"id": free_id({item.id for item in held}, what), "what": what.capitalize()}
    return store.edit(f"Add a {what}", Change(f"handed/{field}", [*rows, row]))


def without(store: Store, row: Owner) -> bool:
    """Take a row out."""
    job = store.job
    if job is None:
        return False
    path = row.path.rpartition("/")[0]
    held = getattr(job.handed, path.rpartition("/")[2])
    rows = [item.model_dump(mode="json") for item in held if item.id != row.of.id]
    return store.edit(f"Take out {row.name}", Change(path, rows))
