"""What may run, and on which paper: SITE-PERMIT, by phase, now and for the expanded system, and the other
permits."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Remedy, Verdict, cure, soft
from lodestaff.checks.makers import Words, at_most, noted, one_of, resting_on
from lodestaff.electrical import permission as rights
from lodestaff.job import Interim, Permit, Site
from lodestaff.job.site import Permission
from lodestaff.quantities import Input, Provenance, Source, text_of

PAPERS = Source("the papers of the site", Provenance.JOB)
WORDS = {"main fuse": "Raising the main fuse", "seal": "Breaking the seal",
         "consent": "Planning or building consent", "inspection": "Inspection"}  # fmt: skip


@dataclass(frozen=True)
class PermitOnPhase:
    """Registered generation of one phase against the notify limit and the permission.

    `units` are converters with their kVA on the phase, those of existing devices among them. `smaller` is a
    sheet of the job that would fit: its id, words, and the unit that would take it.
    """

    site: Site
    phase: str
    registered_kva: float
    units: tuple[tuple[str, float], ...]
    notify_a: PackValue
    nominal: PackValue
    permission_word: str
    export_setting_kw: float = 0.0
    smaller: tuple[str, str, str] | None = None
    legs: int = 1  # how many phases are counted together
    island: bool = True  # whether it can run on an island meanwhile

    @property
    def owner(self) -> str:
        return self.phase

    @property
    def permission(self) -> Permission:
        return self.site.permission

    @property
    def notify_kva(self) -> float:
        return self.notify_a.value * self.nominal.value * self.legs / 1000

    def more_than(self, kva: float) -> bool:
        return self.registered_kva > kva * (1 + 1e-9)


def may_run(record: PermitOnPhase) -> tuple[bool, str]:
    """Whether this generation may run in parallel today, and how, in words."""
    runs, words = rights.may_run(record.permission, record.registered_kva, record.notify_kva)
    if not runs and record.island:
        words += "; on its island only"
    return runs, words


@check("SITE-PERMIT", "phase", station="site", rests_on="pack, operator's permission")
def site_permit(record: PermitOnPhase) -> Findings:
    """Is the generation of each phase permitted, and what may run today?"""
    permission, kva, notify_kva, phase = (
        record.permission,
        record.registered_kva,
        record.notify_kva,
        record.phase,
    )
    held, needs = (
        permission.parallel_state in ("granted", "granted without export"),
        record.more_than(notify_kva),
    )
    allowed = max(notify_kva, permission.parallel_kva.value or 0.0) if held else notify_kva
    date = f" ({permission.parallel_date})" if permission.parallel_date else ""
    granted = rights.granted_words(permission, kva) if needs else permission.parallel_state
    asked = permission.asked_kva
    free = f"notify-only up to {text_of(notify_kva, 'kVA')}" if notify_kva > 0 else "nothing by notice alone"
    figure = Words(
        name=f"Registered generation on {phase}",
        formula="sum of the ratings of units on the phase",
        inputs=(
            *(Input(name, part, "kVA") for name, part in record.units),
            Input("notify only", notify_kva, "kVA", record.notify_a.source),
            Input(
                "asked of the operator",
                asked.value if asked.value is not None else "nothing yet",
                "kVA",
                asked.words(),
            ),
        ),
        source=record.notify_a.cite(),
        note="A zero-export setting doesn't replace permission to run in parallel.",
    )
    yield at_most(
        value=kva,
        limit=allowed,
        unit="kVA",
        quantity="parallel",
        **figure,
        text=f"{phase}: {text_of(kva, 'kVA')} registered; {free}; "
        f"{record.permission_word} {granted}{date}; {may_run(record)[1]}.",
        because=soft(permitted_generation=permission.parallel_kva) if needs and held else (),
        cures=lambda: _cures(record),
        advice="Ask for what the expanded system will need; wait for it, or take a smaller unit.",
    )
    yield from _asked(record, figure, needs)
    if permission.state != "granted":
        bad = record.export_setting_kw > 0
        yield noted(
            verdict=Verdict.WARNS if bad else Verdict.NOTES,
            value=kva,
            unit="kVA",
            quantity="export",
            text=f"{phase}: permission to export is {permission.state}; nothing may be exported until it "
            "is granted.",
            **resting_on(figure, PAPERS),
            advice="Ask for it with the parallel running.",
            cures=cure("Export nothing until it is granted", "limits/export_kw", 0.0) if bad else (),
        )


def _cures(record: PermitOnPhase) -> tuple[Remedy, ...]:
    wanted = max(record.registered_kva, record.permission.expanded_kva.value or 0.0)
    cures = _ask(record, wanted) if (record.permission.asked_kva.value or 0.0) < wanted else ()
    if record.smaller is not None:
        sheet, words, unit = record.smaller
        cures += cure(f"Take {words}", f"units/{unit}/sheet", sheet)
    return cures


def _told(words: str, field: str, kva: float, note: str) -> tuple[Remedy, ...]:
    fact = {"value": round(kva, 3), "known": "told", "note": note, "date": ""}
    return cure(words, f"site/permission/{field}", fact)


def _ask(record: PermitOnPhase, kva: float) -> tuple[Remedy, ...]:
    words = f"Note that {text_of(kva, 'kVA')}{' a phase' if record.legs == 1 else ''} is asked for"
    return _told(words, "asked_kva", kva, "to be asked for")


def _asked(record: PermitOnPhase, figure: Words, needs: bool) -> Findings:
    """What was asked for against what stands there and what the expanded system comes to."""
    permission, kva = record.permission, record.registered_kva
    expanded, asked = permission.expanded_kva.value, permission.asked_kva.value
    wanted = max(kva, expanded or 0.0)
    if not needs and (expanded is None or expanded <= kva):
        return
    figure = resting_on(figure, PAPERS)
    if asked is not None and asked < wanted * (1 - 1e-9):
        yield noted(
            verdict=Verdict.WARNS,
            value=kva,
            unit="kVA",
            limit=wanted,
            margin=asked - wanted,
            quantity="asked",
            text=f"{record.phase}: {text_of(asked, 'kVA')} was asked for; the expanded system comes to "
            f"{text_of(wanted, 'kVA')}.",
            **figure,
            cures=_ask(record, wanted),
            advice="Ask once, for what it will come to.",
        )
    elif expanded is None and permission.parallel_state != "granted":
        yield noted(
            value=kva,
            unit="kVA",
            quantity="asked",
            **figure,
            text=f"{record.phase}: what the expanded system will need isn't noted; a second request costs "
            "a second wait.",
            cures=_told("Note that it stays as it is", "expanded_kva", kva, "no expansion planned"),
        )


@dataclass(frozen=True)
class Papers:
    """Permits beside the operator's, and limits that hold until a date."""

    site: Site
    import_setting_kw: float
    export_setting_kw: float
    nominal: PackValue
    phases: int


