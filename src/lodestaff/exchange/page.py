"""The job's page as PDF: split, diagram, settings, findings with sources, cautions."""

from __future__ import annotations

import io
from datetime import date
from functools import cache
from importlib import resources
from typing import TYPE_CHECKING, Any
from xml.sax.saxutils import escape

from lodestaff import __version__
from lodestaff.exchange.figure import diagram_flowable
from lodestaff.exchange.looks import SOURCE_INK, SOURCE_ORDER, VERDICT_INK
from lodestaff.job import Job, Role
from lodestaff.quantities import text_of
from lodestaff.quantities.units import clock
from lodestaff.reckoning import Moment, Reckoner
from lodestaff.reckoning.findings import findings
from lodestaff.reckoning.records.array import string_limits
from lodestaff.wiring import draw

if TYPE_CHECKING:
    from reportlab.platypus import Flowable

FONTS = {"B612": "B612-Regular.ttf", "B612-Bold": "B612-Bold.ttf"}
STATE_CAUTION = {"bypass": "bypass", "all off": "all_off"}


@cache
def register_fonts() -> None:
    """Embed the shipped fonts; without them a PDF would rest on what the reader's machine has."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for name, file in FONTS.items():
        raw = (resources.files("lodestaff") / "assets" / "fonts" / file).read_bytes()
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(raw)))
    pdfmetrics.registerFontFamily("B612", normal="B612", bold="B612-Bold", italic="B612", boldItalic="B612-Bold")


def page(reckoner: Reckoner, job: Job, printed: date) -> bytes:
    """The page as PDF bytes, A4."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.units import mm
    from reportlab.platypus import SimpleDocTemplate

    register_fonts()
    styles = _styles()
    story: list[Flowable] = []
    story += _head(job, printed, styles)
    story += _year(reckoner, job, styles)
    story += _split(reckoner, job, styles)
    story += _diagram(reckoner, job, styles)
    story += _strings(job, styles)
    story += _cables(job, styles)
    story += _settings(job, styles)
    story += _findings(reckoner, job, styles)
    story += _cautions(job, styles)
    buffer = io.BytesIO()
    document = SimpleDocTemplate(
        buffer,
        pagesize=A4,
        leftMargin=18 * mm,
        rightMargin=18 * mm,
        topMargin=16 * mm,
        bottomMargin=20 * mm,
        title=job.title,
        author="Lodestaff",
        subject="Backup split, wiring and settings",
        invariant=1,
    )

    def foot(canvas: Any, _document: Any) -> None:
        canvas.saveState()
        canvas.setFont("B612", 7)
        canvas.drawString(18 * mm, 12 * mm, job.pack.cautions["licence"])
        canvas.drawString(
            18 * mm, 9 * mm, f"{job.title}, {printed.isoformat()}, pack {job.pack.edition}, Lodestaff {__version__}"
        )
        canvas.drawRightString(192 * mm, 9 * mm, f"page {canvas.getPageNumber()}")
        canvas.restoreState()

    document.build(story, onFirstPage=foot, onLaterPages=foot)
    return buffer.getvalue()


def _styles() -> dict[str, Any]:
    from reportlab.lib.colors import HexColor
    from reportlab.lib.styles import ParagraphStyle

    body = ParagraphStyle("body", fontName="B612", fontSize=8.5, leading=11.5, textColor=HexColor("#1B232E"))
    return {
        "body": body,
        "small": ParagraphStyle("small", body, fontSize=7.2, leading=9.6, textColor=HexColor("#4A5260")),
        "title": ParagraphStyle("title", body, fontName="B612-Bold", fontSize=16, leading=20),
        "head": ParagraphStyle(
            "head", body, fontName="B612-Bold", fontSize=10.5, leading=14, spaceBefore=9, spaceAfter=3
        ),
    }


def _paragraph(text: str, style: Any) -> Flowable:
    from reportlab.platypus import Paragraph

    return Paragraph(text, style)


