"""What may run, and on which paper: SITE-PERMIT, by phase, now and for the expanded system, and the other permits."""

from dataclasses import dataclass

from lodestaff.catalogue import PackValue
from lodestaff.checks.finding import Finding, Remedy, Verdict, soft
from lodestaff.electrical import permission as rights
from lodestaff.job import Change, Interim, Permit, Site
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

PAPERS = Source("the papers of the site", Provenance.JOB)
BAD = ("refused", "expired")


@dataclass(frozen=True)
class PermitOnPhase:
    """Registered generation of one phase against the notify limit and the permission.

    `units` are converters with their kVA on the phase, those of existing devices among them. `smaller` is a sheet of
    the job that would fit: its id, words, and the unit that would take it.
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
    def notify_kva(self) -> float:
        return self.notify_a.value * self.nominal.value * self.legs / 1000


@dataclass(frozen=True)
class Papers:
    """Permits beside the operator's, and limits that hold until a date."""

    site: Site
    import_setting_kw: float
    export_setting_kw: float
    nominal: PackValue
    phases: int
    operator_word: str


def may_run(record: PermitOnPhase) -> tuple[bool, str]:
    """Whether this generation may run in parallel today, and how, in words."""
    runs, words = rights.may_run(record.site.permission, record.registered_kva, record.notify_kva)
    if not runs and record.island:
        words += "; on its island only"
    return runs, words


def site_permit(record: PermitOnPhase | Papers) -> list[Finding]:
    """Generation per phase against connect-and-notify or the permission held; what may run today; other papers."""
    return _papers(record) if isinstance(record, Papers) else _phase(record)


def _phase(record: PermitOnPhase) -> list[Finding]:
    permission = record.site.permission
    notify_kva = record.notify_kva
    held = permission.parallel_state in ("granted", "granted without export")
    allowed = max(notify_kva, permission.parallel_kva.value or 0.0) if held else notify_kva
    figure = Figure(
        f"Registered generation on {record.phase}", record.registered_kva, "kVA", "sum of the ratings of units on the phase",
        (*(Input(name, kva, "kVA") for name, kva in record.units),
         Input("notify only", notify_kva, "kVA", record.notify_a.source),
         Input("asked of the operator", permission.asked_kva.value if permission.asked_kva.value is not None else "nothing yet",
               "kVA", permission.asked_kva.words())),
        record.notify_a.cite(), "A zero-export setting doesn't replace permission to run in parallel.",
    )  # fmt: skip
    over = record.registered_kva > allowed * (1 + 1e-9)
    needs = record.registered_kva > notify_kva * (1 + 1e-9)
    because = soft(permitted_generation=permission.parallel_kva) if needs and held else ()
    date = f" ({permission.parallel_date})" if permission.parallel_date else ""
    _, today = may_run(record)
    granted = rights.granted_words(permission, record.registered_kva) if needs else permission.parallel_state
    text = (f"{record.phase}: {text_of(record.registered_kva, 'kVA')} registered; notify-only up to "
            f"{text_of(notify_kva, 'kVA')}; {record.permission_word} {granted}{date}; {today}.")  # fmt: skip
    findings = [
        Finding("SITE-PERMIT", Verdict.BLOCKS if over else Verdict.PASSED, text, figure, allowed,
                allowed - record.registered_kva, figure.source, because, _cures(record) if over else (),
                "Ask for what the expanded system will need; wait for it, or take a smaller unit.")
    ]  # fmt: skip
    findings += _asked(record, figure, needs)
    if permission.state != "granted":
        remedy = (Remedy("Export nothing until it is granted", (Change("limits/export_kw", 0.0),)),)
        bad = record.export_setting_kw > 0
        findings.append(
            Finding("SITE-PERMIT", Verdict.WARNS if bad else Verdict.NOTES,
                    f"{record.phase}: permission to export is {permission.state}; nothing may be exported until it is granted.",
                    figure, None, None, PAPERS, (), remedy if bad else (), "Ask for it with the parallel running.")
        )  # fmt: skip
    return findings


def _cures(record: PermitOnPhase) -> tuple[Remedy, ...]:
    cures = []
    asked = record.site.permission.asked_kva.value or 0.0
    wanted = max(record.registered_kva, record.site.permission.expanded_kva.value or 0.0)
    if asked < wanted:
        cures.append(_ask(record, wanted))
    if record.smaller is not None:
        sheet, words, unit = record.smaller
        cures.append(Remedy(f"Take {words}", (Change(f"units/{unit}/sheet", sheet),)))
    return tuple(cures)


def _ask(record: PermitOnPhase, kva: float) -> Remedy:
    path = "site/permission/asked_kva"
    fact = {"value": round(kva, 3), "known": "told", "note": "to be asked for", "date": ""}
    return Remedy(
        f"Note that {text_of(kva, 'kVA')}{' a phase' if record.legs == 1 else ''} is asked for", (Change(path, fact),)
    )