@check("SITE-PERMIT", "papers", station="site", rests_on="papers of the site")
def site_papers(record: Papers) -> Findings:
    """How do the other permits stand, and are limits kept that hold until a date?"""
    yield from (_permit(permit) for permit in record.site.permits if permit.needed)
    yield from (_interim(limit, record) for limit in record.site.interim if not limit.lifted)


def _permit(permit: Permit) -> Finding:
    words, state = WORDS[permit.kind], permit.state
    date, note = f", {permit.date}" if permit.date else "", f", {permit.note}" if permit.note else ""
    aim = f" to {text_of(permit.value, 'A', 0)}" if permit.value else ""
    lost = Verdict.NOTES if permit.kind == "inspection" else Verdict.BLOCKS
    bad = {"refused": lost, "expired": lost}
    return one_of(
        word=state,
        bad=bad if state in bad or state == "granted" else {state: Verdict.NOTES},
        value=float(state == "granted"),
        text=f"{words}{aim}: {state}{date}{note}.",
        name=words,
        formula="state of the permit",
        source=PAPERS,
        subjects=(permit.id,),
        inputs=(
            Input("state", state),
            Input("date", permit.date or "none"),
            Input("note", permit.note or "none"),
        ),
        because=("its date is unknown",) if not permit.date and state != "not asked" else (),
        advice="" if state == "granted" else "Ask for it, note the date, and plan the visit after it.",
    )


def _interim(interim: Interim, record: Papers) -> Finding:
    """A limit that holds until a date, against the setting that must keep it meanwhile."""
    what, value, unit = interim.what, interim.value, interim.unit
    until = f"until {interim.until}" if interim.until else "until it is lifted"
    undated = () if interim.until else ("no date is noted",)
    held = Input("until", interim.until or "open")
    if what == "generation":
        return noted(
            text=f"Generation is held to {text_of(value, 'kVA')} {until}.",
            value=value,
            unit="kVA",
            name="Generation meanwhile",
            formula="noted limit",
            inputs=(held,),
            source=PAPERS,
            because=undated,
            subjects=(interim.id,),
        )
    word, field, setting, most = "Export", "export_kw", record.export_setting_kw, value
    if what == "main fuse":
        word, field, setting = "Import", "import_kw", record.import_setting_kw
        most = value * record.nominal.value * record.phases / 1000
    floor = int(most * 100) / 100
    return at_most(
        value=setting,
        limit=most,
        unit="kW",
        name=f"{word} setting meanwhile",
        subjects=(interim.id,),
        text=f"{what[0].upper()}{what[1:]} {text_of(value, unit)} {until}: {word.lower()} is set to "
        f"{text_of(setting, 'kW')}, at most {text_of(most, 'kW')} meanwhile.",
        formula="setting against the limit that holds for now",
        because=undated,
        source=PAPERS,
        inputs=(Input(what, value, unit, interim.note), held),
        cures=cure(f"Set the {word.lower()} limit to {text_of(floor, 'kW')}", f"limits/{field}", floor),
        advice="Keep the smaller limit until then.",
    )