def _table(
    rows: list[list[Any]], widths: list[float], styles: dict[str, Any], numbers: tuple[int, ...] = ()
) -> Flowable:
    from reportlab.lib.colors import HexColor
    from reportlab.lib.units import mm
    from reportlab.platypus import Table, TableStyle

    cells = [
        [cell if not isinstance(cell, str) else _paragraph(escape(cell), styles["body"]) for cell in row]
        for row in rows[1:]
    ]
    head = [_paragraph(f"<b>{escape(cell)}</b>", styles["small"]) for cell in rows[0]]
    table = Table([head, *cells], [width * mm for width in widths], repeatRows=1)
    look: list[Any] = [
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, 0), 0.7, HexColor("#1B232E")),
        ("LINEBELOW", (0, 1), (-1, -1), 0.25, HexColor("#CFCABC")),
        ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
    ]
    table.setStyle(TableStyle(look + [("ALIGN", (column, 0), (column, -1), "RIGHT") for column in numbers]))
    return table


def _head(job: Job, printed: date, styles: dict[str, Any]) -> list[Flowable]:
    supply = job.site.supply
    known = ", ".join(
        f"{name} {text_of(fact.value, unit) if fact.value is not None else 'unknown'} ({fact.words()})"
        for name, fact, unit in (
            ("service rating", supply.rating_a, "A"),
            ("voltage", supply.voltage_v, "V"),
            ("Ze", supply.ze_ohm, "ohm"),
        )
    )
    return [
        _paragraph(escape(job.title), styles["title"]),
        _paragraph(
            escape(
                f"{job.site.place}. {supply.earthing.value or 'Earthing unknown'} supply on {', '.join(job.site.phases)}; {known}."
            ),
            styles["body"],
        ),
        _paragraph(
            escape(f"Rules: {job.pack.title}, edition {job.pack.edition}. Printed {printed.isoformat()}."),
            styles["small"],
        ),
    ]


def _year(reckoner: Reckoner, job: Job, styles: dict[str, Any]) -> list[Flowable]:
    f = reckoner.figures(job)
    money = job.tariff.currency
    rows = [
        ["A year", "", "", ""],
        ["Produced", text_of(f.pv_kwh, "kWh", 0), "Bill", f"{f.bill:,.0f} {money}"],
        [
            "Taken by the circuits",
            text_of(f.load_kwh, "kWh", 0),
            "Without array and battery",
            f"{f.money.without:,.0f} {money}",
        ],
        ["Imported", text_of(f.import_kwh, "kWh", 0), "Own sun used on site", f"{f.self_consumption * 100:.0f} %"],
        ["Exported", text_of(f.export_kwh, "kWh", 0), "Met without import", f"{f.self_sufficiency * 100:.0f} %"],
        ["Curtailed", text_of(f.curtailed_kwh, "kWh", 0), "Battery cycles", f"{f.cycles:.0f}"],
    ]
    return [
        _paragraph("The year, simulated at 15 minutes", styles["head"]),
        _table(rows, [45, 35, 55, 35], styles),
        _paragraph(
            escape(
                f"Weather: {reckoner.weather(job).source}, a typical year and no record; results of one year differ."
            ),
            styles["small"],
        ),
    ]


