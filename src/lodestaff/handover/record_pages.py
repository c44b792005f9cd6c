"""Pages of what was found, what is permitted, and what the customer chose."""

from collections.abc import Sequence

from lodestaff.commissioning.snags import Snag, snags
from lodestaff.electrical.permission import SUM_SYSTEMS
from lodestaff.handover.model import Block, Page, Table, Text
from lodestaff.job import Job
from lodestaff.job.journal import Entry
from lodestaff.quantities import text_of
from lodestaff.reckoning import Reckoner
from lodestaff.reckoning.findings import findings


def permission_page(reckoner: Reckoner, job: Job) -> Page:
    """Each permission with its state and date, limits that hold until a date, and the service's demand."""
    permission = job.site.permission
    kva, export = permission.parallel_kva, permission.export_kw
    each = "" if job.mains.system in SUM_SYSTEMS else ", each phase"
    rows: list[tuple[str, ...]] = [
        (
            f"Running in parallel{each}",
            text_of(kva.value, "kVA") if kva.value is not None else "unknown",
            permission.parallel_state,
            permission.parallel_date or "-",
            kva.note,
        ),
        (
            "Export",
            text_of(export.value, "kW") if export.value is not None else "unknown",
            permission.state,
            permission.date or "-",
            export.note,
        ),
    ]
    for title, fact in (
        (f"Asked for{each}", permission.asked_kva),
        (f"Expanded system{each}", permission.expanded_kva),
    ):
        if fact.value is not None:
            rows.append((title, text_of(fact.value, "kVA"), fact.words(), fact.date or "-", fact.note))
    for permit in job.site.permits:
        value = text_of(permit.value, "A", 0) if permit.value else ""
        rows.append(
            (
                f"{permit.kind[0].upper()}{permit.kind[1:]}",
                value,
                permit.state,
                permit.date or "-",
                permit.note,
            )
        )
    for limit in job.site.interim:
        state = "lifted" if limit.lifted else "holds for now"
        rows.append(
            (
                f"Until a date: {limit.what}",
                text_of(limit.value, limit.unit),
                state,
                limit.until or "-",
                limit.note,
            )
        )
    answers = findings(reckoner, job, deep=False, stations=frozenset(["site", "loads"]))
    today = [finding.text for finding in answers if finding.rule == "SITE-PERMIT: phase" and finding.limit]
    demand = [finding.text for finding in answers if finding.code == "LOAD-DEMAND"]
    blocks: list[Block] = [
        Table(
            ("Permission", "Value", "State", "Date", "Note"),
            tuple(rows),
            (30, 13, 17, 12, 28),
            name="Permissions",
        ),
        *(Text(text) for text in today),
        *(Text(text) for text in demand),
    ]
    waiting = [row[0].lower() for row in rows if row[2] in ("not asked", "applied for", "refused", "expired")]
    missing = (f"not granted: {', '.join(waiting)}",) if waiting else ()
    return Page("permissions", "Permissions and demand", tuple(blocks), missing)


def found_page(job: Job, entries: Sequence[Entry] = ()) -> Page:
    """What was there before, in what condition, the customer's choices, and what is still to be put right."""
    things = []
    for device in job.site.found:
        rating = text_of(device.rating.value, device.unit) if device.rating.value is not None else "unknown"
        things.append(
            (
                device.name,
                rating,
                str(device.condition.value or "unknown"),
                device.condition.words(),
                str(len(device.photos)),
                "yes" if device.shown_to_customer else "no",
                device.note or device.condition.note,
            )
        )
    choices = [
        (
            choice.about,
            choice.offered or "-",
            choice.advised or "-",
            choice.chosen or "open",
            choice.why or "-",
            " ".join(filter(None, (choice.by, choice.date))) or "-",
        )
        for choice in job.choices
    ]
    blocks: list[Block] = []
    if things:
        headings = ("Found", "Rating", "Condition", "Known", "Photos", "Shown", "Note")
        blocks.append(Table(headings, tuple(things), (24, 11, 12, 12, 8, 8, 25), name="Found on site"))
    else:
        blocks.append(Text("Nothing was recorded of what was there before."))
    if choices:
        columns = ("About", "Offered", "Advised", "Chosen", "Why", "By, date")
        blocks.append(Table(columns, tuple(choices), (15, 25, 14, 14, 18, 14), name="Choices"))
    else:
        blocks.append(Text("No choice of the customer is on record."))
    snagged = snags(entries)
    if snagged:
        whose = tuple(
            (snag.text, snag.owner, snag.due, snag.done or "open", _ended(snag)) for snag in snagged
        )
        heads = ("Snag", "Whose", "By", "Put right", "Who, when")
        blocks.append(Table(heads, whose, (36, 14, 12, 22, 16), name="Snags"))
    unseen = [
        device.name
        for device in job.site.found
        if device.condition.value in ("worn", "unfit") and not device.shown_to_customer
    ]
    missing = []
    if unseen:
        missing.append(f"not shown to the customer: {', '.join(unseen)}")
    missing += [f"{choice.about}: {choice.doubt}" for choice in job.choices if choice.doubt]
    still = [f"{snag.text} ({snag.owner}, by {snag.due})" for snag in snagged if not snag.done]
    if still:
        missing.append(f"to be put right: {'; '.join(still)}")
    return Page("found", "Found, and chosen", tuple(blocks), tuple(missing))


def registered_page(job: Job) -> Page:
    """Where the installation is entered, and where it still has to be."""
    rows = tuple(
        (
            registration.what,
            registration.number or "-",
            registration.date or "not yet",
            registration.due or "-",
        )
        for registration in job.handed.registered
    )
    waits = [f"{registration.what}{f' (by {registration.due})' if registration.due else ''}"
             for registration in job.handed.registered if not registration.date]  # fmt: skip
    table = Table(("Register", "Number", "Entered on", "Due by"), rows, (40, 24, 18, 18), name="Registers")
    missing = (f"not entered yet: {', '.join(waits)}",) if waits else ()
    return Page("registered", "Entries in registers", (table,), missing)


def _ended(snag: Snag) -> str:
    return " ".join(filter(None, (snag.done_by, snag.done_at[:10])))