def _asked(record: PermitOnPhase, figure: Figure, needs: bool) -> list[Finding]:
    """What was asked for against what stands there and what the expanded system comes to."""
    permission = record.site.permission
    expanded, asked = permission.expanded_kva.value, permission.asked_kva.value
    wanted = max(record.registered_kva, expanded or 0.0)
    if not needs and (expanded is None or expanded <= record.registered_kva):
        return []
    if asked is not None and asked < wanted * (1 - 1e-9):
        text = f"{record.phase}: {text_of(asked, 'kVA')} was asked for; the expanded system comes to {text_of(wanted, 'kVA')}."
        return [Finding("SITE-PERMIT", Verdict.WARNS, text, figure, wanted, asked - wanted, PAPERS, (), (_ask(record, wanted),),
                        "Ask once, for what it will come to.")]  # fmt: skip
    if expanded is None and permission.parallel_state != "granted":
        text = f"{record.phase}: what the expanded system will need isn't noted; a second request costs a second wait."
        fact = {"value": round(record.registered_kva, 3), "known": "told", "note": "no expansion planned", "date": ""}
        remedy = Remedy("Note that it stays as it is", (Change("site/permission/expanded_kva", fact),))
        return [Finding("SITE-PERMIT", Verdict.NOTES, text, figure, None, None, PAPERS, (), (remedy,))]
    return []


def _papers(record: Papers) -> list[Finding]:
    found = [_permit(one) for one in record.site.permits if one.needed]
    found += [_interim(one, record) for one in record.site.interim if not one.lifted]
    return found


def _permit(one: Permit) -> Finding:
    words = {"main fuse": "Raising the main fuse", "seal": "Breaking the seal", "consent": "Planning or building consent",
             "inspection": "Inspection"}[one.kind]  # fmt: skip
    date = f", {one.date}" if one.date else ""
    aim = f" to {text_of(one.value, 'A', 0)}" if one.value else ""
    granted = one.state == "granted"
    figure = Figure(words, float(granted), "", "state of the permit", (Input("state", one.state), Input("date", one.date or "none"),
                    Input("note", one.note or "none")), PAPERS)  # fmt: skip
    verdict = (
        Verdict.PASSED
        if granted
        else Verdict.BLOCKS
        if one.state in BAD and one.kind != "inspection"
        else Verdict.NOTES
    )
    undated = ("its date is unknown",) if not one.date and one.state != "not asked" else ()
    advice = "" if granted else "Ask for it, note the date, and plan the visit after it."
    return Finding("SITE-PERMIT", verdict, f"{words}{aim}: {one.state}{date}{f', {one.note}' if one.note else ''}.", figure,
                   None, None, PAPERS, undated, (), advice, (one.id,))  # fmt: skip


def _interim(one: Interim, record: Papers) -> Finding:
    """A limit that holds until a date, against the setting that must keep it meanwhile."""
    until = f"until {one.until}" if one.until else "until it is lifted"
    if one.what == "generation":
        figure = Figure(
            "Generation meanwhile", one.value, "kVA", "noted limit", (Input("until", one.until or "open"),), PAPERS
        )
        return Finding("SITE-PERMIT", Verdict.NOTES, f"Generation is held to {text_of(one.value, 'kVA')} {until}.", figure,
                       None, None, PAPERS, () if one.until else ("no date is noted",), (), "", (one.id,))  # fmt: skip
    fuse = one.what == "main fuse"
    most = one.value * record.nominal.value * record.phases / 1000 if fuse else one.value
    setting = record.import_setting_kw if fuse else record.export_setting_kw
    path = "limits/import_kw" if fuse else "limits/export_kw"
    word = "Import" if fuse else "Export"
    figure = Figure(f"{word} setting meanwhile", setting, "kW", "setting against the limit that holds for now",
                    (Input(one.what, one.value, one.unit, one.note), Input("until", one.until or "open")), PAPERS)  # fmt: skip
    over = setting > most * (1 + 1e-9)
    floor = int(most * 100) / 100
    text = f"{one.what[0].upper()}{one.what[1:]} {text_of(one.value, one.unit)} {until}: {word.lower()} is set to {text_of(setting, 'kW')}, at most {text_of(most, 'kW')} meanwhile."
    cure = (Remedy(f"Set the {word.lower()} limit to {text_of(floor, 'kW')}", (Change(path, floor),)),) if over else ()
    return Finding("SITE-PERMIT", Verdict.BLOCKS if over else Verdict.PASSED, text, figure, most, most - setting, PAPERS,
                   () if one.until else ("no date is noted",), cure, "Keep the smaller limit until then.", (one.id,))  # fmt: skip