def _split(reckoner: Reckoner, job: Job, styles: dict[str, Any]) -> list[Flowable]:
    rows = [["Circuit", "In an outage", "Phase", "Runs", "Starts", "A year", "Known"]]
    for role in (Role.HELD, Role.SHED, Role.GRID, Role.LOCKED):
        for c in sorted(job.with_role(role), key=lambda c: -c.running_w):
            starts = text_of(c.start_kva, "kVA") if c.start_kva > c.running_kva else "-"
            rows.append(
                [
                    c.name,
                    str(role),
                    c.phase,
                    text_of(c.running_w / 1000, "kW"),
                    starts,
                    text_of(c.kwh_year, "kWh", 0),
                    c.known.words(),
                ]
            )
    story = [_paragraph("The split", styles["head"]), _table(rows, [46, 23, 14, 20, 22, 25, 24], styles)]
    moment = Moment(month=1, hour=18.0, grid=False)
    for unit in job.units:
        if job.bank_of(unit) is None:
            continue
        outage = reckoner.outage(job, unit, moment)
        ends = {
            "held": "the end of the week that was followed",
            "energy": "an empty battery",
            "overload": "an overload",
            "start": "a start the unit can't give",
        }
        story.append(
            _paragraph(
                escape(
                    f"An outage at {moment.words} on a middling day lasts {text_of(outage.hours, 'h')} on {unit.name}, ended by {ends[outage.reason]}. "
                    f"Shed-first circuits drop at {job.limits.shed_soc * 100:.0f} % or when the unit is overloaded."
                ),
                styles["body"],
            )
        )
    return story


def _diagram(reckoner: Reckoner, job: Job, styles: dict[str, Any]) -> list[Flowable]:
    from reportlab.lib.units import mm
    from reportlab.platypus import KeepTogether

    wiring = reckoner.wiring(job)
    grid = wiring.answers[0]
    drawing = draw(wiring.topology, grid.positions)
    key = "  ".join(f"<font color='{SOURCE_INK[kind]}'>{kind}</font>" for kind in SOURCE_ORDER)
    rows = [["State", "Live conductors", "Circuits fed", "Bonds in each live neutral network", "Still live from"]]
    for found in wiring.answers:
        fed = sum(bool(sources) for sources in found.fed.values())
        live = found.still_live()
        bonds = "; ".join("+".join(network.bonds) or "none" for network in found.networks) or "-"
        sources = sorted(set().union(*(found.live[name] for name in live)) if live else set())
        rows.append(
            [
                found.state.name,
                f"{len(live)} of {len(found.live)}",
                f"{fed} of {len(found.fed)}",
                bonds,
                ", ".join(sources) or "nothing",
            ]
        )
    cautions = [
        _paragraph(escape(f"{state.capitalize()}: {job.pack.cautions[name]}"), styles["body"])
        for state, name in STATE_CAUTION.items()
    ]
    return [
        KeepTogether(
            [
                _paragraph("The diagram, grid present", styles["head"]),
                _paragraph(f"A conductor carries a line for each source it is live from: {key}.", styles["small"]),
                diagram_flowable(drawing, grid, 174 * mm),
            ]
        ),
        _paragraph("Switching states", styles["head"]),
        _table(rows, [18, 26, 24, 72, 34], styles),
        *cautions,
    ]


def _strings(job: Job, styles: dict[str, Any]) -> list[Flowable]:
    rows = [["String", "Tracker", "Modules", "Cold open circuit", "Works between", "Module"]]
    for string in job.strings:
        found = string_limits(job, string)
        if found is None:
            continue
        volts, _ = found
        parts = job.modules_in(string.id)
        count = sum(n for _, n in parts)
        places = ", ".join(f"{n} {face.name}" for face, n in parts)
        span = f"{count * volts.vmp_hot_v:.0f} to {count * volts.vmp_cold_v:.0f} V"
        sheet = job.sheets.modules[parts[0][0].module]
        rows.append([string.name, string.tracker, places, text_of(count * volts.voc_cold_v, "V"), span, sheet.name])
    low, high = job.site.record_low_c, job.site.record_high_c
    words = f"Record low {low.value if low.value is not None else 'unknown'} °C ({low.words()}), record high {high.value if high.value is not None else 'unknown'} °C ({high.words()})."
    return [
        _paragraph("Strings", styles["head"]),
        _table(rows, [16, 18, 40, 34, 34, 32], styles),
        _paragraph(escape(words), styles["small"]),
    ]


def _cables(job: Job, styles: dict[str, Any]) -> list[Flowable]:
    if not job.cables:
        return []
    rows = [["Run", "Size", "Length", "Table", "Device", "PE", "Residual current"]]
    for cable in job.cables:
        device = f"{cable.curve or ''}{cable.device_a:g} A" if cable.device_a else "-"
        pe = f"{cable.cpc_mm2:g} mm²" if cable.cpc_mm2 else "-"
        rcd = f"{cable.rcd_ma:g} mA" if cable.rcd_ma else "-"
        rows.append(
            [
                cable.id.replace("-", " "),
                f"{cable.size_mm2:g} mm²",
                f"{cable.length_m:g} m",
                cable.table,
                device,
                pe,
                rcd,
            ]
        )
    return [_paragraph("Runs of cable", styles["head"]), _table(rows, [40, 20, 20, 28, 22, 20, 24], styles)]


def _settings(job: Job, styles: dict[str, Any]) -> list[Flowable]:
    limits = job.limits
    rows = [
        ["Setting", "Value", "Meaning"],
        ["Reserve", f"{limits.reserve_soc * 100:.0f} %", "kept for outages; share of rated capacity"],
        [
            "Export limit",
            text_of(limits.export_kw, "kW"),
            f"at the supply; {job.pack.word('permission')} {job.site.permission.state}",
        ],
        ["Import limit", text_of(limits.import_kw, "kW"), "charging yields to it"],
        ["Charge limit", text_of(limits.charge_kw, "kW"), "at the battery's DC bus"],
        ["Discharge limit", text_of(limits.discharge_kw, "kW"), "at the battery's DC bus"],
        ["Shed level", f"{limits.shed_soc * 100:.0f} %", "shed-first circuits drop here in an outage"],
    ]
    for window in limits.windows:
        rows.append(
            [
                f"Charge window {window.id}",
                f"{clock(window.start_h)} to {clock(window.end_h)}",
                f"to {window.target_soc * 100:.0f} % at {text_of(window.power_kw, 'kW')}, by the {limits.device_clock} clock",
            ]
        )
    return [_paragraph("Settings", styles["head"]), _table(rows, [45, 40, 89], styles)]


def _findings(reckoner: Reckoner, job: Job, styles: dict[str, Any]) -> list[Flowable]:
    rows: list[list[Any]] = [["Check", "Verdict", "Finding, working and source"]]
    for found in findings(reckoner, job):
        status = found.status
        mark = _paragraph(f"<font color='{VERDICT_INK[status]}'><b>{status}</b></font>", styles["body"])
        figure = found.figure
        limit = (
            ""
            if found.limit is None
            else f" Limit {text_of(found.limit, figure.unit)}, margin {text_of(found.margin or 0, figure.unit)}."
        )
        because = f" Open: {', '.join(found.open_because)}." if found.open else ""
        source = f" Limit from {found.limit_source}." if found.limit_source else ""
        working = f"{figure.name}: {text_of(figure.value, figure.unit)} = {figure.formula} [{figure.source}].{limit}{source}{because}"
        text = f"{escape(found.text)}<br/><font size='7' color='#4A5260'>{escape(working)}</font>"
        rows.append([found.code, mark, _paragraph(text, styles["body"])])
    return [_paragraph("Findings", styles["head"]), _table(rows, [27, 17, 130], styles)]


def _cautions(job: Job, styles: dict[str, Any]) -> list[Flowable]:
    used = ["prove_dead", "live_in_daylight", "bypass", "all_off", "cutout", "not_emergency"]
    if job.banks:
        used.append("battery")
    if job.site.supply.earthing.value == "TN-C-S":
        used.append("tncs")
    lines = [_paragraph(f"• {escape(job.pack.cautions[name])}", styles["body"]) for name in used]
    return [_paragraph("Cautions", styles["head"]), *lines]
